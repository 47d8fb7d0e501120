"""Faults that were found by using it, as the shortest story of each: every one of them broke once."""

import datetime as dt
import random
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import select

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from backsquat.storage.models import Cell, Change, Exercise, Match, SetEntry
from tests.walk import laws
from tests.walk.forms import Form, filled, forms_in
from tests.walk.people import Company, Step, from_nothing
from tests.walk.walking import after, look_at_everything, told

LIST = "Name;Born;Consent;Body mass;Back squat\nUna Vale;2000-02-01;;58;100x5@8\nOla Fane;2001-05-06;;72;60x8@7"


@pytest.fixture
def company(tmp_path: Path) -> Iterator[Company]:
    """A squad of two from nothing, both let near the bar, in the room of the first seed."""
    app = create_app(Config(tmp_path, demo=True, testing=True, fixed_day=DEMO_DAY, hash_cost=1))
    app.config["WTF_CSRF_ENABLED"] = False
    found = from_nothing(app, 3)
    form = form_to(found, found.do(Step("coach", "/import/", {"pasted": [LIST]})), "/import/look")
    sent = as_it_stands(form)
    found.do(Step("coach", form.path, sent | {"act": ["store"]}))
    assert found.status == 302
    for athlete in (1, 2):
        for readiness_check in ("barbell", "pull", "thrust"):
            found.do(
                Step(
                    "coach",
                    f"/ladders/{athlete}/override",
                    {"readiness_check": [readiness_check], "reason": ["seen lifting soundly"]},
                )
            )
    yield found
    app.extensions["database"].close()


def as_it_stands(form: Form) -> dict[str, list[str]]:
    return filled(form, random.Random(1), dt.date(2026, 10, 19), wild=0, change=0)


def form_to(company: Company, page: str, path: str) -> Form:
    return next(one for one in forms_in(page) if one.path.startswith(path))


def block(company: Company, *what: tuple[str, str]) -> None:
    """A block on this Monday of these movements and progressions, published."""
    form = {"name": ["First"], "first_week": ["2026-10-19"], "weeks": ["4"]}
    for n, (movement, progression) in enumerate(what):
        form |= {
            f"day_{n}": ["0"],
            f"what_{n}": [movement],
            f"progression_{n}": [progression],
            f"role_{n}": ["main"],
            f"sets_{n}": ["3"],
            f"superset_{n}": [""],
        }
    company.do(Step("coach", "/block/new", form))
    assert company.status == 302, re.findall(r'class="problem[^>]*>([^<]+)', company.page)
    company.do(Step("coach", "/block/1/publish", {}))


def cells(company: Company, movement: str) -> list[Cell]:
    with company.reader() as db:
        of = (
            select(Cell).join(Exercise, Cell.exercise_id == Exercise.id).where(Exercise.movement == movement, Cell.live)
        )
        return list(db.scalars(of.order_by(Cell.athlete_id, Cell.week)))


def a_set(cell: Cell, load: str, **more: str) -> Step:
    sent = {
        "client_id": f"set-{cell.id}-{more.get('n', '1')}",
        "load": load,
        "reps": str(cell.reps),
        "pain_character": "dull",
    } | more
    return Step("assistant", f"/floor/cells/{cell.id}/sets", {name: [value] for name, value in sent.items()})


def test_planning_again_after_the_first_record_of_a_movement_that_had_none(company: Company) -> None:
    block(company, ("Back squat", "wave"), ("Goblet squat", "window"))
    cell = cells(company, "goblet_squat")[0]
    assert cell.state == "work"
    told(company, [a_set(cell, "16", reserve_reps="1", n=str(n)) for n in range(3)])
    assert "a load can be worked out now" in company.get("coach", "/block/1/replan")
    told(company, [Step("coach", "/block/1/replan", {}), Step("coach", "/block/1/replan")])


def test_a_rule_changed_to_a_number_goes_into_the_archive(company: Company) -> None:
    rules = forms_in(company.get("coach", "/rules"), "/rules")
    form = next(one for one in rules if "pain_stop_level" in [field.value for field in one.fields])
    told(company, [Step("coach", form.path, as_it_stands(form) | {"value": ["3"]})])
    assert company.posted == 302
    company.do(Step("coach", "/export/squad.zip", {}))
    assert company.status == 200


def test_a_exercise_that_was_taken_out_is_moved_by_a_page_left_open(company: Company) -> None:
    block(company, ("Back squat", "wave"), ("Calf raise", "window"))
    told(
        company,
        [Step("coach", "/block/exercises/2/out", {}), Step("coach", "/block/exercises/2/move", {"way": ["earlier"]})],
    )
    assert company.status < 500


def test_matches_taken_in_are_taken_back_after_minutes_were_written(company: Company) -> None:
    page = company.do(
        Step("coach", "/import/", {"pasted": ["Date;Opponent;Importance\n2026-10-18;Old Quay;\n2026-10-25;Far Side;"]})
    )
    form = form_to(company, page, "/import/look")
    sent = as_it_stands(form) | {"act": ["store"], "kind": ["matches"]}
    company.do(Step("coach", form.path, sent))
    undo = re.search(r"/undo/\d+", company.page + company.get("coach", "/"))
    with company.reader() as db:
        match = db.scalars(select(Match.id)).first()
    assert match and undo
    company.do(Step("coach", f"/season/matches/{match}/minutes", {"minutes-1": ["55"]}))
    told(company, [Step("coach", undo.group(), {})])
    assert company.posted == 302
    with company.reader() as db:
        assert all(one.dropped for one in db.scalars(select(Match)))


def test_a_log_that_names_an_own_movement_whose_making_was_undone(company: Company) -> None:
    page = company.get("coach", "/movements/new?copy=goblet_squat")
    form = next(one for one in forms_in(page, "/movements/new") if any(f.name == "purpose" for f in one.fields))
    sent = as_it_stands(form)
    company.do(Step("coach", "/movements/new", sent | {"name": ["Our own goblet"], "aliases": [""]}))
    assert company.status == 302, re.findall(r'class="problem[^>]*>([^<]+)', company.page)
    with company.reader() as db:
        undo = f"/undo/{db.scalars(select(Change.id).order_by(Change.id.desc())).first()}"
    block(company, ("Our own goblet", "window"))
    own = next(iter(cells(company, "own_our_own_goblet")))
    told(
        company,
        [
            a_set(own, "16"),
            Step("coach", undo, {}),
            Step("coach", "/athletes/1"),
            Step("coach", "/block/1"),
            Step("coach", "/floor/"),
        ],
    )


def test_days_at_the_end_of_the_calendar_and_numbers_of_five_thousand_digits(company: Company) -> None:
    block(company, ("Back squat", "wave"))
    far, long = "9999-12-31", "7" * 5000
    for path in (
        f"/?week={far}",
        f"/season/?week={far}",
        f"/floor/?lift={long}",
        f"/floor/?athlete={long}",
        f"/block/what-if?idea=match.{far}.",
        f"/export/log.csv?first={far}",
    ):
        company.get("coach", path)
    told(company, [
        Step("coach", "/season/matches", {"played_on": [far]}), Step("coach", "/health-list/1/away", {"first_on": [far], "why": ["away"]}),
        Step("coach", "/squads", {"club": ["a"], "squad": ["b"], "first_on": [far], "weeks": ["60"]}), Step("coach", "/squads/season", {"first_on": [far], "weeks": ["60"]}),
        Step("coach", "/athletes/1/test", {"movement": ["back_squat"], "load": ["80"], "reps": ["5"], "reserve_reps": ["1"], "done_on": [far]}),
    ])  # fmt: skip


def test_undo_from_the_page_of_a_list_leads_somewhere(company: Company) -> None:
    page = company.do(
        Step("coach", "/import/", {"pasted": ["Name;Born;Body mass\nNew One;2001-01-01;70\nBad One;never;70"]})
    )
    form = form_to(company, page, "/import/look")
    sent = as_it_stands(form) | {"act": ["store"]}
    page = company.do(Step("coach", form.path, sent))
    back = form_to(company, page, "/undo/")
    answer = company.clients["coach"].post(
        back.path, data={one.name: one.value for one in back.fields}, follow_redirects=True
    )
    assert answer.status_code == 200


def test_a_plan_with_a_movement_by_its_ladder_opens_what_if(company: Company) -> None:
    block(company, ("Back squat", "wave"), ("Goblet squat", "ladder"))
    assert "What if" in company.get("coach", "/block/what-if") and company.status == 200


def test_four_taps_of_done_after_stay_are_no_reserve(company: Company) -> None:
    """“Stay, looked slow” became six left and up to 90 × 4 a week later, by four taps."""
    block(company, ("Back squat", "wave"))
    first, second = cells(company, "back_squat")[:2]
    for n in range(first.sets):
        after(company, a_set(first, str(first.load_amount), reserve_reps="2", n=str(n)))
    page = company.get("coach", "/review/")
    decision = re.search(r"/review/decisions/(\d+)", page)
    assert decision
    after(company, Step("coach", decision.group(), {"code": ["stay"], "reason": ["looked slow"]}))
    (second,) = (cell for cell in cells(company, "back_squat") if (cell.athlete_id, cell.week) == (first.athlete_id, 1))
    assert (second.load_amount, second.reps) == (first.load_amount, first.reps)
    company.do(Step("coach", "/", hours=24 * 7))
    for _ in range(second.sets):
        form = next(
            one
            for one in forms_in(company.get("assistant", f"/floor/?athlete={second.athlete_id}"))
            if "/sets" in one.path
        )
        after(company, Step("assistant", form.path, {one.name: [one.value] for one in form.fields}))
    with company.reader() as db:
        tapped = db.scalars(select(SetEntry).where(SetEntry.cell_id == second.id)).all()
        third = db.scalars(
            select(Cell).where(
                Cell.exercise_id == second.exercise_id, Cell.athlete_id == second.athlete_id, Cell.week == 2, Cell.live
            )
        ).one()
        assert [one.reserve_reps for one in tapped] == [None] * second.sets
    assert "no RIR said" in company.get("coach", "/review/")
    assert (third.load_kg or 0) <= (first.load_kg or 0) * 1.15
    look_at_everything(company, random.Random(1))


def test_last_time_is_the_same_on_card_and_device_whatever_was_logged_today(company: Company) -> None:
    """A set of the same movement logged elsewhere on the day was "last time" on the card and not on the device."""
    block(company, ("Calf raise", "window"))
    today = company.clock.today()
    for load, ago in (("12", 3), ("20", 0)):
        day = (today - dt.timedelta(days=ago)).isoformat()
        sent = {"movement": ["calf_raise"], "load": [load], "reps": ["8"], "reserve_reps": ["2"], "done_on": [day]}
        company.do(Step("coach", "/athletes/1/test?lift=calf_raise", sent))
        assert company.status in (200, 302)
    laws.card_and_device_say_the_same(company, random.Random(1))
