"""What single athletes of the demo do apart: another room on some days, another progression in one lift."""

import datetime as dt
from collections.abc import Callable

from backsquat.core.readiness.flags import CheckInValues
from backsquat.demo.rooms import school_hall
from backsquat.storage.models import Block
from backsquat.work.context import WorkContext
from backsquat.work.health.check_ins import check_in
from backsquat.work.plan.cells import publish
from backsquat.work.plan.exercises import give_setting
from backsquat.work.plan.replan import ReplanScope, replan
from backsquat.work.plan.room_assignments import AssignmentFacts, assign_room
from backsquat.work.rooms.describe import save_room

CHECK_INS = {  # days before the demo's day → sleep, soreness, stress, back
    "Rania Haddad": {12: (4, 2, 2, 1), 7: (2, 4, 4, 2), 5: (2, 4, 4, 3), 3: (2, 4, 5, 5), 0: (2, 5, 4, 5)},
    "Sanne de Wit": {7: (3, 3, 3, 1), 5: (2, 4, 4, 1), 3: (2, 4, 4, 1), 0: (2, 4, 4, 1)},
    "Marit Holm": {7: (4, 2, 2, 0), 5: (5, 2, 1, 0), 0: (4, 2, 2, 0)},
    "Elsbeth Oyelaran": {0: (4, 2, 3, 1)},
}  # fmt: skip
AT_SCHOOL, CLIMBER = ("Petra Skov", "Suri Valdez"), "Oona Lachlan"
WEDNESDAYS = (dt.date(2026, 12, 2), dt.date(2026, 12, 18), 2)


def come_in(on: Callable[[dt.date, int], WorkContext], today: dt.date, id_of: Callable[[str], int]) -> None:
    """Some tell how they come to a session; one of them shows two red flags by now."""
    for name, days in CHECK_INS.items():
        for before, answers in days.items():
            day = today - dt.timedelta(days=before)
            check_in(on(day, 17), id_of(name), CheckInValues(day, *answers))


def train_apart(context: WorkContext, block: Block, id_of: Callable[[str], int]) -> None:
    """Two train at school on Wednesdays until the holidays; one climbs by a fixed step in the hinge."""
    room_id = save_room(context, school_hall(), further=True).subject_id
    for name in AT_SCHOOL:
        assign_room(context, AssignmentFacts(room_id, id_of(name), *WEDNESDAYS))
    hinge = next(exercise for exercise in block.exercises if exercise.movement == "romanian_deadlift")
    climber = id_of(CLIMBER)
    give_setting(context, hinge.id, [climber], "fixed", {"sets": 3, "reps": 5})
    replan(context, block.id, ReplanScope([climber], [hinge.id]))
    publish(context, block.id, "school hall, and another progression for one")
