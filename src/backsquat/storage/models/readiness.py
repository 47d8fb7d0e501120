"""What is known of an athlete's readiness: screens, levels, readiness checks, limits, absences, health notes.

Results and moves are only added. What has a present state is ended, never removed.
"""

import datetime as dt

from sqlalchemy import ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from backsquat.storage.models.base import Base, Key, Plain, Signed


class ScreenResult(Signed, Base):
    """One value of a screen on a day, for one side or neither. A second value of the day replaces the first."""

    __tablename__ = "screen_results"
    __table_args__ = (
        Index("ix_screen_results_newest", "athlete_id", "screen", "side", "done_on"),
        Index(
            "uq_screen_results_day",
            "athlete_id",
            "screen",
            "side",
            "done_on",
            unique=True,
            sqlite_where=text("replaced = 0"),
        ),
    )
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    screen: Mapped[str]
    side: Mapped[str] = mapped_column(default="")  # left, right, or empty
    value: Mapped[float | None]  # None: taken back
    note: Mapped[str] = mapped_column(default="")
    done_on: Mapped[dt.date]
    replaced: Mapped[bool] = mapped_column(default=False)


class LevelMove(Signed, Base):
    """Where an athlete stands on a ladder from a day on, and why. The newest of a ladder holds."""

    __tablename__ = "level_moves"
    __table_args__ = (Index("ix_level_moves_athlete", "athlete_id", "ladder"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    ladder: Mapped[str]
    level: Mapped[int]
    movement: Mapped[str]
    way: Mapped[str]  # placed, harder, easier, taken back
    reason: Mapped[str]
    facts: Mapped[Plain]


class ReadinessClearance(Signed, Base):
    """Somebody let an athlete past a readiness check by name, with a reason; `ended` shuts it again."""

    __tablename__ = "readiness_clearances"
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    readiness_check: Mapped[str]
    reason: Mapped[str]
    ended: Mapped[bool] = mapped_column(default=False)


class Limit(Signed, Base):
    """What an athlete may not do, or only so far, from a day until a day (or until ended)."""

    __tablename__ = "limits"
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    scope: Mapped[str]  # movement, family or region
    what: Mapped[str]  # code of the movement, family or region
    kind: Mapped[str]  # none at all, load, range, side
    load_kg: Mapped[float | None]
    words: Mapped[str] = mapped_column(default="")  # the range or side in words
    from_on: Mapped[dt.date]
    until_on: Mapped[dt.date | None]
    set_by: Mapped[str]  # who said so: name and role
    stop_id: Mapped[int | None] = mapped_column(ForeignKey("stops.id"))
    ended: Mapped[bool] = mapped_column(default=False)


class Absence(Signed, Base):
    """Time away from training, and the eased return that was accepted."""

    __tablename__ = "absences"
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    first_on: Mapped[dt.date]
    back_on: Mapped[dt.date | None]  # None: still away
    why: Mapped[str]  # away, illness, injury, pain stop
    cleared: Mapped[str] = mapped_column(default="")  # who cleared an illness or injury
    movement: Mapped[str] = mapped_column(default="")  # after a pain stop: eased are what it had locked
    region: Mapped[str] = mapped_column(default="")
    withdrawn: Mapped[bool] = mapped_column(default=False)
    weeks: Mapped[list["ReturnWeek"]] = relationship(
        order_by="ReturnWeek.week", cascade="all, delete-orphan", lazy="selectin"
    )


class ReturnWeek(Base):
    """One week of an accepted return: load and sets as shares of the plan's; week 0 begins on the day back."""

    __tablename__ = "return_weeks"
    __table_args__ = (UniqueConstraint("absence_id", "week"),)
    id: Mapped[Key]
    absence_id: Mapped[int] = mapped_column(ForeignKey("absences.id"))
    week: Mapped[int]
    load_share: Mapped[float]
    sets_share: Mapped[float]


class HealthNote(Signed, Base):
    """History a coach or physio must know. Reading it is logged; other roles never see it."""

    __tablename__ = "health_notes"
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    region: Mapped[str] = mapped_column(default="")
    words: Mapped[str]
    ended: Mapped[bool] = mapped_column(default=False)


class Reading(Signed, Base):
    """Who opened whose health notes, and when."""

    __tablename__ = "readings"
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    what: Mapped[str]


class CheckIn(Signed, Base):
    """How somebody comes to a session: optional, advisory. The newest of a day holds."""

    __tablename__ = "check_ins"
    __table_args__ = (Index(None, "athlete_id", "done_on"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    done_on: Mapped[dt.date]
    sleep: Mapped[int]  # 1 badly … 5 very well
    soreness: Mapped[int]  # 1 none … 5 very sore
    stress: Mapped[int]  # 1 none … 5 a lot
    back: Mapped[int]  # soreness of the lower back, 0–10
    withdrawn: Mapped[bool] = mapped_column(default=False)
