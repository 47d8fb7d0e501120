"""What was really done: set entries (only ever added) and the decisions made from them."""

import datetime as dt
from decimal import Decimal

from sqlalchemy import ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from backsquat.core.progression.decision import Code
from backsquat.core.strength.record import Effort
from backsquat.storage.models.base import Base, Coded, Key, Plain, Rows, Signed


class SetEntry(Signed, Base):
    """One logged set. Whatever was lifted is kept; a correction is a new entry that points back.

    `standing`: neither corrected nor taken back, so that it counts; every query asks for it by this name.

    `client_id` is made by whoever logs, so that a set sent twice is stored once.
    """

    __tablename__ = "set_entries"
    __table_args__ = (
        Index("ix_set_entries_cell", "cell_id", "standing", "set_number", "reserve_reps"),  # counted from it alone
        # Best estimate per athlete and week, and an athlete's records, are read from these alone.
        Index(
            "ix_set_entries_estimate",
            "movement",
            "athlete_id",
            "done_on",
            "firm",
            "estimate_kg",
            "trust",
            sqlite_where=text("standing = 1 AND estimate_kg IS NOT NULL"),
        ),
        Index("ix_set_entries_athlete", "athlete_id", "done_on"),
        Index(
            "ix_set_entries_tests",
            "athlete_id",
            "done_on",
            sqlite_where=text("standing = 1 AND effort = 'test' AND estimate_kg IS NOT NULL"),
        ),
    )
    id: Mapped[Key]
    client_id: Mapped[str] = mapped_column(unique=True)
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    movement: Mapped[str]
    family: Mapped[str] = mapped_column(default="squat")  # of the movement as it was then
    done_on: Mapped[dt.date]
    cell_id: Mapped[int | None] = mapped_column(ForeignKey("cells.id"))
    happened_at: Mapped[dt.datetime | None]  # when it was lifted, where that is known; `at` is when it was received
    device_at: Mapped[dt.datetime | None]  # what the clock of the device said
    effort: Mapped[Effort] = mapped_column(Coded(Effort))
    set_number: Mapped[int]
    load_amount: Mapped[Decimal]
    load_unit: Mapped[str]
    load_kg: Mapped[float]
    carried_kg: Mapped[float | None] = mapped_column(default=0.0)  # body mass moved; None: not known
    hold_s: Mapped[int | None]  # seconds held; reps is then 1
    supported: Mapped[bool] = mapped_column(default=False)  # a hand held on to something
    side: Mapped[str] = mapped_column(default="")  # left, right; empty: both the same
    reps: Mapped[int]
    left_reps: Mapped[int | None]  # where both sides were done as one set: `reps` is then the fewer of the two
    right_reps: Mapped[int | None]
    reps_to_depth: Mapped[int]
    depth_standard: Mapped[str]
    reserve_reps: Mapped[int | None]  # None: nobody said
    reserve_at_least: Mapped[bool] = mapped_column(default=False)  # said as "so many or more"
    asked_reps: Mapped[int | None]  # what the plan asked at this load, as the set was logged; None: nothing
    asked_reserve: Mapped[int | None]
    fault: Mapped[str] = mapped_column(default="")
    manner: Mapped[str] = mapped_column(default="")  # another than the plain one: its own record line
    faults: Mapped[Rows] = mapped_column(default=list)  # codes of all that were seen; `fault` is the gravest
    notes: Mapped[Plain] = mapped_column(default=dict)  # what else was said of it: `core/strength/set_notes.py`
    fault_breaking: Mapped[bool] = mapped_column(default=False)
    pain: Mapped[int] = mapped_column(default=0)
    pain_region: Mapped[str] = mapped_column(default="")
    pain_character: Mapped[str] = mapped_column(default="")
    estimate_kg: Mapped[float | None]  # by the formula in force when it was logged
    trust: Mapped[int]
    firm: Mapped[bool] = mapped_column(default=False)  # not only "at least": neither capped nor a deload week
    corrects_id: Mapped[int | None] = mapped_column(ForeignKey("set_entries.id"), unique=True)
    withdrawn: Mapped[bool] = mapped_column(default=False)  # this correction says: it never happened
    standing: Mapped[bool] = mapped_column(default=True)
    flags: Mapped[Rows] = mapped_column(default=list)  # codes of what spoke against it when it was received


class BeliefDay(Base):
    """What is believed of a lift after a day with sets; made from them, and made again when they change."""

    __tablename__ = "belief_days"
    __table_args__ = (UniqueConstraint("movement", "athlete_id", "done_on"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    movement: Mapped[str]
    done_on: Mapped[dt.date]
    carried_kg: Mapped[float]  # body mass moved by the last of the sets
    max_kg: Mapped[float] = mapped_column(default=0.0)  # the maximum after the day, as the load is written
    belief: Mapped[Plain]
    shares: Mapped[Rows]  # (set, how far it moved the belief), in the order they were lifted


class DecisionRow(Signed, Base):
    """A proposal after an exposure. `settled`: answered, or overtaken by a newer one."""

    __tablename__ = "decisions"
    __table_args__ = (Index("ix_decisions_open", "athlete_id", sqlite_where=text("settled = 0")),)
    id: Mapped[Key]
    cell_id: Mapped[int] = mapped_column(ForeignKey("cells.id"), index=True)
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    movement: Mapped[str]
    done_on: Mapped[dt.date]
    code: Mapped[Code] = mapped_column(Coded(Code))
    reason: Mapped[str]
    facts: Mapped[Plain]  # for the sentence
    evidence: Mapped[Rows]
    would_change: Mapped[str]
    missing_reps: Mapped[int] = mapped_column(default=0)
    ladder: Mapped[str] = mapped_column(default="")  # whose level it is about; empty: a load
    planning_max_share: Mapped[float] = mapped_column(default=1.0)  # from here on: how the weeks to come follow
    steps: Mapped[int] = mapped_column(default=0)
    next_wave_steps: Mapped[int] = mapped_column(default=1)
    hold: Mapped[bool] = mapped_column(default=False)
    load_share: Mapped[float] = mapped_column(default=1.0)
    hold_share: Mapped[float] = mapped_column(default=1.0)  # of the load that is held
    load_steps: Mapped[int] = mapped_column(default=0)
    next_reps: Mapped[int] = mapped_column(default=0)  # asked next time; 0: as laid out
    keeps: Mapped[bool] = mapped_column(default=False)
    following: Mapped[Plain]  # the next session's number as it was when proposed, for the sentence
    repeats: Mapped[bool] = mapped_column(default=False)  # says what is published already, and changes nothing
    settled: Mapped[bool] = mapped_column(default=False)


class Answer(Signed, Base):
    """What the coach said to a proposal."""

    __tablename__ = "answers"
    id: Mapped[Key]
    decision_id: Mapped[int] = mapped_column(ForeignKey("decisions.id"), unique=True)
    accepted: Mapped[bool]
    code: Mapped[Code] = mapped_column(Coded(Code))  # the decision that holds: the proposal's or the coach's own
    reason: Mapped[str] = mapped_column(default="")
    version_id: Mapped[int | None] = mapped_column(ForeignKey("plan_versions.id"))


class WeekAnswer(Signed, Base):
    """The coach's three answers to a week of the earned-week progression; the newest of a cell holds."""

    __tablename__ = "week_answers"
    id: Mapped[Key]
    cell_id: Mapped[int] = mapped_column(ForeignKey("cells.id"), index=True)
    sound: Mapped[bool]
    sure: Mapped[bool]
    too_easy: Mapped[bool]


class MissedAnswer(Signed, Base):
    """What the coach said of a session an athlete did not come to; `taken_back` by an undo."""

    __tablename__ = "missed_answers"
    __table_args__ = (Index(None, "athlete_id", "session_id"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    session_id: Mapped[int] = mapped_column(ForeignKey("block_sessions.id"))
    week: Mapped[int]  # from 0 in the block
    answer: Mapped[str]  # repeat, ease, leave
    taken_back: Mapped[bool] = mapped_column(default=False)
