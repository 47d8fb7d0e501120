"""People who sign in, and what they may do in which squad."""

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from backsquat.core.roles import Role
from backsquat.storage.models.base import Base, Coded, Key
from backsquat.storage.models.squad import Squad


class User(Base):
    __tablename__ = "users"
    id: Mapped[Key]
    sign_in: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    password_hash: Mapped[str]
    active: Mapped[bool] = mapped_column(default=True)


class Membership(Base):
    """A person's role in one squad; `role` decides what the policy allows."""

    __tablename__ = "memberships"
    __table_args__ = (UniqueConstraint("user_id", "squad_id"),)
    id: Mapped[Key]
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    role: Mapped[Role] = mapped_column(Coded(Role))
    user: Mapped[User] = relationship()
    squad: Mapped[Squad] = relationship()
