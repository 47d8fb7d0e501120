"""Pictures as functions: elements are looked for, not strings."""

import datetime as dt
from xml.etree import ElementTree as Tree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.season.calendar import DaySpan
from backsquat.core.season.trend import Point, theil_sen
from backsquat.core.strength.estimate import Trust
from backsquat.ui.drawing.bar import Plate, draw_bar
from backsquat.ui.drawing.kit import Scale, node, split_load, ticks
from backsquat.ui.drawing.paired import Pair, draw_pairs
from backsquat.ui.drawing.rail import Rail, RailBlock, draw_rail
from backsquat.ui.drawing.stair import draw_stair
from backsquat.ui.drawing.trend import TrendPicture, TrendPoint, draw_trend

SEASON = DaySpan(dt.date(2026, 7, 6), 40)
TODAY = dt.date(2026, 11, 23)
EVIL = '<b onload="x">&'


def elements(picture: str, tag: str, class_: str = "") -> list[Tree.Element]:
    root = Tree.fromstring(picture)
    return [e for e in root.iter(tag) if not class_ or class_ in (e.get("class") or "").split()]


def a_rail(**changes: object) -> Rail:
    deload = frozenset({dt.date(2026, 8, 3)})
    block = RailBlock("Base", dt.date(2026, 7, 13), 8, True, deload)
    values = {
        "season": SEASON,
        "today": TODAY,
        "chosen": TODAY,
        "blocks": (block,),
        "matches": ((dt.date(2026, 11, 28), True),),
    }
    return Rail(**(values | changes))  # type: ignore[arg-type]


def test_every_week_of_the_rail_is_a_link_that_says_what_it_is() -> None:
    links = elements(draw_rail(a_rail(), "/?week=WEEK"), "a")
    assert len(links) == 40
    assert links[0].get("href") == "/?week=2026-07-06"
    named = {link.get("aria-label") for link in links}
    assert "Week 21, from 23 Nov · match on Sat 28 Nov · this week" in named
    assert "Week 5, from 3 Aug · Base, week 4, deload" in named


def test_deload_weeks_and_drafts_are_hollow_and_today_is_open() -> None:
    picture = draw_rail(a_rail(), "WEEK")
    assert len(elements(picture, "rect", "rail-hollow")) == 1
    assert len(elements(picture, "rect", "rail-band")) == 7
    assert len(elements(picture, "line", "rail-line")) == 2  # a gap where today is
    draft = RailBlock("Base", dt.date(2026, 7, 13), 8, False, frozenset())
    assert len(elements(draw_rail(a_rail(blocks=(draft,)), "WEEK"), "rect", "rail-hollow")) == 8


def test_a_window_of_the_rail_keeps_the_numbers_of_the_season() -> None:
    narrow = a_rail().window(13)
    assert narrow.season.weeks == 13 and TODAY in narrow.season
    captions = elements(draw_rail(narrow, "WEEK"), "text", "rail-caption")
    assert captions[0].text == "Week 21 · 23 Nov · now"
    assert a_rail(chosen=SEASON.last_week).window(13).season.last_week == SEASON.last_week


def test_the_bar_shows_each_plate_with_its_number_heavier_ones_wider() -> None:
    picture = draw_bar("20 kg", [Plate("25", 25, 450), Plate("1.25", 1.25, 160)], "72.5 kg")
    plates, numbers = elements(picture, "rect", "bar-plate"), elements(picture, "text", "bar-number")
    assert [number.text for number in numbers] == ["25", "1.25"]
    assert float(plates[0].get("height") or 0) > float(plates[1].get("height") or 0)
    assert Tree.fromstring(picture).get("aria-label") == "72.5 kg: each side 25 + 1.25"
    assert "no plates" in draw_bar("20 kg", [], "20 kg")


def test_what_people_typed_is_escaped_in_pictures() -> None:
    block = RailBlock(EVIL, dt.date(2026, 7, 13), 8, True, frozenset())
    for picture in (draw_rail(a_rail(blocks=(block,)), "WEEK"), draw_bar(EVIL, [Plate(EVIL, 1, 100)], EVIL)):
        assert "<b " not in picture
        Tree.fromstring(picture)


def test_a_stair_has_a_piece_for_every_week_with_a_load() -> None:
    pieces = draw_stair([90, 95, None, 85])
    assert [bool(piece) for piece in pieces] == [True, True, False, True]
    assert draw_stair([None, None]) == ["", ""]
    assert all(draw_stair([60, 60, 60]))


@pytest.mark.parametrize("points", [0, 1, 12])
def test_a_trend_with_any_number_of_points(points: int) -> None:
    weeks = [SEASON.first_week + dt.timedelta(weeks=n) for n in range(points)]
    shown = [TrendPoint(week, 100 + n, Trust.GOOD, at_least=n == 3) for n, week in enumerate(weeks)]
    trend = theil_sen([Point(point.on, point.kg) for point in shown], 0.8)
    picture = draw_trend(TrendPicture("Squat", SEASON, TODAY, TODAY, shown, trend, 130, dt.date(2027, 2, 6)))
    assert len(elements(picture, "circle")) == points
    assert len(elements(picture, "circle", "is-at-least")) == (points > 3)
    assert bool(elements(picture, "path", "chart-range")) is (trend is not None)
    assert elements(picture, "line", "chart-target")


def test_planned_and_done_stand_in_pairs() -> None:
    pairs = [
        Pair(week, 2000, done, False, "words") for week, done in zip(list(SEASON)[:3], (2000, 0, 900), strict=True)
    ]
    picture = draw_pairs("Planned against done", SEASON, TODAY, pairs)
    assert len(elements(picture, "rect", "pair-planned")) == len(elements(picture, "rect", "pair-done")) == 3
    assert draw_pairs("nothing", SEASON, TODAY, [])


@given(st.floats(-1000, 1000), st.floats(0.1, 1000), st.integers(2, 10))
def test_ticks_are_few_and_inside(low: float, width: float, most: int) -> None:
    found = ticks(low, low + width, most)
    assert len(found) <= most
    assert all(low - 1e-6 <= tick <= low + width + 1e-6 for tick in found)


def test_small_pieces() -> None:
    assert Scale(0, 10, 100, 200)(5) == 150
    assert Scale(3, 3, 0, 10)(3) == 5
    assert node("rect", class_="a", stroke_width=2, rx=None).attrib == {"class": "a", "stroke-width": "2"}
    assert split_load("107.5") == "107<small>.5</small>"
    assert split_load("100") == "100"
    assert "<script>" not in split_load("<script>.5")
