"""What all tables share: constraint names by convention, small column types, who wrote a row."""

import datetime as dt
from collections.abc import Callable
from decimal import Decimal
from enum import StrEnum
from typing import Annotated, Any

from sqlalchemy import JSON, ForeignKey, MetaData, String
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column
from sqlalchemy.types import TypeDecorator

NAMES = {
    "ix": "ix_%(column_0_N_label)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


class Coded(TypeDecorator[Any]):
    """An enumeration kept as the text of its values, so that the rows read by themselves."""

    impl = String
    cache_ok = True

    def __init__(self, kind: type[StrEnum]) -> None:
        super().__init__()
        self.kind = kind
        self._members = {member.value: member for member in kind}

    def process_bind_param(self, value: str | None, dialect: Dialect) -> str | None:
        return None if value is None else self._members[value].value

    def result_processor(self, dialect: Dialect, coltype: object) -> Callable[[Any], Any]:
        """A look into a table: a method for every value of every row is felt where a page reads thousands."""
        members: dict[Any, Any] = {None: None, **self._members}
        return members.__getitem__


class Exact(TypeDecorator[Decimal]):
    """A decimal kept as text: SQLite's numbers are binary and would lose 0.1."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: Decimal | None, dialect: Dialect) -> str | None:
        return None if value is None else str(value)

    def result_processor(self, dialect: Dialect, coltype: object) -> Callable[[Any], Decimal | None]:
        return lambda value: None if value is None else Decimal(value)


Key = Annotated[int, mapped_column(primary_key=True)]
Plain = Annotated[dict[str, Any], mapped_column(JSON)]
Rows = Annotated[list[Any], mapped_column(JSON)]


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMES)
    type_annotation_map = {Decimal: Exact}


class Signed:
    """Every row names its person and its time."""

    by_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    at: Mapped[dt.datetime]
