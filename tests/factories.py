"""Core values with fixed dates, for tests to vary one thing at a time."""

import datetime as dt
from typing import Any

from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.room import Bar, PlateStock, Room
from backsquat.core.movements.movement import Family
from backsquat.core.progression.decision import Exposure
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.progression.terms import Terms
from backsquat.core.rules import Rules
from backsquat.core.strength.record import SetRecord

TODAY = dt.date(2026, 11, 23)
RULES = Rules()
BAR = Bar("bar20", "Long bar", Mass.of(20))
LIGHT_BAR = Bar("bar15", "Light bar", Mass.of(15))


def a_room(plates: dict[str, int] | None = None, bars: tuple[Bar, ...] = (BAR, LIGHT_BAR), **changes: Any) -> Room:
    stock = plates if plates is not None else {"25": 4, "20": 4, "15": 2, "10": 4, "5": 4, "2.5": 2, "1.25": 2}
    unit = changes.pop("unit", Unit.KG)
    return Room(
        "room", unit, bars, tuple(PlateStock(Mass.of(mass, unit), pairs) for mass, pairs in stock.items()), **changes
    )


def a_set(**changes: Any) -> SetRecord:
    values: dict[str, Any] = {
        "set_id": 1,
        "done_on": TODAY,
        "family": Family.SQUAT,
        "load_kg": 100.0,
        "reps": 5,
        "reserve_reps": 1,
    }
    values |= changes
    values.setdefault("reps_to_depth", values["reps"])
    return SetRecord(**values)


def a_prescription(**changes: Any) -> Prescription:
    values: dict[str, Any] = {
        "week": 0,
        "kind": ExposureKind.WORK,
        "sets": 3,
        "reps": 6,
        "reserve_reps": 2,
        "rest_s": 180,
        "tempo": "2-0-1-0",
        "wave": 0,
        "first_of_wave": False,
        "top_of_wave": False,
    }
    return Prescription(**(values | changes))


def an_exposure(asked: Prescription | None = None, sets: list[SetRecord] | None = None, **changes: Any) -> Exposure:
    """Three sets made as promised, unless told otherwise."""
    asked = asked or a_prescription()
    if sets is None:
        sets = [a_set(set_id=n, reps=asked.reps, reserve_reps=asked.reserve_reps) for n in range(1, asked.sets + 1)]
    return Exposure(prescription=asked, load_kg=100.0, sets=sets, **changes)


def some_terms(**changes: Any) -> Terms:
    values: dict[str, Any] = {
        "room": a_room(),
        "rig": BAR,
        "rules": RULES,
        "newcomer": False,
        "in_season": False,
        "deload_load_share": 0.9,
    }
    return Terms(**(values | changes))
