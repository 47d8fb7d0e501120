"""What `make bench` measures of the core alone, on values made up for it."""

import datetime as dt
from collections.abc import Callable

from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.room import Bar, PlateStock, Room
from backsquat.core.movements.movement import Family
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.row import Candidate, plan_row
from backsquat.core.progression.terms import Terms
from backsquat.core.rules import Rules
from backsquat.core.sessions.order import session_advice
from backsquat.core.sessions.session import Item, Session
from backsquat.core.sessions.timing import timetable
from backsquat.core.strength.belief import beliefs_of
from backsquat.core.strength.current import believed_estimate
from backsquat.core.strength.record import SetRecord
from backsquat.library.shelf import movements

TODAY = dt.date(2026, 11, 23)
TEN = (  # movement and superset of a long session
    ("box_jump", 0), ("back_squat", 0), ("rear_raised_dumbbells", 1), ("lying_curl", 1), ("romanian_deadlift", 0),
    ("bench_thrust", 2), ("calf_raise", 2), ("side_squat", 3), ("plank_row", 3), ("crawling", 3),
)  # fmt: skip
PLATES = (("25", 6), ("20", 8), ("15", 6), ("10", 8), ("5", 8), ("2.5", 6), ("1.25", 6))


def core_block() -> Callable[[], object]:
    """Both lifts of 60 athletes over 12 weeks, from what is kept of 24 logged sets each to plates, with all working."""
    rules, progression = Rules(), PROGRESSIONS["wave"]
    plates = tuple(PlateStock(Mass.of(mass), pairs) for mass, pairs in PLATES)
    room = Room("Room", Unit.KG, (Bar("b", "Bar", Mass.of(20)),), plates)
    terms = Terms(room, room.bars[0], rules, newcomer=False, in_season=True, deload_load_share=0.9)
    outline = progression.outline(progression.read({}), 12)

    def records(athlete: int, family: Family) -> list[SetRecord]:
        return [SetRecord(n, TODAY - dt.timedelta(days=n), family, 60.0 + athlete, 6, 6, n % 4) for n in range(1, 25)]

    logged = [records(athlete, family) for athlete in range(60) for family in (Family.SQUAT, Family.HINGE)]
    kept = [beliefs_of(rows, rules) for rows in logged]

    def run() -> object:
        known = [
            believed_estimate(steps[-1][1], 0.0, [(record, share) for record, _, share in steps], TODAY, rules)
            for steps in kept
        ]
        return [plan_row(Candidate(False, (), False, current), outline, terms) for current in known]

    return run


def core_belief() -> Callable[[], object]:
    """One estimate brought up to date with a session of four sets."""
    rules = Rules()
    sets = [SetRecord(n, TODAY, Family.SQUAT, 100.0, 6, 6, n % 4) for n in range(4)]
    before = beliefs_of([SetRecord(9, TODAY - dt.timedelta(days=7), Family.SQUAT, 100.0, 6, 6, 2)], rules)[-1][1]
    return lambda: beliefs_of(sets, rules, before)


def core_session() -> Callable[[], object]:
    """A session of ten items, with two supersets and a circuit: its minutes and what is said of it."""
    rules, known = Rules(), movements()
    items = tuple(
        Item(
            n + 1,
            known[code],
            3,
            8,
            rest_s=90,
            superset=superset,
            circuit=superset == 3,
            ramp=(8, 5, 3) if n < 2 else (),
        )
        for n, (code, superset) in enumerate(TEN)
    )

    def run() -> object:
        db = Session(items, warm_up_s=480)
        return timetable(db, rules), session_advice(db, rules)

    return run
