"""Nonsense given to the core is named: never a number that is none, a raw error, or silence."""

import datetime as dt
import math
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal
from typing import Any

import pytest

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.achievable import loads_on
from backsquat.core.loads.bands import along_range
from backsquat.core.loads.mass import Mass
from backsquat.core.loads.room import Band
from backsquat.core.loads.rounding import grains, round_load
from backsquat.core.progression.caps import cap_for
from backsquat.core.readiness.absence import AwayReason, re_entry
from backsquat.core.readiness.checklist import age_years
from backsquat.core.readiness.sides import compare
from backsquat.core.season.trend import Point, theil_sen
from backsquat.core.sessions.turns import LifterInTurn, share_racks
from backsquat.core.strength.belief import believe
from backsquat.core.strength.chance import KnownStrength, last_set_reps
from backsquat.core.strength.formulas import FORMULAS, load_for_kg, maximum_kg, own_formula, reps_for
from backsquat.core.strength.ratio import max_by_ratio
from backsquat.library.shelf import movements
from tests.factories import BAR, RULES, TODAY, a_room, a_set

EPLEY, NAN, INF = FORMULAS["epley"], math.nan, math.inf
KNOWN = KnownStrength(math.log(120), 0.001)
BAND = Band("green", Mass.of(10), Mass.of(25))
SQUAT = movements()["back_squat"]
CAP: dict[str, Any] = {"weeks_ahead": 1, "reps": 6, "same_reps_kg": None, "newcomer": False, "rules": RULES}

NONSENSE: list[Callable[[], object]] = [
    lambda: maximum_kg(NAN, 5, EPLEY),
    lambda: maximum_kg(INF, 5, EPLEY),
    lambda: maximum_kg(100, NAN, EPLEY),
    lambda: maximum_kg(100, -3, EPLEY),
    lambda: reps_for(NAN, 120, EPLEY),
    lambda: reps_for(100, NAN, EPLEY),
    lambda: load_for_kg(NAN, 5, EPLEY),
    lambda: load_for_kg(120, -1, EPLEY),
    lambda: own_formula(EPLEY, 0.0),
    lambda: own_formula(EPLEY, NAN),
    lambda: grains(NAN),
    lambda: round_load(INF, a_room(), BAR),
    lambda: loads_on(a_room(), BAR).climbed(NAN, 1, 0.01),
    lambda: loads_on(a_room(), BAR).step_kg(NAN),
    lambda: Mass.of("heavy"),
    lambda: Mass(Decimal("NaN")),
    lambda: along_range(NAN, BAND, helps=True),
    lambda: along_range(100, BAND, helps=True, bands=0),
    lambda: cap_for(estimate_kg=NAN, **CAP),
    lambda: cap_for(estimate_kg=120, **CAP | {"same_reps_kg": INF}),
    lambda: re_entry(-1, 0, AwayReason.AWAY, RULES),
    lambda: re_entry(10, -2, AwayReason.AWAY, RULES),
    lambda: age_years(TODAY + dt.timedelta(days=1), TODAY),
    lambda: compare("reach", NAN, 80, "cm", RULES),
    lambda: compare("reach", 70, 80, "cm", RULES, error=INF),
    lambda: theil_sen([Point(TODAY, NAN), Point(TODAY + dt.timedelta(days=7), 1)], 0.8),
    lambda: theil_sen([Point(TODAY, 1), Point(TODAY + dt.timedelta(days=7), 2)], 1.0),
    lambda: share_racks([LifterInTurn(1, 100, 0, 3)], 0),
    lambda: believe(None, a_set(load_kg=NAN), RULES),
    lambda: believe(None, replace(a_set(), reserve_reps=-2), RULES),
    lambda: KNOWN.chance(NAN, 5, 4, 0, 0.0, RULES),
    lambda: KNOWN.most_kg(1.0, 5, 4, 0, 0.0, RULES),
    lambda: KNOWN.left(NAN, 5, 0, 0.0, RULES),
    lambda: last_set_reps(0, 4, RULES),
    lambda: last_set_reps(5, 0, RULES),
    lambda: max_by_ratio(NAN, 0.8, SQUAT, 0, RULES),
    lambda: movements()["rear_raised_dumbbells"].carried_kg(-60),
    lambda: SQUAT.carried_kg(NAN),
]


@pytest.mark.parametrize("call", NONSENSE, ids=range(len(NONSENSE)))
def test_nonsense_is_named(call: Callable[[], object]) -> None:
    with pytest.raises(ImpossibleInput) as error:
        call()
    assert all(problem.field and problem.code for problem in error.value.problems)
