"""Planning anew: what it would change, and doing it as a draft."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import LIFTED, Origin, State
from backsquat.core.readiness.verdict import Readiness, Reason
from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, Block, BlockSlot, Cell, PlanVersion
from backsquat.work.actor import Actor
from backsquat.work.journal import remember
from backsquat.work.library.movements import library_of
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.cells import UNREAD, cell_load, make_live, movement_of, place_drafts
from backsquat.work.plan.difference import Replanned, row_key
from backsquat.work.plan.drafts import Draft, planned_drafts
from backsquat.work.plan.school_settings import SchoolSetting, athlete_settings
from backsquat.work.plan.slot_plan import SlotPlan, known_candidates, slot_plan
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.sessions.blocks import block_of, coming_blocks, session_day, to_come
from backsquat.work.squad.athletes import squad_athletes

Standing = Mapping[tuple[int, int], Cell]  # (athlete, week) → what stands there


@dataclass(frozen=True)
class ReplanScope:
    """What is planned anew: which athletes, slots, weeks; all where nothing is said."""

    athlete_ids: Collection[int] | None = None
    slot_ids: Collection[int] | None = None
    from_week: int = 0
    only_refused: bool = False  # only rows that had no load
    tested: str = ""  # with those: rows by ratio of this movement, which has a test of its own now
    touched: Callable[[Movement], bool] | None = None  # only slots of these movements
    keep_own: bool = True  # the coach's own loads stay
    over_decided: bool = False  # what was decided after a session gives way: to a limit, a return, another room
    rows: Collection[str] | None = None  # only these rows of the difference, by their keys; decided ones too

    def holds(self, slot: BlockSlot, library: Library) -> bool:
        """Whether a slot is among those planned anew."""
        named = self.slot_ids is None or slot.id in self.slot_ids
        return named and (self.touched is None or self.touched(library.get(slot.movement)))

    def takes(self, change: Replanned) -> bool:
        """Whether a change is carried out: what was decided only where the coach names the row, or a later fact does."""
        if self.rows is None:
            return self.over_decided or not change.decided
        return row_key(change.slot.id, change.draft.athlete_id, change.decided) in self.rows

    def due(
        self, slot: BlockSlot, standing: Standing, ready: Readiness, movement: Movement, weeks: Sequence[int]
    ) -> bool:
        """Whether an athlete's row of a slot is among those planned anew."""
        athlete_id = ready.person.id
        if not self.only_refused or _without_load(standing, athlete_id, weeks):
            return True
        if ready.judge(movement).has(Reason.GATED, Reason.UNEARNED):
            return True
        return slot.movement == self.tested and _by_ratio(standing, athlete_id, weeks)


EVERYTHING = ReplanScope()
REFUSED = frozenset(State) - {State.LOAD, State.UNDER_BAR}


def replanned(
    session: Session, actor: Actor, block: Block, rules: Rules, scope: ReplanScope = EVERYTHING
) -> list[Replanned]:
    """What planning anew from today's records would change. What is past, logged or the coach's own stays.

    What was decided after a session is listed and marked; `ReplanScope.takes` says whether it gives way.
    """
    library = library_of(session, actor.squad_id)
    slots = [slot for slot in block.slots if scope.holds(slot, library)]
    logged = logged_cells(session, [slot.id for slot in slots])
    settings = athlete_settings(session, [slot.id for slot in block.slots])
    everybody = squad_athletes(session, actor.squad_id)
    athletes = [a for a in everybody if scope.athlete_ids is None or a.id in scope.athlete_ids]
    ready = readiness_of(session, actor.squad_id, athletes, actor.today, rules)
    decided_in = _weeks_of_decisions(session, [slot.id for slot in slots])
    found = []
    for slot in slots:
        standing = _standing(session, slot, None if scope.athlete_ids is None else [a.id for a in athletes])
        weeks = _coming(block, slot, scope, actor)
        movement = library.get(slot.movement)
        here = [a for a in athletes if scope.due(slot, standing, ready[a.id], movement, weeks)]
        if not here:
            continue
        plan = slot_plan(session, block, slot, rules, settings)
        known = known_candidates(session, {athlete.id: ready[athlete.id] for athlete in here}, plan)
        for draft in planned_drafts(
            plan, here, known, {one.id: _coming(block, one, scope, actor) for one in plan.same}
        ):
            before = standing.get((draft.athlete_id, draft.week))
            is_logged = (slot.id, draft.athlete_id, draft.week) in logged
            if not is_logged and _replaces(before, draft, scope, plan, ready[draft.athlete_id]):
                found.append(_change(before, draft, plan, ready[draft.athlete_id], decided_in))
    return found


def _coming(block: Block, slot: BlockSlot, scope: ReplanScope, actor: Actor) -> list[int]:
    """The weeks of a slot that are planned anew."""
    return [week for week in range(scope.from_week, block.weeks) if to_come(slot, week, actor.today)]


def _change(
    before: Cell | None, draft: Draft, plan: SlotPlan, ready: Readiness, decided_in: Mapping[int, int]
) -> Replanned:
    """A change with what explains it; a number nobody may lift, or the room has no more, is decided no more."""
    movement = movement_of(ready.library, plan.slot, before) if before else plan.movement
    verdict = ready.judge(movement, session_day(plan.slot, draft.week), before.load_kg if before else None)
    obstacle = verdict.but(Reason.AWAY).first if before and before.state in LIFTED else None
    in_stock = before is None or _in_stock(before, plan)
    decided = _still_decided(before, plan.of(draft.athlete_id).setting, decided_in)
    decided = decided and obstacle is None and in_stock
    return Replanned(plan.slot, before, draft, decided, obstacle, verdict.ease is not None, in_stock)


def _in_stock(cell: Cell, plan: SlotPlan) -> bool:
    """Whether the room of a cell still has its load."""
    return cell.load_amount is None or cell_load(plan.rooms.of_cell(cell), plan.movement, cell) is not None


def _still_decided(before: Cell | None, setting: SchoolSetting, decided_in: Mapping[int, int]) -> bool:
    """Whether a number was decided after a session of the school that is followed now."""
    if before is None or before.origin is not Origin.DECISION:
        return False
    week = decided_in.get(before.decided_on_id or 0)
    return week is None or week >= setting.from_week


def _weeks_of_decisions(session: Session, slot_ids: Sequence[int]) -> dict[int, int]:
    """Week of the block by cell, of those cells a later number was decided on."""
    rows = session.execute(
        select(Cell.id, Cell.week).where(
            Cell.id.in_(
                select(Cell.decided_on_id).where(
                    Cell.slot_id.in_(slot_ids), Cell.current, Cell.decided_on_id.is_not(None)
                )
            )
        )
    )
    return dict(rows.all())


def _standing(session: Session, slot: BlockSlot, athlete_ids: Collection[int] | None) -> Standing:
    """What stands in a slot; `athlete_ids`: of these alone. How it was worked out is not asked for."""
    query = select(Cell).where(Cell.slot_id == slot.id, Cell.current).options(*UNREAD)
    cells = session.scalars(query if athlete_ids is None else query.where(Cell.athlete_id.in_(athlete_ids)))
    return {(cell.athlete_id, cell.week): cell for cell in cells}


def _replaces(before: Cell | None, draft: Draft, scope: ReplanScope, plan: SlotPlan, ready: Readiness) -> bool:
    """Whether a draft takes the cell's stead: it says something else, and the coach has not put it there.

    The coach's own number stays, but for one over a limit that a physio or doctor has set since.
    """
    if before is None:
        return True
    if before.origin is Origin.COACH and scope.keep_own:
        day = session_day(plan.slot, draft.week)
        movement = movement_of(ready.library, plan.slot, before)
        if not (scope.over_decided and ready.judge(movement, day, before.load_kg).has(Reason.OVER_LIMIT)):
            return False
    return draft.differs_from(before)


def _without_load(standing: Standing, athlete_id: int, weeks: Sequence[int]) -> bool:
    cells = [standing.get((athlete_id, week)) for week in weeks]
    return any(cell is None or cell.state in REFUSED for cell in cells)


def _by_ratio(standing: Standing, athlete_id: int, weeks: Sequence[int]) -> bool:
    cells = [standing.get((athlete_id, week)) for week in weeks]
    return any(cell is not None and cell.by_ratio for cell in cells)


def replan(session: Session, actor: Actor, block_id: int, rules: Rules, scope: ReplanScope = EVERYTHING) -> int:
    """Plan the weeks to come anew as a draft, on the coach's word; returns how many cells changed."""
    require(actor, Act.PLAN)
    return _replan(session, actor, block_of(session, actor.squad_id, block_id), rules, scope)


def _replan(session: Session, actor: Actor, block: Block, rules: Rules, scope: ReplanScope) -> int:
    return take_changes(
        session, actor, block, [one for one in replanned(session, actor, block, rules, scope) if scope.takes(one)]
    )


def take_changes(session: Session, actor: Actor, block: Block, changes: Sequence[Replanned]) -> int:
    """Write what planning anew would change as drafts, all of it; returns how many cells.

    Whoever calls has asked who may: a physio's limit is followed by the plan too.
    """
    drafts = [change.draft for change in changes]
    joining = _joining(session, block, drafts)
    facts = {"count": sum(draft.athlete_id not in joining for draft in drafts), "joined": sorted(joining.values())}
    placed = place_drafts(session, actor, drafts)
    if placed.ids:
        before = {"cells": placed.replaced, "new": placed.new}
        remember(session, actor, what="replanned", subject="cells", subject_id=block.id, before=before, facts=facts)
    return len(drafts)


def _joining(session: Session, block: Block, drafts: Sequence[Draft]) -> dict[int, str]:
    """Names of those who had nothing planned in the block until now."""
    ids = {draft.athlete_id for draft in drafts}
    here = select(Cell.athlete_id).where(
        Cell.slot_id.in_([slot.id for slot in block.slots]), Cell.athlete_id.in_(ids), Cell.current
    )
    new = ids - set(session.scalars(here.distinct()))
    return dict(session.execute(select(Athlete.id, Athlete.name).where(Athlete.id.in_(new))).all())


def refresh_athlete(session: Session, actor: Actor, athlete_id: int, rules: Rules, *, tested: str = "") -> None:
    """After a test, a clearance or a passed gate: loads for the athlete's empty rows, as drafts.

    `tested` names the movement of a test: where it stood by ratio to another lift, it stands on its own now.
    """
    _replan_coming(session, actor, rules, ReplanScope([athlete_id], only_refused=True, tested=tested))


def replan_athlete(
    session: Session, actor: Actor, athlete_id: int, rules: Rules, touched: Callable[[Movement], bool] | None = None
) -> None:
    """A limit or a return has changed what the athlete may do: the weeks to come follow, as drafts."""
    _replan_coming(session, actor, rules, ReplanScope([athlete_id], touched=touched, over_decided=True))


def replan_records(
    session: Session, actor: Actor, athlete_id: int, rules: Rules, touched: Callable[[Movement], bool]
) -> None:
    """A record behind a plan was corrected or taken back: the weeks to come follow, as drafts; what was decided stays."""
    _replan_coming(session, actor, rules, ReplanScope([athlete_id], touched=touched))


def _replan_coming(session: Session, actor: Actor, rules: Rules, scope: ReplanScope) -> None:
    for block in coming_blocks(session, actor):
        _replan(session, actor, block, rules, scope)


def publish_of_athlete(session: Session, actor: Actor, athlete_id: int, why: str) -> None:
    """Let the floor see an athlete's new rung work at once, in blocks that are published."""
    rows = session.execute(
        select(Cell.id, BlockSlot.block_id)
        .join(BlockSlot, Cell.slot_id == BlockSlot.id)
        .where(
            Cell.athlete_id == athlete_id,
            Cell.current,
            ~Cell.live,
            Cell.state == State.RUNG,
            select(PlanVersion.id).where(PlanVersion.block_id == BlockSlot.block_id).exists(),
        )
    ).all()
    for block_id in sorted({block_id for _, block_id in rows}):
        make_live(session, actor, block_id, [cell_id for cell_id, block in rows if block == block_id], why)
