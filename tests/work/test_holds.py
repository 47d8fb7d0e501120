"""What holds a number back on the floor: a lower proposal binds until the coach has said something newer."""

import datetime as dt
from dataclasses import replace
from types import SimpleNamespace
from typing import Any

import pytest

from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.progression.cell import Origin, State
from backsquat.core.rules import Rules
from backsquat.storage.models import Cell, DecisionRow
from backsquat.work.floor.holds import held_back
from tests.factories import BAR, a_room

RULES = Rules()
PROPOSED = dt.datetime(2026, 11, 16, 19)
HOUR = dt.timedelta(hours=1)
ROOMS: Any = SimpleNamespace(of_cell=lambda cell: a_room())


def load(kg: float) -> Load:
    return next(one for one in loads_on(a_room(), BAR).loads if one.kg == kg)


def held(origin: Origin, at: dt.datetime, code: str = "down", rules: Rules = RULES) -> float | None:
    """The load a cell of 100 kg is held to by a proposal of 90, in kg; None: by nothing."""
    cell = Cell(state=State.LOAD, origin=origin, at=at, load_kg=100.0)
    proposal = DecisionRow(code=code, following={"next_kg": 90.0}, at=PROPOSED)
    found = held_back(cell, load(100), proposal, (None, None), ROOMS, rules)
    return found.load.kg if found and found.load else None


@pytest.mark.parametrize(
    ("origin", "at", "kg"),
    [
        (Origin.PLAN, PROPOSED - HOUR, 90),
        (Origin.PLAN, PROPOSED + HOUR, 90),
        (Origin.COACH, PROPOSED - HOUR, 90),
        (Origin.COACH, PROPOSED + HOUR, None),
    ],
)
def test_a_proposal_binds_unless_the_coachs_own_number_is_newer(
    origin: Origin, at: dt.datetime, kg: float | None
) -> None:
    assert held(origin, at) == kg


def test_only_what_lowers_is_held_and_only_where_the_squad_holds() -> None:
    assert held(Origin.PLAN, PROPOSED, code="up") is None
    assert held(Origin.PLAN, PROPOSED, rules=replace(RULES, open_decisions="say")) is None
