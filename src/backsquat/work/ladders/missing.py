"""What keeps people from a block's exercises: for each what would open them, with what the log already says."""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import bindparam, select

from backsquat.core.movements.movement import Movement, ReadinessCheck
from backsquat.core.progression.cell import State
from backsquat.core.readiness.verdict import Readiness, Reason
from backsquat.storage.models import Athlete, Block, Cell, Exercise
from backsquat.work.context import WorkContext
from backsquat.work.ladders.moves import suggested_from
from backsquat.work.readiness.load import proven_days, readiness_of
from backsquat.work.squad.athletes import squad_athletes

GENTLEST = "gentlest"  # the reason where neither log nor screen says anything


class MissingKind(StrEnum):
    """What is missing."""

    READY = "ready"  # a readiness check, which a coach can open with a reason
    LEVEL = "level"  # a place on a ladder
    CONSENT = "consent"
    STOPPED = "stopped"
    TEST = "test"


@dataclass(frozen=True)
class Missing:
    """One thing one athlete lacks, and the exercises of the block that wait for it.

    `code`: the readiness check, the ladder or the movement. `shown`: the movement by which it could be settled now, with
    the days of clean sets in the log, or the reason a screen gives; None: nobody has seen it yet.
    """

    athlete: Athlete
    kind: MissingKind
    code: str
    exercises: tuple[Exercise, ...]
    shown: Movement | None = None
    days: int = 0
    reason: str = ""
    sure: bool = False  # as many days as prove a lift, or a screen: proposed; fewer are offered

    @property
    def key(self) -> str:
        """How a form names it."""
        return f"{self.athlete.id}:{self.kind.value}:{self.code}"


_NO_TEST = (
    select(Cell.athlete_id, Cell.exercise_id)
    .where(Cell.exercise_id.in_(bindparam("exercises", expanding=True)), Cell.current, Cell.state == State.NEEDS_TEST)
    .distinct()
)


def missing_of(context: WorkContext, block: Block) -> list[Missing]:
    """Everything missing, athlete by athlete; whoever works on an own level, or is away, lacks nothing."""
    library, rules = context.library, context.rules
    athletes = squad_athletes(context.db, context.squad_id)
    ready = readiness_of(context.db, context.squad_id, athletes, context.today, rules)
    of_ladders = {code for ladder in library.ladders.values() for level in ladder.levels for code in level}
    checked = {code for code, movement in library.movements.items() if movement.readiness_checks}
    asked = sorted(of_ladders | checked)
    proven = proven_days(context.db, [athlete.id for athlete in athletes], asked, context.today, rules)
    tests = {tuple(row) for row in context.db.execute(_NO_TEST, {"exercises": [one.id for one in block.exercises]})}
    found = []
    for athlete in athletes:
        waiting: dict[tuple[MissingKind, str], list[Exercise]] = defaultdict(list)
        for exercise in block.exercises:
            for need in _missing(exercise, ready[athlete.id], (athlete.id, exercise.id) in tests):
                waiting[need].append(exercise)
        mine = proven.get(athlete.id, {})
        levels = (
            suggested_from(ready[athlete.id], mine) if any(kind is MissingKind.LEVEL for kind, _ in waiting) else {}
        )
        for (kind, code), exercises in waiting.items():
            if kind is MissingKind.READY:
                days, shown = _most_lifted(ReadinessCheck(code), mine, library.movements.values())
                sure = days >= rules.proven_sessions
                found.append(Missing(athlete, kind, code, tuple(exercises), shown, days, "", sure))
            elif kind is MissingKind.LEVEL and code in levels:
                shown, reason = levels[code]
                found.append(Missing(athlete, kind, code, tuple(exercises), shown, 0, reason, sure=True))
            elif kind is MissingKind.LEVEL and (gentlest := _gentlest(ready[athlete.id], code)):
                found.append(Missing(athlete, kind, code, tuple(exercises), gentlest, 0, GENTLEST, sure=True))
            else:
                found.append(Missing(athlete, kind, code, tuple(exercises)))
    return found


def _gentlest(ready: Readiness, ladder: str) -> Movement | None:
    """The easiest movement of a ladder that is open to the athlete in this room."""
    levels = ready.library.ladders[ladder].levels
    open_to = (code for level in levels for code in level if ready.may_earn(code))
    return next((ready.library.get(code) for code in open_to), None)


def _missing(exercise: Exercise, ready: Readiness, needs_test: bool) -> Iterator[tuple[MissingKind, str]]:
    """What keeps one athlete from one exercise, the gravest alone: the rest is asked once that is settled."""
    library = ready.library
    movement, verdict = library.get(exercise.movement), ready.judge(library.get(exercise.movement))
    if verdict.has(Reason.STOPPED):
        yield MissingKind.STOPPED, ""
    elif movement.takes_load and ready.lacks_consent:
        yield MissingKind.CONSENT, ""
    elif exercise.ladder:
        if exercise.ladder in library.ladders and ready.stands_on(library.ladders[exercise.ladder]) is None:
            yield MissingKind.LEVEL, exercise.ladder
    elif verdict.has(Reason.NOT_READY):
        yield from ((MissingKind.READY, one.value) for one in movement.readiness_checks if not ready.view(one).open)
    elif verdict.has(Reason.UNEARNED):
        obstacle = next(one for one in verdict.obstacles if one.reason is Reason.UNEARNED)
        if obstacle.unearned and obstacle.unearned.ladder and obstacle.unearned.stands is None:
            yield MissingKind.LEVEL, obstacle.unearned.ladder.code
    elif needs_test:
        yield MissingKind.TEST, exercise.movement


def _most_lifted(
    check: ReadinessCheck, days: Mapping[str, int], movements: Iterable[Movement]
) -> tuple[int, Movement | None]:
    """The movement behind a readiness check that the log has most days of, with them."""
    behind = [one for one in movements if check in one.readiness_checks and days.get(one.code)]
    best = max(behind, key=lambda one: (days[one.code], one.code), default=None)
    return (days[best.code], best) if best else (0, None)
