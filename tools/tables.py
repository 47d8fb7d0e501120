"""Tables of plans to be read as the coach who must answer for them: writes docs/tables.md (`make tables`).

Everything is planned the way a coach's clicks plan it: a squad from nothing in a usual room, a tested squat each, a
block. Nothing is kept.
"""

import datetime as dt
import random
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path
from uuid import uuid4

from sqlalchemy.orm import Session

from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import Movement, ReadinessCheck
from backsquat.core.progression.cell import State
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.simulate import MadeUp, SimulatedWeek, simulate
from backsquat.core.progression.terms import Terms
from backsquat.core.readiness.absence import AwayReason
from backsquat.core.roles import Role
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import DaySpan
from backsquat.library.shelf import ladders, movements
from backsquat.library.usual_rooms import usual_rooms
from backsquat.pages.room.forms import form_like
from backsquat.storage.database import Database
from backsquat.storage.migrate import migrate
from backsquat.storage.models import Athlete, BodyMass, Cell, Exercise, ScreenResult, Season, Squad
from backsquat.work.accounts.people import add_person
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.health.absences import come_back, go_away
from backsquat.work.ladders.moves import move_level
from backsquat.work.ladders.readiness_checks import clear_with_reason
from backsquat.work.plan.blocks import BlockFacts, ExerciseFacts, create_block
from backsquat.work.record.outside import log_test
from backsquat.work.record.record import SetFacts
from backsquat.work.rooms.describe import save_room
from backsquat.work.rooms.rooms import rooms_of

REPORT = Path("docs/tables.md")
MONDAY = dt.date(2026, 9, 7)
WEEKS, REPS, RESERVE = 8, 5, 2
ROOMS = {"centre": "a fine room (plates to 0.25 kg, bells in steps of 2)", "small": "a coarse room (one bar, 2.5 kg)"}
LIFTS = ("back_squat", "romanian_deadlift", "rear_raised_dumbbells")
SOUND = {  # the lines of the barbell check, as somebody who lifts has them
    "brace": 1, "standing_squat": 1, "knees_track": 1, "pelvis": 0, "side_shift": 0, "deep_squat_hold": 30,
    "counterbalanced_squat": 20, "witnessed_test": 1,
}  # fmt: skip
LOADED = tuple(code for code, progression in PROGRESSIONS.items() if progression.loaded)


@dataclass(frozen=True)
class Lifter:
    """Somebody made up: what they squat, what they weigh, how old they are, how long they were away."""

    squat_kg: int
    mass_kg: int
    born: int = 2000
    away_days: int = 0

    @property
    def name(self) -> str:
        kind = "newcomer of 16, " if self.born > 2005 else ""
        away = f", away {self.away_days} days" if self.away_days else ""
        return f"{kind}{self.squat_kg}{away}"


LIFTERS = (
    Lifter(60, 58), Lifter(80, 64), Lifter(113, 72), Lifter(140, 82), Lifter(180, 94), Lifter(40, 55, born=2010),
    Lifter(113, 72, away_days=3), Lifter(113, 72, away_days=10), Lifter(113, 72, away_days=60),
)  # fmt: skip


def on(days: int) -> Actor:
    """The coach, so many days from the Monday of the block."""
    return Actor(1, 1, dt.datetime.combine(MONDAY + dt.timedelta(days=days), dt.time(18)))


@contextmanager
def a_squad(room: str) -> Iterator[Database]:
    """The lifters in a usual room, tested four days before the block, or the day before they went away."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "tables.sqlite3"
        migrate(path)
        database = Database(path)
        with database.writing() as db:
            _people(db, room)
        yield database
        database.close()


def _people(db: Session, room: str) -> None:
    db.add(Squad(club="a", name="b"))
    db.flush()
    add_person(db, sign_in="c", name="Coach", password="long enough", squad_id=1, role=Role.COACH, cost=1)
    db.flush()
    db.add(Season(squad_id=1, name="s", first_week=MONDAY - dt.timedelta(weeks=12), weeks=40))
    facts = form_like(usual_rooms()[room]).read()
    assert facts is not None
    save_room(WorkContext(db, on(-100)), facts)
    for lifter in LIFTERS:
        _lifter(db, lifter)


def _lifter(db: Session, lifter: Lifter) -> None:
    newcomer = lifter.born > 2005
    athlete = Athlete(
        squad_id=1, name=lifter.name, born_on=dt.date(lifter.born, 1, 1), newcomer=newcomer, consent=True, by_id=1,
        at=on(-100).now,
    )  # fmt: skip
    db.add(athlete)
    db.flush()
    db.add(
        BodyMass(athlete_id=athlete.id, measured_on=MONDAY, mass_kg=Decimal(lifter.mass_kg), by_id=1, at=on(-100).now)
    )
    tested = on(-4 - lifter.away_days)
    _screened(db, athlete.id, tested)
    load = Decimal(round(lifter.squat_kg / (1 + (REPS + RESERVE) / 30)))
    facts = SetFacts(str(uuid4()), load, Unit.KG, REPS, REPS, RESERVE, tested.today)
    log_test(WorkContext(db, tested), athlete.id, "back_squat", facts)
    if lifter.away_days:
        away = go_away(WorkContext(db, on(-1)), athlete.id, on(-lifter.away_days).today, AwayReason.AWAY)
        _screened(db, athlete.id, on(-1))
        come_back(WorkContext(db, on(0)), away.id, MONDAY, "seen by me")


def _screened(db: Session, athlete_id: int, seen: Actor) -> None:
    """Sound in every screen the readiness checks ask for, and put on the ladders' levels before the bar."""
    for code, value in SOUND.items():
        db.add(ScreenResult(athlete_id=athlete_id, screen=code, value=value, done_on=seen.today, by_id=1, at=seen.now))
    db.flush()
    for readiness_check in ReadinessCheck:
        clear_with_reason(WorkContext(db, seen), athlete_id, readiness_check, "seen by me")
    for ladder in ladders().values():  # so that every movement may be given
        move_level(WorkContext(db, seen), athlete_id, ladder.code, ladder.levels[-1][0], way="placed", reason="seen")


def planned(
    database: Database, exercises: Sequence[ExerciseFacts], in_season: bool
) -> dict[int, dict[str, list[Cell]]]:
    """Cells by place of the exercise and athlete, as a draft that is not kept."""
    with database.writing() as db:
        season = DaySpan(MONDAY - dt.timedelta(weeks=12), 40)
        block = create_block(
            WorkContext(db, on(0)), BlockFacts("B", MONDAY, WEEKS, in_season, tuple(exercises)), season
        )
        db.flush()
        names = {athlete.id: athlete.name for athlete in db.query(Athlete)}
        found: dict[int, dict[str, list[Cell]]] = {}
        for exercise in block.exercises:
            rows = db.query(Cell).filter(Cell.exercise_id == exercise.id, Cell.current).order_by(Cell.week)
            for cell in rows:
                found.setdefault(_place(exercise, exercises), {}).setdefault(names[cell.athlete_id], []).append(cell)
        db.expunge_all()
        db.rollback()
        return found


def _place(exercise: Exercise, exercises: Sequence[ExerciseFacts]) -> int:
    return next(
        n for n, one in enumerate(exercises) if (one.movement, one.weekday) == (exercise.movement, exercise.weekday)
    )


def words(cell: Cell) -> str:
    """One cell: 3 × 6 · 60 · RIR 2; a deload week in brackets."""
    dose = f"{cell.sets} × {cell.hold_s} s" if cell.hold_s else f"{cell.sets} × {cell.reps}"
    if cell.state is State.LOAD:
        amount = f"{cell.load_amount.normalize():f}" if cell.load_amount is not None else "?"
        said = f"{dose} · {amount} · RIR {cell.reserve_reps}"
    elif cell.state is State.LEVEL:
        said = f"{dose} {cell.movement.replace('_', ' ')}{_from(cell)}"
    elif cell.state is State.WORK:
        said = f"{dose}{_from(cell)}"
    else:
        said = cell.state.value.replace("_", " ")
    return f"({said})" if cell.kind is ExposureKind.DELOAD else said


def _from(cell: Cell) -> str:
    return "" if cell.start_amount is None else f" · find, from {cell.start_amount.normalize():f}"


def progressions(database: Database, in_season: bool) -> Iterator[str]:
    """Every loaded progression on the main lifts."""
    for progression in LOADED:
        found = planned(database, [ExerciseFacts(n, code, progression) for n, code in enumerate(LIFTS)], in_season)
        for n, code in enumerate(LIFTS):
            yield f"\n**{PROGRESSIONS[progression].name} · {movements()[code].name}**\n"
            yield from table(found.get(n, {}))


def table(rows: dict[str, list[Cell]]) -> Iterator[str]:
    yield "| lifter | " + " | ".join(f"week {n + 1}" for n in range(WEEKS)) + " |"
    yield "|---" * (WEEKS + 1) + "|"
    for name, cells in rows.items():
        yield f"| {name} | " + " | ".join(words(cell) for cell in cells) + " |"


def simulated(database: Database) -> Iterator[str]:
    """The same lifters trained eight weeks by every progression, chance fixed: what was on the bar, and what it led to."""
    with database.reader() as db:
        room = rooms_of(db, 1).own
    for code in LOADED:
        progression, parameters = PROGRESSIONS[code], PROGRESSIONS[code].read({})
        terms = Terms(
            room=room, rig=room.bars[0], rules=Rules(), newcomer=False, in_season=False,
            deload_load_share=parameters.deload_load_share,
        )  # fmt: skip
        yield f"\n**{progression.name} · Back squat, trained**\n"
        yield "| lifter | " + " | ".join(f"week {n + 1}" for n in range(WEEKS)) + " |"
        yield "|---" * (WEEKS + 1) + "|"
        for lifter in LIFTERS:
            if lifter.away_days:
                continue
            made_up = MadeUp(float(lifter.squat_kg), newcomer=lifter.born > 2005)
            story = simulate(progression, parameters, made_up, WEEKS, terms, random.Random(lifter.squat_kg))
            yield f"| {lifter.name} | " + " | ".join(_done(week) for week in story) + " |"


def _done(week: SimulatedWeek) -> str:
    """3 × 6 · 60: 6, 6, 5 → stay; what was asked, made set by set, and decided."""
    if week.load_kg is None:
        return "under bar" if not week.sets else "away"
    asked = f"{week.asked.sets} × {week.asked.reps} · {week.load_kg:g}"
    made = ", ".join(str(one.reps) for one in week.sets)
    ends = f" → {week.decision.code.value}" if week.decision else ""
    said = f"{asked}: {made}{ends}"
    return f"({said})" if week.asked.kind is ExposureKind.DELOAD else said


def first_loads(database: Database) -> Iterator[str]:
    """The first two weeks of every movement that takes a load, for lifters who have never tried it."""
    loaded = [one for one in movements().values() if one.takes_load and not one.work.seconds]
    people = [lifter.name for lifter in LIFTERS if not lifter.away_days]
    yield "| movement | " + " | ".join(people) + " |"
    yield "|---" * (len(people) + 1) + "|"
    for movement in loaded:
        found = planned(database, [ExerciseFacts(0, movement.code, "window")], False).get(0, {})
        yield f"| {movement.name} | " + " | ".join(_first(found.get(name, []), movement) for name in people) + " |"


def _first(cells: Sequence[Cell], movement: Movement) -> str:
    return ", then ".join(words(cell) for cell in cells[:2])


def main() -> None:
    lines = ["# Tables of plans", "", "Written by `make tables`; read row by row before a release.", ""]
    for room, about in ROOMS.items():
        with a_squad(room) as database:
            lines += ["", f"## First loads in {about}", "", *first_loads(database)]
            for in_season in (False, True):
                lines += [
                    "",
                    f"## {'In season' if in_season else 'Base'} in {about}",
                    *progressions(database, in_season),
                ]
            lines += ["", f"## Trained, by chance fixed, in {about}", *simulated(database)]
    REPORT.write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main()
