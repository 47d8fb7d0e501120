"""The demo's sessions: what stands beside the main lifts, in supersets and circuits, with spare minutes."""

import datetime as dt
import random
from decimal import Decimal
from uuid import UUID

from backsquat.core.loads.mass import Unit
from backsquat.core.progression.cell import ExerciseRole
from backsquat.library.shelf import movements
from backsquat.storage.models import Block, Cell, Exercise
from backsquat.work.context import WorkContext
from backsquat.work.plan.arrangement import SessionFacts, change_session
from backsquat.work.plan.blocks import ExerciseFacts
from backsquat.work.plan.cells import publish
from backsquat.work.plan.exercises import add_exercise
from backsquat.work.record.record import SetFacts

SESSIONS = (("Squat day", 60), ("Hinge day", 50))  # on Wednesdays the hall is free for fifty minutes
BESIDE = (
    ExerciseFacts(0, "rear_raised_dumbbells", "window", {"sets": 2}, role=ExerciseRole.SECOND, superset=1),
    ExerciseFacts(2, "lying_curl", "window", {"sets": 3}, role=ExerciseRole.ASSISTANCE),
)
FURTHER = (  # put in on the Sunday before the demo's day: a superset's second, a circuit, work for spare minutes
    ExerciseFacts(0, "plank_row", "window", {"sets": 2}, role=ExerciseRole.ASSISTANCE, superset=1),
    ExerciseFacts(0, "calf_raise", "window", {"sets": 2}, role=ExerciseRole.ASSISTANCE, superset=2, circuit=True),
    ExerciseFacts(0, "side_foot_hinge", "window", {"sets": 2}, role=ExerciseRole.ASSISTANCE, superset=2, circuit=True),
    ExerciseFacts(0, "crawling", "window", {"sets": 2}, role=ExerciseRole.ASSISTANCE, superset=2, circuit=True),
    ExerciseFacts(0, "free_exploration", "window", {"sets": 1}, role=ExerciseRole.SPARE),
    ExerciseFacts(2, "plank_row", "window", {"sets": 3}, role=ExerciseRole.ASSISTANCE),
    ExerciseFacts(2, "calf_raise", "window", {"sets": 2}, role=ExerciseRole.ASSISTANCE),
    ExerciseFacts(2, "free_exploration", "window", {"sets": 1}, role=ExerciseRole.SPARE),
)


def name_sessions(context: WorkContext, block: Block) -> None:
    """Name the sessions and give them their minutes."""
    for held, (name, minutes) in zip(block.sessions, SESSIONS, strict=True):
        change_session(context, held.id, SessionFacts(name, minutes))


def fill_sessions(context: WorkContext, block: Block) -> None:
    """From this week on more stands beside the main lifts: a week ago nobody had the time."""
    for facts in FURTHER:
        add_exercise(context, block.id, facts)
    publish(context, block.id, "more beside the main lifts")


def work_beside(cell: Cell, exercise: Exercise, day: dt.date, luck: random.Random) -> list[SetFacts]:
    """The sets of work beside the main lifts, made as asked, with some luck in what was left."""
    usual = {"stack": 20 + 5 * (cell.athlete_id % 4), "dumbbells": 8, "held": 8}
    first = usual.get(movements()[cell.movement or exercise.movement].convention, 0)
    load = Decimal(first) if cell.load_amount is None else cell.load_amount
    sets = []
    for number in range(cell.sets):
        client_id = str(UUID(int=luck.getrandbits(128), version=4))
        left = max(1, 3 - number - luck.randrange(2))
        sets.append(SetFacts(client_id, load, Unit(cell.load_unit), cell.reps, cell.reps, left, day))
    return sets
