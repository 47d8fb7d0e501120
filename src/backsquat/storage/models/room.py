"""Weight rooms, what stands in them, and who trains where."""

import datetime as dt
from decimal import Decimal

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column, relationship

from backsquat.storage.models.base import Base, Key, Rows, Signed


class RoomRow(Base):
    __tablename__ = "rooms"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(index=True)  # no foreign key: the squad names its own room already
    name: Mapped[str]
    unit: Mapped[str] = mapped_column(default="kg")
    collars: Mapped[Decimal]  # both together
    racks: Mapped[int] = mapped_column(default=1)
    equipment: Mapped[Rows] = mapped_column(default=list)  # codes of library/equipment.toml
    dumbbells: Mapped[Rows] = mapped_column(default=list)  # [mass as text, how many]
    kettlebells: Mapped[Rows] = mapped_column(default=list)
    bags: Mapped[Rows] = mapped_column(default=list, server_default="[]")
    stacks: Mapped[Rows] = mapped_column(default=list)  # [code, low, step, high, add-on]
    bands: Mapped[Rows] = mapped_column(default=list)  # [name, pull when short, when long]
    removed: Mapped[bool] = mapped_column(default=False)
    bars: Mapped[list["BarRow"]] = relationship(
        order_by="BarRow.position", cascade="all, delete-orphan", lazy="selectin"
    )
    plates: Mapped[list["PlateRow"]] = relationship(
        order_by="PlateRow.id", cascade="all, delete-orphan", lazy="selectin"
    )


class BarRow(Base):
    __tablename__ = "bars"
    id: Mapped[Key]
    room_id: Mapped[int] = mapped_column(ForeignKey("rooms.id"), index=True)
    position: Mapped[int]  # 0 is the bar used unless another is asked for
    code: Mapped[str]
    name: Mapped[str]
    amount: Mapped[Decimal]
    unit: Mapped[str]
    kind: Mapped[str] = mapped_column(default="bar")  # RigKind: bar or trap bar


class PlateRow(Base):
    __tablename__ = "plates"
    id: Mapped[Key]
    room_id: Mapped[int] = mapped_column(ForeignKey("rooms.id"), index=True)
    amount: Mapped[Decimal]
    unit: Mapped[str]
    pairs: Mapped[int]
    diameter_mm: Mapped[int]


class StationCheck(Signed, Base):
    """What was found at a station of the room; the newest of a station holds."""

    __tablename__ = "station_checks"
    id: Mapped[Key]
    room_id: Mapped[int] = mapped_column(ForeignKey("rooms.id"), index=True)
    station: Mapped[str]
    ready: Mapped[bool]
    found: Mapped[str] = mapped_column(default="")  # what is wrong


class RoomAssignment(Signed, Base):
    """Somebody, or the squad, trains in another room: from a day to a day, on one weekday or on all.

    An athlete's own holds before the squad's, the newest before those before it.
    """

    __tablename__ = "room_assignments"
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"), index=True)
    room_id: Mapped[int] = mapped_column(ForeignKey("rooms.id"))
    athlete_id: Mapped[int | None] = mapped_column(ForeignKey("athletes.id"))  # empty: everybody
    first_on: Mapped[dt.date]
    last_on: Mapped[dt.date | None]
    weekday: Mapped[int | None]  # 0 is Monday
    ended: Mapped[bool] = mapped_column(default=False)
