"""A squad's own movements and screens, beside the shipped ones.

Rows are only added: `current` marks the one that holds. An empty `entry` gives the shipped one back.
"""

from sqlalchemy import ForeignKey, Index, text
from sqlalchemy.orm import Mapped, mapped_column

from backsquat.storage.models.base import Base, Key, Plain, Signed


class LibraryEntry(Signed, Base):
    __tablename__ = "library_entries"
    __table_args__ = (
        Index("uq_library_entries_current", "squad_id", "kind", "code", unique=True, sqlite_where=text("current = 1")),
    )
    id: Mapped[Key]
    squad_id: Mapped[int] = mapped_column(ForeignKey("squads.id"))
    kind: Mapped[str]  # movement or screen
    code: Mapped[str]
    entry: Mapped[Plain]
    retired: Mapped[bool] = mapped_column(default=False)
    current: Mapped[bool] = mapped_column(default=True)
