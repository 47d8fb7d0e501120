"""Blocks: sessions and their days, exercises, planned cells, published versions.

A cell is never changed. A new number for the same exercise, athlete and week is a new row that names
the one it `replaces`; `current` marks what the sheet shows, `live` what the floor uses, and
`version_id` the publication that made it live. The state at version n is the newest row of each
exercise, athlete and week with a version of n or less.
"""

import datetime as dt
from decimal import Decimal

from sqlalchemy import ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from backsquat.core.progression.cell import ExerciseRole, Origin, StandIn, State
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.sessions.running import ActKind
from backsquat.storage.models.base import Base, Coded, Key, Plain, Rows, Signed


class Block(Signed, Base):
    __tablename__ = "blocks"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    name: Mapped[str]
    first_week: Mapped[dt.date]
    weeks: Mapped[int]
    in_season: Mapped[bool] = mapped_column(default=False)
    purpose: Mapped[str] = mapped_column(default="")
    dropped: Mapped[bool] = mapped_column(default=False)  # planned no longer; only while nobody has trained in it
    every_exercise: Mapped[list["Exercise"]] = relationship(order_by="Exercise.position, Exercise.id", lazy="selectin")
    sessions: Mapped[list["BlockSession"]] = relationship(
        order_by="BlockSession.weekday, BlockSession.position, BlockSession.id"
    )

    @property
    def last_on(self) -> dt.date:
        """The last day of its last week."""
        return self.first_week + dt.timedelta(weeks=self.weeks, days=-1)

    @property
    def exercises(self) -> list["Exercise"]:
        """The exercises in use, by day and order; one taken out keeps its log."""
        found = [exercise for exercise in self.every_exercise if not exercise.removed]
        return sorted(
            found,
            key=lambda exercise: (exercise.session.weekday, exercise.session.position, exercise.position, exercise.id),
        )


class BlockSession(Base):
    """One training session of a block's week: its usual weekday, its order among the week's, its minutes.

    `supersets`: what its supersets are for; empty: as the squad's rule. `hips_first`: hip work leads, the squat comes last.
    """

    __tablename__ = "block_sessions"
    id: Mapped[Key]
    block_id: Mapped[int] = mapped_column(ForeignKey("blocks.id"), index=True)
    weekday: Mapped[int]  # 0 is Monday
    position: Mapped[int] = mapped_column(default=0)  # among sessions of one day
    minutes: Mapped[int] = mapped_column(default=60)
    name: Mapped[str] = mapped_column(default="")
    supersets: Mapped[str] = mapped_column(default="")
    hips_first: Mapped[bool] = mapped_column(default=False)
    days: Mapped[list["SessionDay"]] = relationship(
        order_by="SessionDay.week", cascade="all, delete-orphan", lazy="selectin"
    )

    def day_in(self, week: int) -> dt.date:
        """The day on which the session is held in a week of the block (from 0)."""
        return self.days[week].held_on

    def left_out_of(self, week: int) -> bool:
        """Whether it is not held in a week of the block."""
        return self.days[week].left_out


class SessionDay(Base):
    """The day of a session in one week of its block; it can move, or be left out of the week.

    `kept`: the coach has said that it stays as it is, whatever matches are near.
    """

    __tablename__ = "session_days"
    __table_args__ = (UniqueConstraint("session_id", "week"),)
    id: Mapped[Key]
    session_id: Mapped[int] = mapped_column(ForeignKey("block_sessions.id"))
    week: Mapped[int]  # from 0 in the block
    held_on: Mapped[dt.date] = mapped_column(index=True)
    left_out: Mapped[bool] = mapped_column(default=False)
    kept: Mapped[bool] = mapped_column(default=False)


class OwnDay(Signed, Base):
    """Another day of the same week on which one athlete does a session alone."""

    __tablename__ = "own_days"
    __table_args__ = (UniqueConstraint("session_id", "week", "athlete_id"),)
    id: Mapped[Key]
    session_id: Mapped[int] = mapped_column(ForeignKey("block_sessions.id"))
    week: Mapped[int]  # from 0 in the block
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    held_on: Mapped[dt.date] = mapped_column(index=True)


class ExerciseWeek(Base):
    """Where and how the floor does an exercise in one week: written by publishing, for weeks to come; the past keeps its
    own.

    The columns from `session_id` on are those of the exercise as they were published.
    """

    __tablename__ = "exercise_weeks"
    __table_args__ = (UniqueConstraint("exercise_id", "week"), Index(None, "session_id", "week"))
    id: Mapped[Key]
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id"))
    week: Mapped[int]  # from 0 in the block
    session_id: Mapped[int] = mapped_column(ForeignKey("block_sessions.id"))
    position: Mapped[int]  # in the session
    superset: Mapped[int] = mapped_column(default=0)
    circuit: Mapped[bool] = mapped_column(default=False)
    spare: Mapped[bool] = mapped_column(default=False)
    rest_s: Mapped[int] = mapped_column(default=0)
    manner: Mapped[Plain] = mapped_column(default=dict)
    session: Mapped[BlockSession] = relationship()


class Exercise(Base):
    """One movement (or the own level of a ladder) of one session, under one progression."""

    __tablename__ = "exercises"
    id: Mapped[Key]
    block_id: Mapped[int] = mapped_column(ForeignKey("blocks.id"), index=True)
    session_id: Mapped[int] = mapped_column(ForeignKey("block_sessions.id"))
    session_from: Mapped[int] = mapped_column(default=0)  # week of the block from which it is planned in that session
    position: Mapped[int]  # in the session
    movement: Mapped[str]
    progression: Mapped[str]
    parameters: Mapped[Plain]
    role: Mapped[ExerciseRole] = mapped_column(Coded(ExerciseRole), default=ExerciseRole.MAIN)
    ladder: Mapped[str] = mapped_column(default="")  # everybody's own level of it in place of the movement
    superset: Mapped[int] = mapped_column(
        default=0
    )  # done without rest with its neighbours of the same number; 0: alone
    circuit: Mapped[bool] = mapped_column(default=False)  # its superset goes round as a circuit
    rest_s: Mapped[int] = mapped_column(
        default=0
    )  # after a set, or a round of its superset; 0: as the progression says
    manner: Mapped[Plain] = mapped_column(default=dict)  # `core/movements/manner.py`; empty: the plain one
    variation: Mapped[str] = mapped_column(default="")
    from_week: Mapped[int] = mapped_column(default=0)  # week of the block in which its progression starts
    removed: Mapped[bool] = mapped_column(default=False)
    moved: Mapped[bool] = mapped_column(default=False)  # its day, order or going waits to be published
    session: Mapped[BlockSession] = relationship(lazy="joined", innerjoin=True)
    on_floor: Mapped[list[ExerciseWeek]] = relationship(order_by="ExerciseWeek.week", cascade="all, delete-orphan")

    def session_in(self, week: int) -> BlockSession:
        """The session it is planned in: before `session_from` the one the floor had it in."""
        if week < (self.session_from or 0):  # none before it is first written
            return next((held.session for held in self.on_floor if held.week == week), self.session)
        return self.session

    @property
    def spare(self) -> bool:
        """Done only if minutes are left."""
        return self.role is ExerciseRole.SPARE

    @property
    def weekday(self) -> int:
        """The usual weekday of its session; 0 is Monday."""
        return self.session.weekday


class SessionAct(Signed, Base):
    """What was done in a session besides sets: a ramp set ticked, a drill, work skipped, taken up again or let go.

    `closes_id`: the skipped work it takes up or lets go. `taken_back` by an undo.
    """

    __tablename__ = "session_acts"
    __table_args__ = (Index(None, "athlete_id", "done_on"), Index(None, "session_id", "week"))
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    session_id: Mapped[int] = mapped_column(ForeignKey("block_sessions.id"))
    exercise_id: Mapped[int | None] = mapped_column(ForeignKey("exercises.id"))
    week: Mapped[int]  # from 0 in the block
    done_on: Mapped[dt.date]
    what: Mapped[ActKind] = mapped_column(Coded(ActKind))
    facts: Mapped[Plain]
    closes_id: Mapped[int | None] = mapped_column(ForeignKey("session_acts.id"))
    client_id: Mapped[str | None] = mapped_column(unique=True)  # made by a device without a line: kept once
    taken_back: Mapped[bool] = mapped_column(default=False)


class AthleteProgression(Signed, Base):
    """Another progression, or other parameters, for one athlete in an exercise. The newest of both holds; no
    progression: the exercise's.
    """

    __tablename__ = "athlete_progressions"
    __table_args__ = (Index(None, "exercise_id", "athlete_id"),)
    id: Mapped[Key]
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id"))
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    progression: Mapped[str] = mapped_column(default="")
    parameters: Mapped[Plain]
    from_week: Mapped[int] = mapped_column(default=0)  # week of the block in which it starts


class PlanVersion(Signed, Base):
    __tablename__ = "plan_versions"
    __table_args__ = (UniqueConstraint("block_id", "number"),)
    id: Mapped[Key]
    block_id: Mapped[int] = mapped_column(ForeignKey("blocks.id"))
    number: Mapped[int]
    why: Mapped[str]


class Cell(Signed, Base):
    # SQLite uses a partial index only where the query says its condition in the same words: `live = 1`.
    __tablename__ = "cells"
    __table_args__ = (
        Index("ix_cells_place", "exercise_id", "athlete_id", "week"),
        Index("uq_cells_current", "exercise_id", "athlete_id", "week", unique=True, sqlite_where=text("current = 1")),
        Index("uq_cells_live", "exercise_id", "athlete_id", "week", unique=True, sqlite_where=text("live = 1")),
        Index("ix_cells_drafts", "exercise_id", sqlite_where=text("current = 1 AND live = 0")),
        Index("ix_cells_emptied", "exercise_id", sqlite_where=text("live = 1 AND current = 0")),
        Index("ix_cells_athlete", "athlete_id", "exercise_id", sqlite_where=text("live = 1")),
    )
    id: Mapped[Key]
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id"))
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    week: Mapped[int]  # from 0 in the block
    kind: Mapped[ExposureKind] = mapped_column(Coded(ExposureKind))
    wave: Mapped[int]
    sets: Mapped[int]
    reps: Mapped[int]
    reserve_reps: Mapped[int]
    low: Mapped[int] = mapped_column(default=0)  # window the reps grow in; 0: none
    high: Mapped[int] = mapped_column(default=0)
    hold_s: Mapped[int] = mapped_column(default=0)
    rest_s: Mapped[int] = mapped_column(default=0)  # 0: as the progression says
    state: Mapped[State] = mapped_column(Coded(State))
    movement: Mapped[str] = mapped_column(default="")  # in the stead of the exercise's; empty: the exercise's
    stands_in: Mapped[StandIn] = mapped_column(Coded(StandIn), default=StandIn.NOT)  # why another movement does
    bar: Mapped[str] = mapped_column(default="")  # code of the rig
    room_id: Mapped[int | None] = mapped_column(ForeignKey("rooms.id"))  # empty: the squad's own
    load_amount: Mapped[Decimal | None]
    load_unit: Mapped[str] = mapped_column(default="kg")
    load_kg: Mapped[float | None]
    start_amount: Mapped[Decimal | None]  # to begin with, where the first set finds the load; in `load_unit`
    side: Mapped[Rows]  # plates of one side as text, inside first
    target_kg: Mapped[float | None]  # what was aimed at before rounding: another room rounds it again
    planning_max_kg: Mapped[float | None]
    estimate_kg: Mapped[float | None]
    cap_kg: Mapped[float | None]
    over_cap: Mapped[bool] = mapped_column(default=False)
    held: Mapped[bool] = mapped_column(default=False)  # a decision keeps it down
    by_ratio: Mapped[bool] = mapped_column(default=False)  # from another lift's record: never tested itself
    origin: Mapped[Origin] = mapped_column(Coded(Origin))
    decided_on_id: Mapped[int | None] = mapped_column(ForeignKey("cells.id"))  # the exposure a decision was made on
    inputs: Mapped[Plain]  # what it was worked out from, for reading
    working: Mapped[Rows]
    current: Mapped[bool]
    live: Mapped[bool] = mapped_column(default=False)
    version_id: Mapped[int | None] = mapped_column(ForeignKey("plan_versions.id"))
    replaces_id: Mapped[int | None] = mapped_column(ForeignKey("cells.id"))
