"""What became of a maximum over a block: it rose, it stayed, it fell, and how sure that is."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Protocol

from backsquat.core.rules import Rules


class Ranged(Protocol):
    """A maximum with the range that holds it four times in five."""

    @property
    def max_kg(self) -> float:
        """What is believed."""

    @property
    def low_kg(self) -> float:
        """The lower end of the range."""

    @property
    def high_kg(self) -> float:
        """Its upper end."""


class Course(StrEnum):
    """Which way a maximum went."""

    ROSE = "rose"
    STAYED = "stayed"
    FELL = "fell"


@dataclass(frozen=True)
class MaxChange:
    """From a maximum to a later one. `sure`: the ranges that hold four in five lie apart."""

    before_kg: float
    after_kg: float
    share: float
    course: Course
    sure: bool


def change(before: Ranged, after: Ranged, rules: Rules) -> MaxChange:
    """Risen or fallen by `outcome_share` or more; less is what a week more or less makes of anybody."""
    share = after.max_kg / before.max_kg - 1 if before.max_kg > 0 else 0.0
    course = Course.STAYED
    if abs(share) >= rules.outcome_share:
        course = Course.ROSE if share > 0 else Course.FELL
    apart = after.low_kg > before.high_kg or after.high_kg < before.low_kg
    return MaxChange(before.max_kg, after.max_kg, share, course, apart)
