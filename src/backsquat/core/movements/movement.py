"""What a movement is, as far as planning, logging and safety need to know it."""

from dataclasses import dataclass
from enum import StrEnum


class Family(StrEnum):
    SQUAT = "squat"
    HINGE = "hinge"
    SINGLE_LEG = "single-leg"
    CURL = "curl"
    THRUST = "thrust"
    OTHER = "other"


class Region(StrEnum):
    """Where pain can be and what a movement loads."""

    KNEE = "knee"
    GROIN = "groin"
    HIP = "hip"
    THIGH_FRONT = "front of thigh"
    THIGH_BACK = "back of thigh"
    CALF = "calf"
    ANKLE = "ankle"
    LOWER_BACK = "lower back"
    UPPER_BACK = "upper back"
    SHOULDER = "shoulder"
    NECK = "neck"


@dataclass(frozen=True)
class Fault:
    """A form fault: its look, one fix, and whether it makes a set not count."""

    code: str
    look: str
    fix: str
    breaking: bool = True


@dataclass(frozen=True)
class DepthStandard:
    """How far down a rep must go to count."""

    code: str
    words: str


@dataclass(frozen=True)
class Movement:
    code: str
    name: str
    tag: str  # one letter of the family, so that colour never stands alone
    family: Family
    convention: str  # code in core/loads/conventions.py
    purpose: str
    regions: frozenset[Region]
    cues: tuple[str, ...]
    faults: tuple[Fault, ...]
    safety: str
    depth: DepthStandard

    def fault(self, code: str) -> Fault | None:
        return next((fault for fault in self.faults if fault.code == code), None)
