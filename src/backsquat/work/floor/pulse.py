"""Whether anything has changed that a floor or an overview shows, told by a short text: cheap enough to ask each second.

What can change without a row being added is counted too: a stop cleared, a decision answered, a limit ended. A set taken
back is a row of its own.
"""

import datetime as dt
from collections.abc import Sequence
from hashlib import blake2b

from sqlalchemy import BindParameter, ColumnElement, ScalarSelect, bindparam, func, select, true
from sqlalchemy.orm import Session

from backsquat.storage.models import (
    Absence,
    Cell,
    DecisionRow,
    Limit,
    RoomRow,
    SessionAct,
    SetEntry,
    StationCheck,
    Stop,
)
from backsquat.work.squad.athletes import squad_athletes

_IDS: BindParameter[list[int]] = bindparam("ids", expanding=True)
_SQUAD: BindParameter[int] = bindparam("squad")
_DAY: BindParameter[dt.date] = bindparam("day")


def _number(column: ColumnElement[int], *where: ColumnElement[bool]) -> ScalarSelect[int]:
    return select(func.coalesce(column, 0)).where(*where).scalar_subquery()


_TODAY = SetEntry.athlete_id.in_(_IDS), SetEntry.done_on >= _DAY
_ACTS = SessionAct.athlete_id.in_(_IDS), SessionAct.done_on >= _DAY
_OPEN = DecisionRow.athlete_id.in_(_IDS), ~DecisionRow.settled
_PULSE = select(
    _number(func.max(SetEntry.id), *_TODAY),
    _number(func.max(SessionAct.id), *_ACTS),
    _number(func.sum(SessionAct.taken_back), *_ACTS),
    _number(func.max(DecisionRow.id), *_OPEN),
    _number(func.count(DecisionRow.id), *_OPEN),
    _number(func.max(Stop.id), Stop.athlete_id.in_(_IDS)),
    _number(func.count(Stop.cleared_on), Stop.athlete_id.in_(_IDS)),
    _number(func.max(Limit.id), Limit.athlete_id.in_(_IDS)),
    _number(func.sum(Limit.ended), Limit.athlete_id.in_(_IDS)),
    _number(func.max(Absence.id), Absence.athlete_id.in_(_IDS)),
    _number(func.count(Absence.back_on) + func.sum(Absence.withdrawn), Absence.athlete_id.in_(_IDS)),
    _number(func.max(Cell.id), Cell.athlete_id.in_(_IDS), Cell.live == true()),
    _number(func.max(StationCheck.id), StationCheck.room_id.in_(select(RoomRow.id).where(RoomRow.squad_id == _SQUAD))),
)


def squad_ids(db: Session, squad_id: int) -> list[int]:
    """Everybody of a squad who is not put away."""
    return [athlete.id for athlete in squad_athletes(db, squad_id)]


def pulse(db: Session, squad_id: int, athlete_ids: Sequence[int], since: dt.date) -> str:
    """A text that changes whenever something does that concerns these athletes since a day."""
    asked = {"ids": list(athlete_ids), "squad": squad_id, "day": since}
    row = db.execute(_PULSE, asked).one()
    return blake2b(repr(tuple(row)).encode(), digest_size=8).hexdigest()
