"""Planning again: what it would change, and doing it as a draft."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import LIFTED, Origin, State
from backsquat.core.readiness.verdict import Readiness, Reason
from backsquat.storage.models import Athlete, Block, Cell, Exercise, PlanVersion
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.cells import UNREAD, cell_load, make_live, movement_of, place_drafts
from backsquat.work.plan.difference import Replanned, row_key
from backsquat.work.plan.drafts import Draft, planned_drafts
from backsquat.work.plan.exercise_plan import ExercisePlan, exercise_plan, known_candidates
from backsquat.work.plan.progression_settings import ProgressionSetting, athlete_settings
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.sessions.blocks import block_of, coming_blocks, session_day, to_come
from backsquat.work.squad.athletes import squad_athletes

Standing = Mapping[tuple[int, int], Cell]  # (athlete, week) → what stands there


@dataclass(frozen=True)
class ReplanScope:
    """What is planned again: which athletes, exercises, weeks; all where nothing is said."""

    athlete_ids: Collection[int] | None = None
    exercise_ids: Collection[int] | None = None
    from_week: int = 0
    only_refused: bool = False  # only rows that had no load
    tested: str = ""  # with those: rows by ratio of this movement, which has a test of its own now
    touched: Callable[[Movement], bool] | None = None  # only exercises of these movements
    keep_own: bool = True  # the coach's own loads stay
    over_decided: bool = False  # what was decided after a session gives way: to a limit, a return, another room
    rows: Collection[str] | None = None  # only these rows of the difference, by their keys; decided ones too

    def holds(self, exercise: Exercise, library: Library) -> bool:
        """Whether an exercise is among those planned again."""
        named = self.exercise_ids is None or exercise.id in self.exercise_ids
        return named and (self.touched is None or self.touched(library.get(exercise.movement)))

    def takes(self, change: Replanned) -> bool:
        """Whether a change is carried out: what was decided only where the coach names the row, or a later fact does."""
        if self.rows is None:
            return self.over_decided or not change.decided
        return row_key(change.exercise.id, change.draft.athlete_id, change.decided) in self.rows

    def due(
        self, exercise: Exercise, standing: Standing, ready: Readiness, movement: Movement, weeks: Sequence[int]
    ) -> bool:
        """Whether an athlete's row of an exercise is among those planned again."""
        athlete_id = ready.person.id
        if not self.only_refused or _without_load(standing, athlete_id, weeks):
            return True
        if ready.judge(movement).has(Reason.NOT_READY, Reason.UNEARNED):
            return True
        return exercise.movement == self.tested and _by_ratio(standing, athlete_id, weeks)


EVERYTHING = ReplanScope()
REFUSED = frozenset(State) - {State.LOAD, State.UNDER_BAR}


def replanned(context: WorkContext, block: Block, scope: ReplanScope = EVERYTHING) -> list[Replanned]:
    """What planning again from today's records would change. What is past, logged or the coach's own stays.

    What was decided after a session is listed and marked; `ReplanScope.takes` says whether it gives way.
    """
    library = context.library
    exercises = [exercise for exercise in block.exercises if scope.holds(exercise, library)]
    logged = logged_cells(context.db, [exercise.id for exercise in exercises])
    settings = athlete_settings(context.db, [exercise.id for exercise in block.exercises])
    everybody = squad_athletes(context.db, context.squad_id)
    athletes = [a for a in everybody if scope.athlete_ids is None or a.id in scope.athlete_ids]
    ready = readiness_of(context.db, context.squad_id, athletes, context.today, context.rules)
    decided_in = _weeks_of_decisions(context.db, [exercise.id for exercise in exercises])
    found = []
    for exercise in exercises:
        standing = _standing(context.db, exercise, None if scope.athlete_ids is None else [a.id for a in athletes])
        weeks = _coming(block, exercise, scope, context.actor)
        movement = library.get(exercise.movement)
        here = [a for a in athletes if scope.due(exercise, standing, ready[a.id], movement, weeks)]
        if not here:
            continue
        plan = exercise_plan(context.db, block, exercise, context.rules, settings)
        known = known_candidates(context.db, {athlete.id: ready[athlete.id] for athlete in here}, plan)
        for draft in planned_drafts(
            plan, here, known, {one.id: _coming(block, one, scope, context.actor) for one in plan.same}
        ):
            before = standing.get((draft.athlete_id, draft.week))
            is_logged = (exercise.id, draft.athlete_id, draft.week) in logged
            if not is_logged and _replaces(before, draft, scope, plan, ready[draft.athlete_id]):
                found.append(_change(before, draft, plan, ready[draft.athlete_id], decided_in))
    return found


def _coming(block: Block, exercise: Exercise, scope: ReplanScope, actor: Actor) -> list[int]:
    """The weeks of an exercise that are planned again."""
    return [week for week in range(scope.from_week, block.weeks) if to_come(exercise, week, actor.today)]


def _change(
    before: Cell | None, draft: Draft, plan: ExercisePlan, ready: Readiness, decided_in: Mapping[int, int]
) -> Replanned:
    """A change with what explains it; a number nobody may lift, or the room has no more, is decided no more."""
    movement = movement_of(ready.library, plan.exercise, before) if before else plan.movement
    verdict = ready.judge(movement, session_day(plan.exercise, draft.week), before.load_kg if before else None)
    obstacle = verdict.but(Reason.AWAY).first if before and before.state in LIFTED else None
    in_stock = before is None or _in_stock(before, plan)
    decided = _still_decided(before, plan.of(draft.athlete_id).setting, decided_in)
    decided = decided and obstacle is None and in_stock
    return Replanned(plan.exercise, before, draft, decided, obstacle, verdict.ease is not None, in_stock)


def _in_stock(cell: Cell, plan: ExercisePlan) -> bool:
    """Whether the room of a cell still has its load."""
    return cell.load_amount is None or cell_load(plan.rooms.of_cell(cell), plan.movement, cell) is not None


def _still_decided(before: Cell | None, setting: ProgressionSetting, decided_in: Mapping[int, int]) -> bool:
    """Whether a number was decided after a session of the progression that is followed now."""
    if before is None or before.origin is not Origin.DECISION:
        return False
    week = decided_in.get(before.decided_on_id or 0)
    return week is None or week >= setting.from_week


def _weeks_of_decisions(db: Session, exercise_ids: Sequence[int]) -> dict[int, int]:
    """Week of the block by cell, of those cells a later number was decided on."""
    rows = db.execute(
        select(Cell.id, Cell.week).where(
            Cell.id.in_(
                select(Cell.decided_on_id).where(
                    Cell.exercise_id.in_(exercise_ids), Cell.current, Cell.decided_on_id.is_not(None)
                )
            )
        )
    )
    return dict(rows.all())


def _standing(db: Session, exercise: Exercise, athlete_ids: Collection[int] | None) -> Standing:
    """What stands in an exercise; `athlete_ids`: of these alone. How it was worked out is not asked for."""
    query = select(Cell).where(Cell.exercise_id == exercise.id, Cell.current).options(*UNREAD)
    cells = db.scalars(query if athlete_ids is None else query.where(Cell.athlete_id.in_(athlete_ids)))
    return {(cell.athlete_id, cell.week): cell for cell in cells}


def _replaces(before: Cell | None, draft: Draft, scope: ReplanScope, plan: ExercisePlan, ready: Readiness) -> bool:
    """Whether a draft takes the cell's stead: it says something else, and the coach has not put it there.

    The coach's own number stays, but for one over a limit that a physio or doctor has set since.
    """
    if before is None:
        return True
    if before.origin is Origin.COACH and scope.keep_own:
        day = session_day(plan.exercise, draft.week)
        movement = movement_of(ready.library, plan.exercise, before)
        if not (scope.over_decided and ready.judge(movement, day, before.load_kg).has(Reason.OVER_LIMIT)):
            return False
    return draft.differs_from(before)


def _without_load(standing: Standing, athlete_id: int, weeks: Sequence[int]) -> bool:
    cells = [standing.get((athlete_id, week)) for week in weeks]
    return any(cell is None or cell.state in REFUSED for cell in cells)


def _by_ratio(standing: Standing, athlete_id: int, weeks: Sequence[int]) -> bool:
    cells = [standing.get((athlete_id, week)) for week in weeks]
    return any(cell is not None and cell.by_ratio for cell in cells)


def replan(context: WorkContext, block_id: int, scope: ReplanScope = EVERYTHING) -> int:
    """Plan the weeks to come again as a draft, on the coach's word; returns how many cells changed."""
    require(context.actor, Act.PLAN)
    return _replan(context, block_of(context.db, context.squad_id, block_id), scope)


def _replan(context: WorkContext, block: Block, scope: ReplanScope) -> int:
    return take_changes(context, block, [one for one in replanned(context, block, scope) if scope.takes(one)])


def take_changes(context: WorkContext, block: Block, changes: Sequence[Replanned]) -> int:
    """Write what planning again would change as drafts, all of it; returns how many cells.

    Whoever calls has asked who may: a physio's limit is followed by the plan too.
    """
    drafts = [change.draft for change in changes]
    joining = _joining(context.db, block, drafts)
    facts = {"count": sum(draft.athlete_id not in joining for draft in drafts), "joined": sorted(joining.values())}
    placed = place_drafts(context, drafts)
    if placed.ids:
        before = {"cells": placed.replaced, "new": placed.new}
        remember(context, what="replanned", subject="cells", subject_id=block.id, before=before, facts=facts)
    return len(drafts)


def _joining(db: Session, block: Block, drafts: Sequence[Draft]) -> dict[int, str]:
    """Names of those who had nothing planned in the block until now."""
    ids = {draft.athlete_id for draft in drafts}
    here = select(Cell.athlete_id).where(
        Cell.exercise_id.in_([exercise.id for exercise in block.exercises]), Cell.athlete_id.in_(ids), Cell.current
    )
    new = ids - set(db.scalars(here.distinct()))
    return dict(db.execute(select(Athlete.id, Athlete.name).where(Athlete.id.in_(new))).all())


def refresh_athlete(context: WorkContext, athlete_id: int, *, tested: str = "") -> None:
    """After a test, a clearance or a passed readiness check: loads for the athlete's empty rows, as drafts.

    `tested` names the movement of a test: where it stood by ratio to another lift, it stands on its own now.
    """
    _replan_coming(context, ReplanScope([athlete_id], only_refused=True, tested=tested))


def replan_athlete(context: WorkContext, athlete_id: int, touched: Callable[[Movement], bool] | None = None) -> None:
    """A limit or a return has changed what the athlete may do: the weeks to come follow, as drafts."""
    _replan_coming(context, ReplanScope([athlete_id], touched=touched, over_decided=True))


def replan_records(context: WorkContext, athlete_id: int, touched: Callable[[Movement], bool]) -> None:
    """A record behind a plan was corrected or taken back: the weeks to come follow, as drafts; what was decided stays."""
    _replan_coming(context, ReplanScope([athlete_id], touched=touched))


def _replan_coming(context: WorkContext, scope: ReplanScope) -> None:
    for block in coming_blocks(context):
        _replan(context, block, scope)


def publish_of_athlete(context: WorkContext, athlete_id: int, why: str) -> None:
    """Let the floor see an athlete's new level work at once, in blocks that are published."""
    rows = context.db.execute(
        select(Cell.id, Exercise.block_id)
        .join(Exercise, Cell.exercise_id == Exercise.id)
        .where(
            Cell.athlete_id == athlete_id,
            Cell.current,
            ~Cell.live,
            Cell.state == State.LEVEL,
            select(PlanVersion.id).where(PlanVersion.block_id == Exercise.block_id).exists(),
        )
    ).all()
    for block_id in sorted({block_id for _, block_id in rows}):
        make_live(context, block_id, [cell_id for cell_id, block in rows if block == block_id], why)
