"""Changes to things that have a present state (athletes, rooms, milestones), with what was there before."""

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from backsquat.storage.models.base import Base, Key, Plain, Signed


class Change(Signed, Base):
    __tablename__ = "changes"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    what: Mapped[str]  # code of the change, worded in phrases
    subject: Mapped[str]  # kind of thing: athlete, room, milestone, rule, cells
    subject_id: Mapped[int]
    before: Mapped[Plain]  # enough to put it back
    undone: Mapped[bool] = mapped_column(default=False)
