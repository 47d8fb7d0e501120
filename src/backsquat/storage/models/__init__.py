"""All tables; importing this package registers every one with `Base.metadata`."""

from backsquat.storage.models.accounts import Membership, User
from backsquat.storage.models.athletes import Athlete, BodyMass, Milestone, Stop
from backsquat.storage.models.base import Base
from backsquat.storage.models.blocks import Block, BlockSlot, Cell, PlanVersion
from backsquat.storage.models.journal import Change
from backsquat.storage.models.log import Answer, DecisionRow, SetEntry
from backsquat.storage.models.room import BarRow, PlateRow, RoomRow
from backsquat.storage.models.squad import Match, RuleChange, Season, Squad

__all__ = [
    "Answer", "Athlete", "BarRow", "Base", "Block", "BlockSlot", "BodyMass", "Cell", "Change", "DecisionRow",
    "Match", "Membership", "Milestone", "PlanVersion", "PlateRow", "RoomRow", "RuleChange", "Season", "SetEntry",
    "Squad", "Stop", "User",
]  # fmt: skip
