"""Athletes, their body mass, milestones, and stops."""

import datetime as dt
from decimal import Decimal

from sqlalchemy import ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column

from backsquat.storage.models.base import Base, Key, Rows, Signed


class Athlete(Signed, Base):
    __tablename__ = "athletes"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    name: Mapped[str]
    born_on: Mapped[dt.date]
    position: Mapped[str] = mapped_column(default="")
    newcomer: Mapped[bool] = mapped_column(default=False)
    consent: Mapped[bool] = mapped_column(default=False)  # a guardian's, needed for minors only
    active: Mapped[bool] = mapped_column(default=True)
    pain_line: Mapped[int | None]  # another stop line than the squad's, set by a physio or doctor
    pain_line_by: Mapped[str] = mapped_column(default="")


class BodyMass(Signed, Base):
    __tablename__ = "body_masses"
    __table_args__ = (Index(None, "athlete_id", "measured_on"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    measured_on: Mapped[dt.date]
    mass_kg: Mapped[Decimal]


class Height(Signed, Base):
    __tablename__ = "heights"
    __table_args__ = (Index(None, "athlete_id", "measured_on"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    measured_on: Mapped[dt.date]
    height_cm: Mapped[Decimal]


class Milestone(Signed, Base):
    __tablename__ = "milestones"
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    movement: Mapped[str]  # a screen's code where it is a screen; empty for sessions attended
    kind: Mapped[str]
    amount: Mapped[Decimal]
    load_kg: Mapped[Decimal | None]  # of reps at a load
    due_on: Mapped[dt.date]
    batch: Mapped[str] = mapped_column(default="")  # set by one rule for the squad; empty: for this athlete alone
    dropped: Mapped[bool] = mapped_column(default=False)


class Consent(Signed, Base):
    """A guardian's consent: whose, for what, since when, and until when it was withdrawn. Rows are only added to."""

    __tablename__ = "consents"
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    given_by: Mapped[str]  # the guardian, as the coach wrote it down; may be empty
    purpose: Mapped[str]
    given_on: Mapped[dt.date]
    withdrawn_on: Mapped[dt.date | None]
    withdrawn_by_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"))


class PainReport(Signed, Base):
    """Pain as it was said: where, how it feels, how bad where that was asked. At any time, in a session or not."""

    __tablename__ = "pain_reports"
    __table_args__ = (Index(None, "athlete_id", "done_on"),)
    id: Mapped[Key]
    client_id: Mapped[str] = mapped_column(unique=True)  # of the device, so that a report sent twice is stored once
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    movement: Mapped[str] = mapped_column(default="")  # what was being done; empty: nothing in particular
    cell_id: Mapped[int | None] = mapped_column(ForeignKey("cells.id"))
    region: Mapped[str]
    character: Mapped[str]
    level: Mapped[int | None]  # 0–10; None: a character that stops at any number
    done_on: Mapped[dt.date]
    happened_at: Mapped[dt.datetime | None]  # where it is known; `at` is when it was received


class Stop(Signed, Base):
    """Movements locked after pain. It ends by a recorded clearance, and by nothing else.

    A report that was corrected or taken back is marked and stays visible; `withdrawn` where another stop, or an
    earlier version of this program, took its stead.
    """

    __tablename__ = "stops"
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    set_id: Mapped[int | None] = mapped_column(ForeignKey("set_entries.id"))  # one of these two led to it
    report_id: Mapped[int | None] = mapped_column(ForeignKey("pain_reports.id"))
    movement: Mapped[str]  # empty: in none in particular
    family: Mapped[str] = mapped_column(default="")  # of the movement as it was then
    locked: Mapped[Rows]  # codes of the movements that were locked when it began; joined with what the rules say today
    level: Mapped[int | None]  # None: nobody was asked for a number
    region: Mapped[str]
    character: Mapped[str]
    withdrawn: Mapped[bool] = mapped_column(default=False)
    report_changed_by_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"))
    report_changed_at: Mapped[dt.datetime | None]
    cleared_on: Mapped[dt.date | None]
    cleared_by: Mapped[str] = mapped_column(default="")
    cleared_role: Mapped[str] = mapped_column(default="")
    cleared_limits: Mapped[str] = mapped_column(default="")
    cleared_recorded_by_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"))


class DepthChoice(Signed, Base):
    """The depth standard of one athlete for one movement; the newest row holds. A new one starts a new record line."""

    __tablename__ = "depth_choices"
    __table_args__ = (Index(None, "athlete_id", "movement"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    movement: Mapped[str]
    code: Mapped[str]
    words: Mapped[str]
    box_mm: Mapped[int | None]
    from_on: Mapped[dt.date]


class SetUpNote(Signed, Base):
    """How an athlete sets a movement up: one field of it. The newest of a field holds; empty takes it away."""

    __tablename__ = "set_up_notes"
    __table_args__ = (Index(None, "athlete_id", "movement"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    movement: Mapped[str]
    field: Mapped[str]  # code of SetUp
    value: Mapped[str]
    noted_on: Mapped[dt.date]
