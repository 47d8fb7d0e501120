"""A squad, the values it has put in place of the defaults, its season and matches."""

import datetime as dt
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from backsquat.storage.models.base import Base, Key, Rows, Signed


class Squad(Base):
    __tablename__ = "squads"
    id: Mapped[Key]
    club: Mapped[str]
    name: Mapped[str]
    room_id: Mapped[int | None] = mapped_column(ForeignKey("rooms.id"))
    forecasts_until: Mapped[int | None]  # last set that may hold a forecast as if it had been said; empty: none does
    recount_after: Mapped[int | None]  # last set whose estimate follows the rules; empty: all
    # do; under nought: the sets do, and the beliefs of athletes up to this one, its sign turned and less one


class RuleChange(Signed, Base):
    """One default changed by a squad. Rows are only added; the newest of a name holds, null gives the default back."""

    __tablename__ = "rule_changes"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    name: Mapped[str]
    value: Mapped[Any] = mapped_column(JSON, nullable=True)


class Season(Base):
    __tablename__ = "seasons"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    name: Mapped[str]
    first_week: Mapped[dt.date]
    weeks: Mapped[int]


class Match(Base):
    __tablename__ = "matches"
    id: Mapped[Key]
    season_id: Mapped[int] = mapped_column(ForeignKey("seasons.id"), index=True)
    played_on: Mapped[dt.date]
    important: Mapped[bool] = mapped_column(default=False)
    away: Mapped[bool] = mapped_column(default=False)
    opponent: Mapped[str] = mapped_column(default="")
    competition: Mapped[str] = mapped_column(default="")
    dropped: Mapped[bool] = mapped_column(default=False)


class SeasonMark(Signed, Base):
    """Some days of a season that are one thing: a phase, a holiday, a trip, a camp, days of tests."""

    __tablename__ = "season_marks"
    id: Mapped[Key]
    season_id: Mapped[int] = mapped_column(ForeignKey("seasons.id"), index=True)
    kind: Mapped[str]  # code of MarkKind
    first_on: Mapped[dt.date]
    last_on: Mapped[dt.date]
    words: Mapped[str] = mapped_column(default="")
    weekdays: Mapped[Rows]  # of a phase: the days on which the squad trains, 0 is Monday; none: not said
    dropped: Mapped[bool] = mapped_column(default=False)


class CalendarAddress(Signed, Base):
    """A secret address from which calendar programs read the squad's sessions and matches, until it is taken back."""

    __tablename__ = "calendar_addresses"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    token: Mapped[str] = mapped_column(unique=True)  # the digest of it
    ended_at: Mapped[dt.datetime | None]


class ColumnName(Base):
    """What the squad's own lists call a column, and what it holds: known again the next time."""

    __tablename__ = "column_names"
    __table_args__ = (UniqueConstraint("squad_id", "list", "head"),)
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"))
    list: Mapped[str]  # kind of list: athletes, sets, screens, matches
    head: Mapped[str]  # in small letters
    holds: Mapped[str]


class MatchMinutes(Signed, Base):
    """How long somebody played in a match. Rows are only added; the newest holds, one without minutes takes it back."""

    __tablename__ = "match_minutes"
    __table_args__ = (Index(None, "match_id", "athlete_id"),)
    id: Mapped[Key]
    match_id: Mapped[int] = mapped_column(ForeignKey("matches.id"))
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    minutes: Mapped[int | None]
