"""What one exposure asks for, before any load is worked out."""

from dataclasses import dataclass
from enum import StrEnum


class Kind(StrEnum):
    WORK = "work"
    EASY = "easy"


@dataclass(frozen=True)
class Prescription:
    """Sets × reps with reps left in reserve; `week` counts from 0 in the block, `wave` likewise."""

    week: int
    kind: Kind
    sets: int
    reps: int
    reserve_reps: int
    rest_s: int
    tempo: str  # seconds down–bottom–up–top
    wave: int
    first_of_wave: bool
    top_of_wave: bool  # the last working week before the easy one
