"""People who sign in, what they may do in which squad, and where they are signed in."""

import datetime as dt

from sqlalchemy import ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from backsquat.core.roles import Role
from backsquat.storage.models.base import Base, Coded, Key, Signed
from backsquat.storage.models.squad import Squad


class User(Base):
    __tablename__ = "users"
    __table_args__ = (Index("uq_users_sign_in_key", "sign_in_key", unique=True),)
    id: Mapped[Key]
    sign_in: Mapped[str] = mapped_column(unique=True)
    sign_in_key: Mapped[str]  # the same whatever its capitals
    name: Mapped[str]
    password_hash: Mapped[str]
    active: Mapped[bool] = mapped_column(default=True)
    second_factor: Mapped[str] = mapped_column(default="")  # secret of the one-time codes; empty: none set up
    second_used: Mapped[int] = mapped_column(default=0)  # time step of the last code: none is good twice


class Membership(Base):
    """A person's role in one squad; `role` decides what the policy allows."""

    __tablename__ = "memberships"
    __table_args__ = (UniqueConstraint("user_id", "squad_id"),)
    id: Mapped[Key]
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    role: Mapped[Role] = mapped_column(Coded(Role))
    athlete_id: Mapped[int | None] = mapped_column(ForeignKey("athletes.id"), unique=True)  # who the athlete is
    user: Mapped[User] = relationship()
    squad: Mapped[Squad] = relationship()


class SignIn(Base):
    """One browser somebody is signed in with. The browser has the token, the row only its digest."""

    __tablename__ = "sign_ins"
    id: Mapped[Key]
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id"), index=True)
    token: Mapped[str] = mapped_column(unique=True)
    began_at: Mapped[dt.datetime]
    seen_at: Mapped[dt.datetime]
    ended_at: Mapped[dt.datetime | None]
    second: Mapped[bool] = mapped_column(default=False)  # with a second factor
    browser: Mapped[str] = mapped_column(default="")
    pass_id: Mapped[int | None] = mapped_column(ForeignKey("athlete_passes.id"))  # what an athlete came in with
    squad_id: Mapped[int | None] = mapped_column(ForeignKey("squads.id"))  # the one it shows; None: the first


class AthletePass(Signed, Base):
    """What an athlete signs in with on a phone: a link kept until it is taken back, or a code for one session."""

    __tablename__ = "athlete_passes"
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"), index=True)
    token: Mapped[str] = mapped_column(unique=True)  # the digest of it
    session_id: Mapped[int | None] = mapped_column(ForeignKey("block_sessions.id"))  # a code for this one alone
    week: Mapped[int] = mapped_column(default=0)  # from 0 in its block
    until: Mapped[dt.datetime | None]  # None: until it is taken back
    ended_at: Mapped[dt.datetime | None]


class OneTimeLink(Base):
    """A link with which somebody chooses a password, once and not for long."""

    __tablename__ = "one_time_links"
    id: Mapped[Key]
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id"), index=True)
    token: Mapped[str] = mapped_column(unique=True)
    until: Mapped[dt.datetime]
    used_at: Mapped[dt.datetime | None]
    made_by_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"))  # None: by the command line
