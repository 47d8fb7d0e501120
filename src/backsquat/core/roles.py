"""Roles of people in a squad."""

from enum import StrEnum


class Role(StrEnum):
    """What somebody is to a squad; what each may do is the policy's matter (`work/policy.py`)."""

    COACH = "coach"
    ASSISTANT = "assistant"  # runs the floor and the screens
    PHYSIO = "physio"  # health notes, stops, limits, clearances
    ATHLETE = "athlete"  # the own card, log and numbers, and nobody else's


STAFF = (Role.COACH, Role.ASSISTANT, Role.PHYSIO)
