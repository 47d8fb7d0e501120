"""Lengths of a body, pictures of it from the side, and what was marked in them; pictures of movements."""

import datetime as dt

from sqlalchemy import ForeignKey, Index, LargeBinary
from sqlalchemy.orm import Mapped, mapped_column

from backsquat.storage.models.base import Base, Key, Plain, Signed


class BodyLength(Signed, Base):
    """A length of somebody's body as measured; the newest of a kind holds, one without a length takes it back."""

    __tablename__ = "body_lengths"
    __table_args__ = (Index(None, "athlete_id", "what"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    what: Mapped[str]  # code of Length
    length_cm: Mapped[float | None]


class Still(Signed, Base):
    """A picture of somebody from the side, taken with consent. Erased, its pixels are gone; what was read stays."""

    __tablename__ = "stills"
    __table_args__ = (Index(None, "athlete_id", "taken_on"),)
    id: Mapped[Key]
    athlete_id: Mapped[int] = mapped_column(ForeignKey("athletes.id"))
    taken_on: Mapped[dt.date]
    kind: Mapped[str]  # code of Kind
    faces_right: Mapped[bool]
    width: Mapped[int]
    height: Mapped[int]
    picture: Mapped[bytes] = mapped_column(LargeBinary, deferred=True, nullable=False)  # JPEG; empty once erased
    movement: Mapped[str] = mapped_column(default="")
    wedge_mm: Mapped[int] = mapped_column(default=0)
    load_kg: Mapped[float] = mapped_column(default=0.0)
    note: Mapped[str] = mapped_column(default="")
    on_card: Mapped[bool] = mapped_column(default=False)  # stands on the athlete's own card, with its movement
    erased_at: Mapped[dt.datetime | None]
    erased_by_id: Mapped[int | None] = mapped_column(ForeignKey("users.id"))


class StillMark(Signed, Base):
    """Where the points of a picture were placed; the newest holds."""

    __tablename__ = "still_marks"
    id: Mapped[Key]
    still_id: Mapped[int] = mapped_column(ForeignKey("stills.id"), index=True)
    points: Mapped[Plain]  # code of Spot → [x, y] in pixels
    plate_cm: Mapped[float] = mapped_column(default=0.0)
    suggested_by: Mapped[str] = mapped_column(default="")  # the finder whose points these began as


class MovementPicture(Signed, Base):
    """How a movement looks, for the whole squad: a picture, or some frames of a clip in their order."""

    __tablename__ = "movement_pictures"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    movement: Mapped[str]
    words: Mapped[str] = mapped_column(default="")
    dropped: Mapped[bool] = mapped_column(default=False)


class MovementFrame(Base):
    """One frame of it: a JPEG of our own making."""

    __tablename__ = "movement_frames"
    id: Mapped[Key]
    picture_id: Mapped[int] = mapped_column(ForeignKey("movement_pictures.id"), index=True)
    number: Mapped[int]
    width: Mapped[int]
    height: Mapped[int]
    pixels: Mapped[bytes] = mapped_column(LargeBinary, deferred=True, nullable=False)
