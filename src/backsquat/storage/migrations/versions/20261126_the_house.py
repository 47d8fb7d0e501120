"""Sessions and their days as rows, one word for a set that stands, what steers planning as columns."""

import sqlalchemy as sa
from alembic import op

revision = "the_house"
down_revision = "each_athlete"
branch_labels = None
depends_on = None

RENAMED = (
    ("slot_courses", "athlete_schools", (("slot_id", "athlete_id"),)),
    ("room_stays", "room_assignments", (("squad_id",),)),
)
COLUMNS = (
    ("stops", "place", "region"),
    ("absences", "place", "region"),
    ("set_entries", "pain_place", "pain_region"),
    ("block_slots", "place", "position"),
    ("bars", "place", "position"),
)
# Columns are added in place: making the tables anew would drop the partial indexes' conditions.
ADDED = {
    "squads": ("recount_after INTEGER",),
    "block_slots": (
        "session_id INTEGER NOT NULL DEFAULT 0 "
        "CONSTRAINT fk_block_slots_session_id_block_sessions REFERENCES block_sessions (id)",
    ),
    "set_entries": (
        "happened_at DATETIME",
        "device_at DATETIME",
        "standing BOOLEAN NOT NULL DEFAULT 1",
        "flags JSON NOT NULL DEFAULT '[]'",
    ),
    "cells": (
        "target_kg DOUBLE",
        "by_ratio BOOLEAN NOT NULL DEFAULT 0",
        "stands_in VARCHAR NOT NULL DEFAULT ''",
        "decided_on_id INTEGER CONSTRAINT fk_cells_decided_on_id_cells REFERENCES cells (id)",
    ),
    "decisions": (
        "missing_reps INTEGER NOT NULL DEFAULT 0",
        "ladder VARCHAR NOT NULL DEFAULT ''",
        "planning_max_share DOUBLE NOT NULL DEFAULT 1.0",
        "steps INTEGER NOT NULL DEFAULT 0",
        "next_wave_steps INTEGER NOT NULL DEFAULT 1",
        "hold BOOLEAN NOT NULL DEFAULT 0",
        "load_share DOUBLE NOT NULL DEFAULT 1.0",
        "load_steps INTEGER NOT NULL DEFAULT 0",
        "next_reps INTEGER NOT NULL DEFAULT 0",
        "keeps BOOLEAN NOT NULL DEFAULT 0",
        "following JSON NOT NULL DEFAULT '{}'",
    ),
}


def upgrade() -> None:
    op.create_table(
        "block_sessions",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("block_id", sa.Integer(), nullable=False),
        sa.Column("weekday", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("minutes", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["block_id"], ["blocks.id"], name=op.f("fk_block_sessions_block_id_blocks")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_block_sessions")),
    )
    op.create_index(op.f("ix_block_sessions_block_id"), "block_sessions", ["block_id"])
    op.create_table(
        "session_days",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("session_id", sa.Integer(), nullable=False),
        sa.Column("week", sa.Integer(), nullable=False),
        sa.Column("held_on", sa.Date(), nullable=False),
        sa.ForeignKeyConstraint(
            ["session_id"], ["block_sessions.id"], name=op.f("fk_session_days_session_id_block_sessions")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_session_days")),
        sa.UniqueConstraint("session_id", "week", name=op.f("uq_session_days_session_id_week")),
    )
    op.create_index(op.f("ix_session_days_held_on"), "session_days", ["held_on"])
    op.create_table(
        "return_weeks",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("absence_id", sa.Integer(), nullable=False),
        sa.Column("week", sa.Integer(), nullable=False),
        sa.Column("load_share", sa.Double(), nullable=False),
        sa.Column("sets_share", sa.Double(), nullable=False),
        sa.ForeignKeyConstraint(["absence_id"], ["absences.id"], name=op.f("fk_return_weeks_absence_id_absences")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_return_weeks")),
        sa.UniqueConstraint("absence_id", "week", name=op.f("uq_return_weeks_absence_id_week")),
    )
    for old, new, indexes in RENAMED:
        _rename(old, new, indexes)
    for table, old, new in COLUMNS:
        op.execute(f"ALTER TABLE {table} RENAME COLUMN {old} TO {new}")
    for table, columns in ADDED.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} ADD COLUMN {column}")


def downgrade() -> None:
    for table, columns in ADDED.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} DROP COLUMN {column.split()[0]}")
    for table, old, new in COLUMNS:
        op.execute(f"ALTER TABLE {table} RENAME COLUMN {new} TO {old}")
    for old, new, indexes in RENAMED:
        _rename(new, old, indexes)
    for table in ("return_weeks", "session_days", "block_sessions"):
        op.drop_table(table)


def _rename(old: str, new: str, indexes: tuple[tuple[str, ...], ...]) -> None:
    for columns in indexes:
        op.execute(f"DROP INDEX {_index(old, columns)}")
    op.rename_table(old, new)
    for columns in indexes:
        op.execute(f"CREATE INDEX {_index(new, columns)} ON {new} ({', '.join(columns)})")


def _index(table: str, columns: tuple[str, ...]) -> str:
    return "ix_" + "_".join(f"{table}_{column}" for column in columns)
