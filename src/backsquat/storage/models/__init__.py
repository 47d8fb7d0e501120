"""All tables; importing this package registers every one with `Base.metadata`."""

from backsquat.storage.models.accounts import AthletePass, Membership, OneTimeLink, SignIn, User
from backsquat.storage.models.athletes import (
    Athlete,
    BodyMass,
    Consent,
    DepthChoice,
    Height,
    Milestone,
    SetUpNote,
    Stop,
)
from backsquat.storage.models.base import Base
from backsquat.storage.models.blocks import (
    AthleteSchool,
    Block,
    BlockSession,
    BlockSlot,
    Cell,
    PlanVersion,
    SessionAct,
    SessionDay,
    SlotWeek,
)
from backsquat.storage.models.journal import AuditLine, Change
from backsquat.storage.models.library import LibraryEntry
from backsquat.storage.models.log import Answer, BeliefDay, DecisionRow, MissedAnswer, SetEntry, WeekAnswer
from backsquat.storage.models.post import Message, PostAddress
from backsquat.storage.models.readiness import (
    Absence,
    CheckIn,
    GateOverride,
    HealthNote,
    Limit,
    Reading,
    ReturnWeek,
    RungMove,
    ScreenResult,
)
from backsquat.storage.models.room import BarRow, PlateRow, RoomAssignment, RoomRow, StationCheck
from backsquat.storage.models.squad import CalendarAddress, ColumnName, Match, RuleChange, Season, SeasonMark, Squad
from backsquat.storage.models.technique import BodyLength, Still, StillMark

__all__ = [
    "Absence",
    "Answer",
    "Athlete",
    "AthletePass",
    "AthleteSchool",
    "AuditLine",
    "BarRow",
    "Base",
    "BeliefDay",
    "Block",
    "BlockSession",
    "BlockSlot",
    "BodyLength",
    "BodyMass",
    "CalendarAddress",
    "Cell",
    "Change",
    "CheckIn",
    "ColumnName",
    "Consent",
    "DecisionRow",
    "DepthChoice",
    "GateOverride",
    "HealthNote",
    "Height",
    "LibraryEntry",
    "Limit",
    "Match",
    "Membership",
    "Message",
    "Milestone",
    "MissedAnswer",
    "OneTimeLink",
    "PlanVersion",
    "PlateRow",
    "PostAddress",
    "Reading",
    "ReturnWeek",
    "RoomAssignment",
    "RoomRow",
    "RuleChange",
    "RungMove",
    "ScreenResult",
    "Season",
    "SeasonMark",
    "SessionAct",
    "SessionDay",
    "SetEntry",
    "SetUpNote",
    "SignIn",
    "SlotWeek",
    "Squad",
    "StationCheck",
    "Still",
    "StillMark",
    "Stop",
    "User",
    "WeekAnswer",
]
