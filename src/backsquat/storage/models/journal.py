"""Changes to things that have a present state (athletes, rooms, milestones), with what was there before."""

import datetime as dt

from sqlalchemy import ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column

from backsquat.storage.models.base import Base, Key, Plain, Signed


class AuditLine(Base):
    """One line of the audit log; lines are only added, each with the digest of the one before."""

    __tablename__ = "audit_lines"
    id: Mapped[Key]
    at: Mapped[dt.datetime]
    squad_id: Mapped[int | None] = mapped_column(index=True)  # no foreign keys: the log outlives what it names
    user_id: Mapped[int | None]
    who: Mapped[str]
    what: Mapped[str]  # code, worded in phrases
    about: Mapped[Plain]
    before: Mapped[str]
    digest: Mapped[str]


class Change(Signed, Base):
    __tablename__ = "changes"
    __table_args__ = (Index(None, "subject_id", "subject"),)
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    what: Mapped[str]  # code of the change, worded in phrases
    subject: Mapped[str]  # kind of thing: athlete, room, milestone, rule, cells
    subject_id: Mapped[int]
    before: Mapped[Plain]  # enough to put it back; of an undone one, to do it again
    facts: Mapped[Plain] = mapped_column(default=dict)  # what its sentence names: whom, how much, when
    undone: Mapped[bool] = mapped_column(default=False)
    again: Mapped[bool] = mapped_column(default=False)  # undone last, and nothing else was done since
