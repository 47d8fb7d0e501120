"""What one exposure asks for, before any load is worked out."""

from dataclasses import dataclass
from enum import StrEnum


class ExposureKind(StrEnum):
    """What a session is for: work, a deload week, a test."""

    WORK = "work"
    DELOAD = "deload"
    TEST = "test"


class Basis(StrEnum):
    """Where the load of an exposure comes from."""

    MAX = "max"  # the inverse formula on the planning max
    LAST = "last"  # the last working load, so many steps on
    SHARE = "share"  # a share of the planning max, whatever the reps
    NONE = "none"  # no load is worked out


@dataclass(frozen=True)
class Aim:
    """How the load is found. `reserve_reps` is what the formula leaves where the plan starts from the max."""

    basis: Basis = Basis.MAX
    share: float = 1.0
    steps: int = 0
    reserve_reps: int | None = None  # None: the prescription's own
    reps: int | None = None  # for the formula; None: the prescription's own
    rises: bool = True  # a later wave's planning max is some steps up
    fresh: bool = False  # from the newest estimate, where that is above the planning max
    least_steps: int | None = None  # not lighter than the last load and so many steps
    waits: bool = False  # climbs only once the next load promises the bottom of the window


@dataclass(frozen=True)
class Prescription:
    """Sets × reps with reps left in reserve; `week` counts from 0 in the block, `wave` likewise.

    Where a lift done on several days climbs as one row, `week` counts its exposures (`Terms.a_week` of them a week).

    `low` and `high` are the window the reps grow in; both 0 where there is none.
    """

    week: int
    kind: ExposureKind
    sets: int
    reps: int
    reserve_reps: int
    rest_s: int
    tempo: str
    wave: int
    first_of_wave: bool
    top_of_wave: bool  # the last working week before the easy one
    aim: Aim = Aim()
    low: int = 0
    high: int = 0
    hold_s: int = 0  # seconds to hold; reps is then 1
    end_hold_s: int = 0  # held after the reps of every set
    last_to_failure: bool = False  # the last set alone

    @property
    def fixed_reps(self) -> bool:
        """A window of one number: the reps stay, only the load climbs."""
        return bool(self.low) and self.low == self.high

    @property
    def words(self) -> str:
        """4 × 6 · RIR 2, as a coach writes it at the head of a week."""
        if self.hold_s:
            return f"{self.sets} × {self.hold_s} s"
        if self.kind is ExposureKind.DELOAD:
            return f"deload {self.sets} × {self.reps}"
        if self.kind is ExposureKind.TEST:
            return f"test {self.sets} × {self.reps}"
        span = f"{self.low}–{self.high}" if self.low and self.reps == self.low != self.high else str(self.reps)
        held = f" + {self.end_hold_s} s" if self.end_hold_s else ""
        last = ", last to failure" if self.last_to_failure else ""
        return f"{self.sets} × {span}{held} · RIR {self.reserve_reps}{last}"
