"""What a cell of the sheet can be: one exercise, one athlete, one week."""

from enum import StrEnum


class State(StrEnum):
    """What a cell holds: a load, work without one, or why there is neither."""

    LOAD = "load"
    UNDER_BAR = "under_bar"  # the target is under the lightest load there is
    NEEDS_TEST = "needs_test"
    NOT_READY = "not_ready"
    LOCKED = "locked"
    LEVEL = "level"  # the work of the athlete's own level, or of what stands in
    WORK = "work"  # sets and reps without a worked-out load
    NO_LEVEL = "no_level"  # not placed on the ladder yet
    NO_ROOM = "no_room"  # this room cannot rig it and has nothing like it
    LEFT_OUT = "left_out"  # the coach has left it out for this athlete


UNLOADED = (State.LEVEL, State.WORK)  # work without a worked-out load, away from the rack
LIFTED = (State.LOAD, *UNLOADED)  # what there is something to do in


class Origin(StrEnum):
    """Who put the number there."""

    PLAN = "plan"
    COACH = "coach"  # the coach's own: planning again leaves it
    DECISION = "decision"  # after a session


class StandIn(StrEnum):
    """Why another movement than the exercise's is done."""

    NOT = ""  # the exercise's own movement
    LEVEL = "level"  # the exercise is everybody's own level
    READINESS_CHECK = "readiness_check"  # a readiness check before the movement is shut
    LADDER = "ladder"  # the movement is a harder level than the athlete has earned
    ROOM = "room"  # the room of that day cannot rig it
    LIMIT = "limit"  # a limit forbids it
    CHOSEN = "chosen"  # the coach's choice for this athlete
    LIGHT = "light"  # less than the lightest load there is: the level without one


class ExerciseRole(StrEnum):
    """What an exercise is to its session."""

    MAIN = "main"
    SECOND = "second"
    ASSISTANCE = "assistance"
    SPARE = "spare"  # only if minutes are left
