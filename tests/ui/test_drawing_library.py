"""Pictures of the library and the ladders: elements, not strings."""

import math
import re
from xml.etree import ElementTree as Tree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.movements.movement import Movement
from backsquat.core.movements.pose import FOREARM, SHANK, THIGH, TRUNK, joints
from backsquat.core.readiness.sides import compare
from backsquat.core.rules import Rules
from backsquat.library.shelf import movements, poses
from backsquat.pages.movements.drawing import figure_picture, map_picture
from backsquat.ui.drawing.emphasis import BOTTOM, DOT, LEFT, RIGHT, SKILL, TOP, Dot, draw_map
from backsquat.ui.drawing.figure import draw_figure
from backsquat.ui.drawing.ladder import Level, draw_ladder
from backsquat.ui.drawing.sides import draw_sides

SHIPPED = list(movements().values())


def classes(picture: str, name: str) -> list[Tree.Element]:
    return [element for element in Tree.fromstring(picture).iter() if name in (element.get("class") or "").split()]


@pytest.mark.parametrize("axis", ["skill", "back"])
def test_the_map_shows_every_movement_once_inside_its_ground_and_none_on_another(axis: str) -> None:
    picture = map_picture(SHIPPED, axis, lambda m: m.code == "hack_squat", lambda m: f"/movements/{m.code}")
    dots = classes(picture, "map-dot")
    assert len(dots) == len(SHIPPED) and len(classes(picture, "is-dim")) == 1
    places = []
    for dot in dots:
        circle = dot[1]
        x, y = float(circle.get("cx", 0)), float(circle.get("cy", 0))
        assert LEFT + DOT <= x <= RIGHT - DOT and TOP + DOT <= y <= BOTTOM - DOT, dot.get("aria-label")
        assert all((x - a) ** 2 + (y - b) ** 2 > DOT**2 for a, b in places), f"{dot.get('aria-label')} hides another"
        places.append((x, y))
        assert dot.get("aria-label") and (dot.get("href") or "").startswith("/movements/")


def test_few_dots_carry_their_names() -> None:
    few = map_picture(SHIPPED[:5], "skill", lambda _: False, lambda m: m.code)
    assert len(classes(few, "map-name")) == 5
    many = map_picture(SHIPPED, "skill", lambda _: False, lambda m: m.code)
    assert not classes(many, "map-name")


def test_names_from_people_are_escaped() -> None:
    evil = "<img src=x> & co"
    picture = draw_map([Dot(evil, "S", "squat", 0, 3, "/x?a=1&b=2", named=True)], SKILL)
    assert "<img" not in picture and classes(picture, "map-name")[0].text == evil


@pytest.mark.parametrize("movement", SHIPPED, ids=lambda movement: movement.code)
def test_every_movement_has_a_figure_of_two_bodies(movement: object) -> None:
    picture = figure_picture(movement)  # type: ignore[arg-type]
    assert len(classes(picture, "figure-body")) == len(classes(picture, "figure-head")) == 2
    assert len(classes(picture, "figure-load")) in (0, 2)


@given(st.integers(1, 14), st.data())
def test_a_ladder_has_all_its_levels_and_says_where_somebody_stands(count: int, data: st.DataObject) -> None:
    here = data.draw(st.none() | st.integers(0, count - 1))
    levels = [
        Level(f"level {n}", here == n, here is not None and n < here, n % 3 == 1, n % 3 == 2) for n in range(count)
    ]
    picture = draw_ladder("Test", levels)
    assert len(classes(picture, "ladder-level")) == count
    assert len(classes(picture, "is-here")) == (here is not None)
    assert len(classes(picture, "is-earned")) == (here or 0)
    name = Tree.fromstring(picture).get("aria-label") or ""
    assert (f"level {here}" in name) if here is not None else ("on no level yet" in name)


def test_the_weaker_side_is_marked_and_both_numbers_are_written() -> None:
    rows = [compare("Balance", 20, 40, "s", Rules()), compare("Reach", 60, 61, "cm", Rules())]
    picture = draw_sides(rows)
    assert len(classes(picture, "sides-bar")) == 4 and len(classes(picture, "is-weak")) == 1
    assert {"20 s", "40 s", "60 cm", "61 cm"} <= {element.text for element in Tree.fromstring(picture).iter()}


def length(points: dict[str, tuple[float, float]], one: str, other: str) -> float:
    return math.dist(points[one], points[other])


@pytest.mark.parametrize("movement", movements().values(), ids=lambda movement: movement.code)
def test_a_figure_keeps_its_limbs_and_what_it_stands_on(movement: Movement) -> None:
    """Limbs keep their length and nothing sinks; a box is as high at the end as at the start, and is reached."""
    heights: dict[str, set[float | None]] = {}
    for pose in (poses()[code] for code in movement.poses):
        points = joints(pose, movement.held.value)
        limbs = {"ankle knee": SHANK, "knee hip": THIGH, "hip shoulder": TRUNK, "elbow hand": FOREARM}
        if pose.rear:
            limbs |= {"hip rear_knee": THIGH, "rear_knee rear_ankle": SHANK}
        for ends, wanted in limbs.items():
            assert length(points, *ends.split()) == pytest.approx(wanted), ends
        assert min(y for _, y in points.values()) > -0.03, f"{pose.props}: through the floor"
        for prop in pose.touched:
            if prop.kind in ("box", "bench", "pad", "seat", "step", "ball"):
                heights.setdefault(prop.kind, set()).add(prop.height)
            if prop.holds:
                assert points[prop.holds][1] == pytest.approx(prop.height)
        standing = [points[name][1] for name in ("ankle", "rear_ankle") if name in points]
        held = {prop.holds for prop in pose.touched}
        if held & {"hand", "rear_ankle", "shoulder"} or (pose.rear and "ankle" in held and "split" in movement.code):
            assert min(standing) < 0.03, "the other foot is on the floor"
    assert all(None not in known and len(known) == 1 for known in heights.values()), heights


@pytest.mark.parametrize("code", ["goblet_box_squat", "rear_raised", "step_up_low", "back_extension"])
def test_the_box_is_drawn_as_high_at_the_end_as_at_the_start(code: str) -> None:
    movement = movements()[code]
    start, end = (poses()[pose] for pose in movement.poses)
    figure = str(draw_figure(movement.name, start, end, movement.held.value, False))
    drawn = re.findall(r'height="([\d.]+)"[^>]*class="figure-prop"|class="figure-prop"[^>]*height="([\d.]+)"', figure)
    assert len(drawn) == 2 and len({a or b for a, b in drawn}) == 1, drawn
