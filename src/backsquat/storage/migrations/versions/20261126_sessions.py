"""a session is a thing of its own: order, stacks, circuits, rests and manner of its work, and what was done besides sets"""

import sqlalchemy as sa
from alembic import op

revision = "sessions"
down_revision = "beliefs_say_a_maximum"
branch_labels = None
depends_on = None

NOUGHT, NOTHING, EMPTY = sa.text("0"), sa.text("'{}'"), sa.text("''")
COLUMNS = (
    ("block_sessions", sa.Column("name", sa.String(), nullable=False, server_default=EMPTY)),
    ("block_sessions", sa.Column("stacks", sa.String(), nullable=False, server_default=EMPTY)),
    ("block_sessions", sa.Column("hips_first", sa.Boolean(), nullable=False, server_default=NOUGHT)),
    ("block_slots", sa.Column("circuit", sa.Boolean(), nullable=False, server_default=NOUGHT)),
    ("block_slots", sa.Column("rest_s", sa.Integer(), nullable=False, server_default=NOUGHT)),
    ("block_slots", sa.Column("manner", sa.JSON(), nullable=False, server_default=NOTHING)),
    ("slot_weeks", sa.Column("stack", sa.Integer(), nullable=False, server_default=NOUGHT)),
    ("slot_weeks", sa.Column("circuit", sa.Boolean(), nullable=False, server_default=NOUGHT)),
    ("slot_weeks", sa.Column("spare", sa.Boolean(), nullable=False, server_default=NOUGHT)),
    ("slot_weeks", sa.Column("rest_s", sa.Integer(), nullable=False, server_default=NOUGHT)),
    ("slot_weeks", sa.Column("manner", sa.JSON(), nullable=False, server_default=NOTHING)),
    ("set_entries", sa.Column("left_reps", sa.Integer(), nullable=True)),
    ("set_entries", sa.Column("right_reps", sa.Integer(), nullable=True)),
    ("set_entries", sa.Column("manner", sa.String(), nullable=False, server_default=EMPTY)),
    ("set_entries", sa.Column("faults", sa.JSON(), nullable=False, server_default=sa.text("'[]'"))),
    ("set_entries", sa.Column("told", sa.JSON(), nullable=False, server_default=NOTHING)),
)


def upgrade() -> None:
    for table, column in COLUMNS:
        op.add_column(table, column)
    op.create_table(
        "session_acts",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=False),
        sa.Column("session_id", sa.Integer(), sa.ForeignKey("block_sessions.id"), nullable=False),
        sa.Column("slot_id", sa.Integer(), sa.ForeignKey("block_slots.id"), nullable=True),
        sa.Column("week", sa.Integer(), nullable=False),
        sa.Column("done_on", sa.Date(), nullable=False),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("facts", sa.JSON(), nullable=False),
        sa.Column("closes_id", sa.Integer(), sa.ForeignKey("session_acts.id"), nullable=True),
        sa.Column("taken_back", sa.Boolean(), nullable=False),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_session_acts_athlete_id_session_acts_done_on", "session_acts", ["athlete_id", "done_on"])
    op.create_index("ix_session_acts_session_id_session_acts_week", "session_acts", ["session_id", "week"])
    # what was published keeps the stacks it was done in, and what was for spare minutes stays so
    op.execute(
        "UPDATE slot_weeks SET stack = (SELECT s.stack FROM block_slots s WHERE s.id = slot_weeks.slot_id),"
        " spare = (SELECT s.role = 'spare' FROM block_slots s WHERE s.id = slot_weeks.slot_id)"
    )
    op.execute("UPDATE set_entries SET faults = json_array(fault) WHERE fault != ''")


def downgrade() -> None:
    op.drop_table("session_acts")
    for table, column in reversed(COLUMNS):
        op.execute(f"ALTER TABLE {table} DROP COLUMN {column.name}")
