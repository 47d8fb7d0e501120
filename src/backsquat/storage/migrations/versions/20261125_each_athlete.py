"""Schools for single athletes, several rooms and who trains where, check-ins."""

import sqlalchemy as sa
from alembic import op

revision = "each_athlete"
down_revision = "block_planner"
branch_labels = None
depends_on = None


def _id(table: str) -> list[sa.schema.SchemaItem]:
    return [
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["by_id"], ["users.id"], name=op.f(f"fk_{table}_by_id_users")),
        sa.PrimaryKeyConstraint("id", name=op.f(f"pk_{table}")),
    ]


def _to(table: str, other: str, column: str, *, empty: bool = False) -> list[sa.schema.SchemaItem]:
    return [
        sa.Column(column, sa.Integer(), nullable=empty),
        sa.ForeignKeyConstraint([column], [f"{other}.id"], name=op.f(f"fk_{table}_{column}_{other}")),
    ]


def _whole(name: str, default: str | None = None) -> sa.Column[int]:
    return sa.Column(name, sa.Integer(), nullable=False, server_default=default)


def upgrade() -> None:
    op.create_table(
        "slot_courses", *_id("slot_courses"), *_to("slot_courses", "block_slots", "slot_id"),
        *_to("slot_courses", "athletes", "athlete_id"), sa.Column("school", sa.String(), nullable=False),
        sa.Column("parameters", sa.JSON(), nullable=False), _whole("from_week"),
    )  # fmt: skip
    op.create_index(op.f("ix_slot_courses_slot_id_slot_courses_athlete_id"), "slot_courses", ["slot_id", "athlete_id"])
    op.create_table(
        "room_stays", *_id("room_stays"), *_to("room_stays", "squads", "squad_id"),
        *_to("room_stays", "rooms", "room_id"), *_to("room_stays", "athletes", "athlete_id", empty=True),
        sa.Column("first_on", sa.Date(), nullable=False), sa.Column("last_on", sa.Date(), nullable=True),
        sa.Column("weekday", sa.Integer(), nullable=True), sa.Column("ended", sa.Boolean(), nullable=False),
    )  # fmt: skip
    op.create_index(op.f("ix_room_stays_squad_id"), "room_stays", ["squad_id"])
    op.create_table(
        "check_ins", *_id("check_ins"), *_to("check_ins", "athletes", "athlete_id"),
        sa.Column("done_on", sa.Date(), nullable=False),
        *(_whole(name) for name in ("sleep", "soreness", "stress", "back")),
        sa.Column("withdrawn", sa.Boolean(), nullable=False),
    )  # fmt: skip
    op.create_index(op.f("ix_check_ins_athlete_id_check_ins_done_on"), "check_ins", ["athlete_id", "done_on"])
    # Columns are added in place: making the tables anew would drop the partial indexes' conditions.
    op.add_column("rooms", _whole("squad_id", "0"))
    op.add_column("rooms", sa.Column("removed", sa.Boolean(), nullable=False, server_default="0"))
    op.execute("UPDATE rooms SET squad_id = coalesce((SELECT id FROM squads WHERE squads.room_id = rooms.id), 0)")
    op.create_index(op.f("ix_rooms_squad_id"), "rooms", ["squad_id"])
    op.execute("ALTER TABLE cells ADD COLUMN room_id INTEGER CONSTRAINT fk_cells_room_id_rooms REFERENCES rooms (id)")


def downgrade() -> None:
    op.execute("ALTER TABLE cells DROP COLUMN room_id")
    op.drop_index(op.f("ix_rooms_squad_id"), "rooms")
    op.drop_column("rooms", "removed")
    op.drop_column("rooms", "squad_id")
    for table in ("check_ins", "room_stays", "slot_courses"):
        op.drop_table(table)
