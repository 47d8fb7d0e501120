"""Making a block: its sessions, its exercises, and everybody's first drafts; and the block as a template."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import insert, select

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.movements.library import Library
from backsquat.core.movements.manner import manner_from
from backsquat.core.progression.cell import ExerciseRole
from backsquat.core.progression.parameters import share_of
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.usual_window import usual_window
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import DaySpan
from backsquat.core.sessions.order import Place, places
from backsquat.library.templates import ExerciseEntry, TemplateEntry
from backsquat.storage.models import Block, Cell, Exercise
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember
from backsquat.work.plan.drafts import planned_drafts
from backsquat.work.plan.exercise_plan import exercise_plan, known_candidates
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.sessions.blocks import session_on, to_come
from backsquat.work.squad.athletes import squad_athletes


@dataclass(frozen=True)
class ExerciseFacts:
    """One lift on one day, with the progression's parameters as the coach gave them."""

    weekday: int  # 0 is Monday
    movement: str
    progression: str
    parameters: dict[str, Any] = field(default_factory=dict)
    ladder: str = ""
    role: ExerciseRole = ExerciseRole.MAIN
    superset: int = 0
    variation: str = ""
    circuit: bool = False  # its superset goes round
    rest_s: int = 0  # after a set, or a round of its superset; 0: as the progression says
    manner: dict[str, Any] = field(default_factory=dict)  # `core/movements/manner.py`


@dataclass(frozen=True)
class BlockFacts:
    """What the block form says."""

    name: str
    first_week: dt.date
    weeks: int
    in_season: bool
    exercises: tuple[ExerciseFacts, ...]
    purpose: str = ""


def create_block(context: WorkContext, facts: BlockFacts, season: DaySpan) -> Block:
    """A block with every athlete's rows planned as a draft."""
    require(context.actor, Act.PLAN)
    _check(context, facts, season)
    library = context.library
    block = Block(
        squad_id=context.squad_id,
        name=facts.name,
        first_week=facts.first_week,
        weeks=facts.weeks,
        in_season=facts.in_season,
        purpose=facts.purpose,
        by_id=context.actor.user_id,
        at=context.now,
    )
    _put_exercises(block, facts.exercises, library, context.rules)
    context.db.add(block)
    context.db.flush()
    for exercise in block.exercises:
        plan_exercise(context, block, exercise)
    remember(context, what="block_made", subject="blocks", subject_id=block.id, before={}, facts={"name": block.name})
    return block


def _put_exercises(block: Block, exercises: Sequence[ExerciseFacts], library: Library, rules: Rules) -> None:
    """Exercises as rows in the order given, day by day; windows nobody gave follow from the order in the session."""
    ordered = sorted(exercises, key=lambda exercise: exercise.weekday)
    for position, exercise in enumerate(ordered):
        day = [other for other in ordered if other.weekday == exercise.weekday]
        place = places([(library.get(movement_code(one, library)), one.superset) for one in day])[day.index(exercise)]
        row = exercise_row(exercise, place, library, rules)
        if block.in_season:
            row.parameters = in_season(row.progression, row.parameters, rules)
        row.position, row.session = position, session_on(block, exercise.weekday)
        block.every_exercise.append(row)


def movement_code(exercise: ExerciseFacts, library: Library) -> str:
    """Code of the exercise's movement; of a ladder its last level."""
    if not exercise.ladder:
        return exercise.movement
    if exercise.ladder not in library.ladders:
        raise NotThere("ladder")
    return library.ladders[exercise.ladder].levels[-1][0]


def exercise_row(exercise: ExerciseFacts, place: Place, library: Library, rules: Rules) -> Exercise:
    """An exercise at its place in its session, without its session and position yet."""
    return Exercise(
        movement=library.get(movement_code(exercise, library)).code,
        ladder=exercise.ladder,
        progression="ladder" if exercise.ladder else exercise.progression,
        role=exercise.role,
        superset=exercise.superset,
        variation=exercise.variation,
        circuit=exercise.circuit,
        rest_s=exercise.rest_s,
        manner=manner_from(exercise.manner).to_plain(),
        parameters=windowed_parameters(exercise, place, library, rules),
    )


def windowed_parameters(exercise: ExerciseFacts, place: Place, library: Library, rules: Rules) -> dict[str, Any]:
    """The exercise's parameters; for a rep window that nobody gave, the usual one of its order in the session."""
    given = dict(exercise.parameters)
    clocked = not exercise.ladder and library.get(exercise.movement).work.seconds  # its own seconds, no window of reps
    if exercise.progression != "window" or "low" in given or "high" in given or exercise.ladder or clocked:
        return given
    main = exercise.role in (ExerciseRole.MAIN, ExerciseRole.SECOND)
    window = usual_window(library.get(exercise.movement), place, main, rules)
    return {"low": window.low, "high": window.high, "placed": window.why, **dict(window.changes)} | given


def in_season(progression: str, given: dict[str, Any], rules: Rules) -> dict[str, Any]:
    """The parameters with about half the sets, where the coach gave none; the load is kept."""
    usual = PROGRESSIONS[progression].kind()
    if "sets" in given or not PROGRESSIONS[progression].loaded:
        return given
    return given | {
        "sets": max(share_of(usual.sets, rules.in_season_sets), min(rules.in_season_least_sets, usual.sets))
    }


def plan_exercise(context: WorkContext, block: Block, exercise: Exercise) -> None:
    """Plan an exercise for everybody, from the next session on."""
    plan = exercise_plan(context.db, block, exercise, context.rules)
    athletes = squad_athletes(context.db, context.squad_id)
    ready = readiness_of(context.db, context.squad_id, athletes, context.today, context.rules)
    known = known_candidates(context.db, ready, plan)
    weeks = {one.id: weeks_to_come(block, one, context.today) for one in plan.same}
    drafts = planned_drafts(plan, athletes, known, weeks)
    if drafts:
        context.db.execute(insert(Cell), [draft.row(context.actor) for draft in drafts])


def weeks_to_come(block: Block, exercise: Exercise, today: dt.date) -> list[int]:
    """Weeks whose session is not past; a block that lies wholly in the past is planned whole."""
    coming = [week for week in range(block.weeks) if to_come(exercise, week, today)]
    return coming or list(range(block.weeks))


def next_week(block: Block, exercise: Exercise, today: dt.date) -> int:
    """The week of the block whose session is the next; 0 where the block has not begun or is over."""
    return weeks_to_come(block, exercise, today)[0]


def _check(context: WorkContext, facts: BlockFacts, season: DaySpan) -> None:
    found = span_problem(context, facts.first_week, facts.weeks, season)
    if not facts.exercises:
        found.append(Problem("exercises", "no_days"))
    if found:
        raise ImpossibleInput(*found)


def span_problem(
    context: WorkContext, first_week: dt.date, weeks: int, season: DaySpan | None, block: Block | None = None
) -> list[Problem]:
    """What keeps a block from lying there: no Monday, outside the season (None: not asked), another one's weeks."""
    found = []
    last = first_week + dt.timedelta(weeks=weeks - 1)
    if first_week.weekday() != 0:
        found.append(Problem("first_week", "not_monday"))
    elif season is not None and (first_week not in season or last not in season):
        end = season.last_week + dt.timedelta(days=6)
        bounds = {"first": season.first_week.isoformat(), "last": end.isoformat()}
        found.append(Problem("first_week", "outside_season", bounds))
    for other in context.db.scalars(select(Block).where(Block.squad_id == context.squad_id, ~Block.dropped)):
        other_last = other.first_week + dt.timedelta(weeks=other.weeks - 1)
        if other is not block and other.first_week <= last and first_week <= other_last:
            found.append(Problem("first_week", "overlap", {"name": other.name}))
            break
    return found


def template_of(block: Block, words: str = "") -> TemplateEntry:
    """The block as a template: what a coach saves to use again or to share."""
    return TemplateEntry(
        name=block.name,
        purpose=block.purpose,
        words=words,
        weeks=block.weeks,
        in_season=block.in_season,
        exercises=[_exercise_entry(exercise) for exercise in block.exercises],
    )


def _exercise_entry(exercise: Exercise) -> ExerciseEntry:
    return ExerciseEntry(
        day=exercise.weekday,
        movement="" if exercise.ladder else exercise.movement,
        ladder=exercise.ladder,
        progression=exercise.progression,
        role=exercise.role.value,
        superset=exercise.superset,
        variation=exercise.variation,
        circuit=exercise.circuit,
        rest_s=exercise.rest_s,
        manner=dict(exercise.manner),
        parameters={name: value for name, value in exercise.parameters.items() if name != "placed"},
    )
