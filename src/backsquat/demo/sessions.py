"""The demo's sessions: what stands beside the main lifts, in stacks and circuits, with spare minutes."""

import datetime as dt
import random
from decimal import Decimal
from uuid import UUID

from sqlalchemy.orm import Session

from backsquat.core.loads.mass import Unit
from backsquat.core.progression.cell import SlotRole
from backsquat.core.rules import Rules
from backsquat.library.shelf import movements
from backsquat.storage.models import Block, BlockSlot, Cell
from backsquat.work.actor import Actor
from backsquat.work.plan.arrangement import SessionFacts, change_session
from backsquat.work.plan.blocks import SlotFacts
from backsquat.work.plan.cells import publish
from backsquat.work.plan.slots import add_slot
from backsquat.work.record.record import SetFacts

SESSIONS = (("Squat day", 60), ("Hinge day", 50))  # on Wednesdays the hall is free for fifty minutes
BESIDE = (
    SlotFacts(0, "rear_raised_dumbbells", "window", {"sets": 2}, role=SlotRole.SECOND, stack=1),
    SlotFacts(2, "lying_curl", "window", {"sets": 3}, role=SlotRole.ASSISTANCE),
)
FURTHER = (  # put in on the Sunday before the demo's day: a stack's second, a circuit, work for spare minutes
    SlotFacts(0, "plank_row", "window", {"sets": 2}, role=SlotRole.ASSISTANCE, stack=1),
    SlotFacts(0, "calf_raise", "window", {"sets": 2}, role=SlotRole.ASSISTANCE, stack=2, circuit=True),
    SlotFacts(0, "side_foot_hinge", "window", {"sets": 2}, role=SlotRole.ASSISTANCE, stack=2, circuit=True),
    SlotFacts(0, "crawling", "window", {"sets": 2}, role=SlotRole.ASSISTANCE, stack=2, circuit=True),
    SlotFacts(0, "free_exploration", "window", {"sets": 1}, role=SlotRole.SPARE),
    SlotFacts(2, "plank_row", "window", {"sets": 3}, role=SlotRole.ASSISTANCE),
    SlotFacts(2, "calf_raise", "window", {"sets": 2}, role=SlotRole.ASSISTANCE),
    SlotFacts(2, "free_exploration", "window", {"sets": 1}, role=SlotRole.SPARE),
)


def name_sessions(session: Session, actor: Actor, block: Block) -> None:
    """Name the sessions and give them their minutes."""
    for held, (name, minutes) in zip(block.sessions, SESSIONS, strict=True):
        change_session(session, actor, held.id, SessionFacts(name, minutes))


def fill_sessions(session: Session, actor: Actor, block: Block, rules: Rules) -> None:
    """From this week on more stands beside the main lifts: a week ago nobody had the time."""
    for facts in FURTHER:
        add_slot(session, actor, block.id, facts, rules)
    publish(session, actor, block.id, "more beside the main lifts")


def work_beside(cell: Cell, slot: BlockSlot, day: dt.date, luck: random.Random) -> list[SetFacts]:
    """The sets of work beside the main lifts, made as asked, with some luck in what was left."""
    usual = {"stack": 20 + 5 * (cell.athlete_id % 4), "dumbbells": 8, "held": 8}
    first = usual.get(movements()[cell.movement or slot.movement].convention, 0)
    load = Decimal(first) if cell.load_amount is None else cell.load_amount
    sets = []
    for number in range(cell.sets):
        client_id = str(UUID(int=luck.getrandbits(128), version=4))
        left = max(1, 3 - number - luck.randrange(2))
        sets.append(SetFacts(client_id, load, Unit(cell.load_unit), cell.reps, cell.reps, left, day))
    return sets
