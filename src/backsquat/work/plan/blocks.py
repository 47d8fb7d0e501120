"""Making a block: its sessions, its slots, and everybody's first drafts; and the block as a template."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.movements.library import Library
from backsquat.core.movements.manner import manner_from
from backsquat.core.progression.cell import SlotRole
from backsquat.core.progression.parameters import share_of
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.progression.usual_window import usual_window
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import Span
from backsquat.core.sessions.order import Place, places
from backsquat.library.templates import SlotEntry, TemplateEntry
from backsquat.storage.models import Block, BlockSlot, Cell
from backsquat.work.actor import Actor
from backsquat.work.library.movements import library_of
from backsquat.work.plan.drafts import planned_drafts
from backsquat.work.plan.slot_plan import known_candidates, slot_plan
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.sessions.blocks import session_on, to_come
from backsquat.work.squad.athletes import squad_athletes


@dataclass(frozen=True)
class SlotFacts:
    """One lift on one day, with the school's parameters as the coach gave them."""

    weekday: int  # 0 is Monday
    movement: str
    school: str
    parameters: dict[str, Any] = field(default_factory=dict)
    ladder: str = ""
    role: SlotRole = SlotRole.MAIN
    stack: int = 0
    variation: str = ""
    circuit: bool = False  # its stack goes round
    rest_s: int = 0  # after a set, or a round of its stack; 0: as the school says
    manner: dict[str, Any] = field(default_factory=dict)  # `core/movements/manner.py`


@dataclass(frozen=True)
class BlockFacts:
    """What the block form says."""

    name: str
    first_week: dt.date
    weeks: int
    in_season: bool
    slots: tuple[SlotFacts, ...]
    purpose: str = ""


def create_block(session: Session, actor: Actor, facts: BlockFacts, season: Span, rules: Rules) -> Block:
    """A block with every athlete's rows planned as a draft."""
    require(actor, Act.PLAN)
    _check(session, actor, facts, season)
    library = library_of(session, actor.squad_id)
    block = Block(
        squad_id=actor.squad_id,
        name=facts.name,
        first_week=facts.first_week,
        weeks=facts.weeks,
        in_season=facts.in_season,
        purpose=facts.purpose,
        by_id=actor.user_id,
        at=actor.now,
    )
    _put_slots(block, facts.slots, library, rules)
    session.add(block)
    session.flush()
    for slot in block.slots:
        plan_slot(session, actor, block, slot, rules)
    return block


def _put_slots(block: Block, slots: Sequence[SlotFacts], library: Library, rules: Rules) -> None:
    """Slots as rows in the order given, day by day; windows nobody gave follow from the order in the session."""
    ordered = sorted(slots, key=lambda slot: slot.weekday)
    for position, slot in enumerate(ordered):
        day = [other for other in ordered if other.weekday == slot.weekday]
        place = places([(library.get(movement_code(one, library)), one.stack) for one in day])[day.index(slot)]
        row = slot_row(slot, place, library, rules)
        if block.in_season:
            row.parameters = in_season(row.school, row.parameters, rules)
        row.position, row.session = position, session_on(block, slot.weekday)
        block.every_slot.append(row)


def movement_code(slot: SlotFacts, library: Library) -> str:
    """Code of the slot's movement; of a ladder its last rung."""
    if not slot.ladder:
        return slot.movement
    if slot.ladder not in library.ladders:
        raise NotThere("ladder")
    return library.ladders[slot.ladder].rungs[-1][0]


def slot_row(slot: SlotFacts, place: Place, library: Library, rules: Rules) -> BlockSlot:
    """A slot at its place in its session, without its session and position yet."""
    return BlockSlot(
        movement=library.get(movement_code(slot, library)).code,
        ladder=slot.ladder,
        school="ladder" if slot.ladder else slot.school,
        role=slot.role,
        stack=slot.stack,
        variation=slot.variation,
        circuit=slot.circuit,
        rest_s=slot.rest_s,
        manner=manner_from(slot.manner).to_plain(),
        parameters=windowed_parameters(slot, place, library, rules),
    )


def windowed_parameters(slot: SlotFacts, place: Place, library: Library, rules: Rules) -> dict[str, Any]:
    """The slot's parameters; for a rep window that nobody gave, the usual one of its order in the session."""
    given = dict(slot.parameters)
    clocked = not slot.ladder and library.get(slot.movement).work.seconds  # its own seconds, no window of reps
    if slot.school != "window" or "low" in given or "high" in given or slot.ladder or clocked:
        return given
    main = slot.role in (SlotRole.MAIN, SlotRole.SECOND)
    window = usual_window(library.get(slot.movement), place, main, rules)
    return {"low": window.low, "high": window.high, "placed": window.why, **dict(window.changes)} | given


def in_season(school: str, given: dict[str, Any], rules: Rules) -> dict[str, Any]:
    """The parameters with about half the sets, where the coach gave none; the load is kept."""
    usual = SCHOOLS[school].kind()
    if "sets" in given or not SCHOOLS[school].loaded:
        return given
    return given | {
        "sets": max(share_of(usual.sets, rules.in_season_sets), min(rules.in_season_least_sets, usual.sets))
    }


def plan_slot(session: Session, actor: Actor, block: Block, slot: BlockSlot, rules: Rules) -> None:
    """Plan a slot for everybody, from the next session on."""
    plan = slot_plan(session, block, slot, rules)
    athletes = squad_athletes(session, actor.squad_id)
    ready = readiness_of(session, actor.squad_id, athletes, actor.today, rules)
    known = known_candidates(session, ready, plan)
    weeks = {one.id: weeks_to_come(block, one, actor.today) for one in plan.same}
    drafts = planned_drafts(plan, athletes, known, weeks)
    if drafts:
        session.execute(insert(Cell), [draft.row(actor) for draft in drafts])


def weeks_to_come(block: Block, slot: BlockSlot, today: dt.date) -> list[int]:
    """Weeks whose session is not past; a block that lies wholly in the past is planned whole."""
    coming = [week for week in range(block.weeks) if to_come(slot, week, today)]
    return coming or list(range(block.weeks))


def next_week(block: Block, slot: BlockSlot, today: dt.date) -> int:
    """The week of the block whose session is the next; 0 where the block has not begun or is over."""
    return weeks_to_come(block, slot, today)[0]


def _check(session: Session, actor: Actor, facts: BlockFacts, season: Span) -> None:
    found = []
    last = facts.first_week + dt.timedelta(weeks=facts.weeks - 1)
    if facts.first_week.weekday() != 0:
        found.append(Problem("first_week", "not_monday"))
    elif facts.first_week not in season or last not in season:
        end = season.last_week + dt.timedelta(days=6)
        bounds = {"first": season.first_week.isoformat(), "last": end.isoformat()}
        found.append(Problem("first_week", "outside_season", bounds))
    for other in session.scalars(select(Block).where(Block.squad_id == actor.squad_id)):
        other_last = other.first_week + dt.timedelta(weeks=other.weeks - 1)
        if other.first_week <= last and facts.first_week <= other_last:
            found.append(Problem("first_week", "overlap", {"name": other.name}))
            break
    if not facts.slots:
        found.append(Problem("slots", "no_days"))
    if found:
        raise ImpossibleInput(*found)


def template_of(block: Block, words: str = "") -> TemplateEntry:
    """The block as a template: what a coach saves to use again or to share."""
    return TemplateEntry(
        name=block.name,
        purpose=block.purpose,
        words=words,
        weeks=block.weeks,
        in_season=block.in_season,
        slots=[_slot_entry(slot) for slot in block.slots],
    )


def _slot_entry(slot: BlockSlot) -> SlotEntry:
    return SlotEntry(
        day=slot.weekday,
        movement="" if slot.ladder else slot.movement,
        ladder=slot.ladder,
        school=slot.school,
        role=slot.role.value,
        stack=slot.stack,
        variation=slot.variation,
        circuit=slot.circuit,
        rest_s=slot.rest_s,
        manner=dict(slot.manner),
        parameters={name: value for name, value in slot.parameters.items() if name != "placed"},
    )
