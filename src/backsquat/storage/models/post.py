"""Where people are written to, and what was or will be sent."""

import datetime as dt

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from backsquat.storage.models.base import Base, Key, Signed


class PostAddress(Signed, Base):
    """Where an athlete, or a guardian for a minor, or somebody of the staff is written to.

    Rows are only added; the newest of somebody holds, an empty one takes the address away.
    """

    __tablename__ = "post_addresses"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    athlete_id: Mapped[int | None] = mapped_column(ForeignKey("athletes.id"), index=True)
    user_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"))
    address: Mapped[str]


class Message(Signed, Base):
    """Something for one person. What is in it is forgotten as soon as it is sent; that it was sent is kept."""

    __tablename__ = "messages"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    athlete_id: Mapped[int | None] = mapped_column(ForeignKey("athletes.id"), index=True)
    user_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"))
    kind: Mapped[str]  # code of MessageKind
    digest: Mapped[str]  # of what it says, so that the same is not sent again
    key: Mapped[str] = mapped_column(unique=True)  # by which whoever delivers it knows it again
    address: Mapped[str]
    subject: Mapped[str]
    text: Mapped[str] = mapped_column(default="")
    file_name: Mapped[str] = mapped_column(default="")
    file: Mapped[str] = mapped_column(default="")  # a page in one file
    due_at: Mapped[dt.datetime]  # really, in the demo too
    tries: Mapped[int] = mapped_column(default=0)
    trouble: Mapped[str] = mapped_column(default="")
    sent_at: Mapped[dt.datetime | None]
    taken_back_at: Mapped[dt.datetime | None]
