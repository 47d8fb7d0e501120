"""All tables; importing this package registers every one with `Base.metadata`."""

from backsquat.storage.models.accounts import Membership, User
from backsquat.storage.models.athletes import Athlete, BodyMass, DepthChoice, Milestone, SetUpNote, Stop
from backsquat.storage.models.base import Base
from backsquat.storage.models.blocks import Block, BlockSlot, Cell, PlanVersion
from backsquat.storage.models.journal import Change
from backsquat.storage.models.library import LibraryEntry
from backsquat.storage.models.log import Answer, DecisionRow, SetEntry, WeekAnswer
from backsquat.storage.models.readiness import (
    Absence,
    GateOverride,
    HealthNote,
    Limit,
    Reading,
    RungMove,
    ScreenResult,
)
from backsquat.storage.models.room import BarRow, PlateRow, RoomRow, StationCheck
from backsquat.storage.models.squad import Match, RuleChange, Season, Squad

__all__ = [
    "Absence", "Answer", "Athlete", "BarRow", "Base", "Block", "BlockSlot", "BodyMass", "Cell", "Change",
    "DecisionRow", "DepthChoice", "GateOverride", "HealthNote", "LibraryEntry", "Limit", "Match", "Membership",
    "Milestone", "PlanVersion", "PlateRow", "Reading", "RoomRow", "RuleChange", "RungMove", "ScreenResult", "Season",
    "SetEntry", "SetUpNote", "Squad", "StationCheck", "Stop", "User", "WeekAnswer",
]  # fmt: skip
