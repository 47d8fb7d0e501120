"""The block planner: schools with their windows, roles and stacks of slots, everything else a room can load."""

import sqlalchemy as sa
from alembic import op

revision = "block_planner"
down_revision = "shown_sound_goes"
branch_labels = None
depends_on = None


def _text(name: str, default: str = "") -> sa.Column[str]:
    return sa.Column(name, sa.String(), nullable=False, server_default=default)


def _whole(name: str) -> sa.Column[int]:
    return sa.Column(name, sa.Integer(), nullable=False, server_default="0")


def upgrade() -> None:
    op.create_table(
        "week_answers",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("cell_id", sa.Integer(), nullable=False),
        sa.Column("sound", sa.Boolean(), nullable=False),
        sa.Column("sure", sa.Boolean(), nullable=False),
        sa.Column("too_easy", sa.Boolean(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["by_id"], ["users.id"], name=op.f("fk_week_answers_by_id_users")),
        sa.ForeignKeyConstraint(["cell_id"], ["cells.id"], name=op.f("fk_week_answers_cell_id_cells")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_week_answers")),
    )
    op.create_index(op.f("ix_week_answers_cell_id"), "week_answers", ["cell_id"])
    added = {
        "blocks": [_text("purpose")],
        "block_slots": [
            _text("role", "main"), _text("ladder"), _whole("stack"), _text("variation"), _whole("from_week"),
            sa.Column("removed", sa.Boolean(), nullable=False, server_default="0"),
        ],
        "cells": [_whole("low"), _whole("high"), _whole("hold_s"), _whole("rest_s")],
        "bars": [_text("kind", "bar")],
        "rooms": [
            sa.Column(name, sa.JSON(), nullable=False, server_default="[]")
            for name in ("dumbbells", "kettlebells", "stacks", "bands")
        ],
        "milestones": [_text("batch")],
    }  # fmt: skip
    # Columns are added in place: making the tables anew would drop the partial indexes' conditions.
    for table, columns in added.items():
        for column in columns:
            op.add_column(table, column)
