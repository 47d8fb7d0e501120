"""what a match is; phases, holidays, trips, camps; sessions left out of a week; heights"""

import sqlalchemy as sa
from alembic import op

revision = "the_calendar"
down_revision = "sending"
branch_labels = None
depends_on = None


ADDED = (  # a default of the database itself, for the rows that are there
    *(("matches", name, sa.Boolean(), sa.false()) for name in ("away", "dropped")),
    *(("matches", name, sa.String(), "") for name in ("opponent", "competition")),
    *(("session_days", name, sa.Boolean(), sa.false()) for name in ("left_out", "kept")),
)


def upgrade() -> None:
    for table, name, kind, default in ADDED:
        op.add_column(table, sa.Column(name, kind, nullable=False, server_default=default))
    op.create_table(
        "season_marks",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("season_id", sa.Integer(), sa.ForeignKey("seasons.id"), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("first_on", sa.Date(), nullable=False),
        sa.Column("last_on", sa.Date(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("weekdays", sa.JSON(), nullable=False),
        sa.Column("dropped", sa.Boolean(), nullable=False),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_season_marks_season_id", "season_marks", ["season_id"])
    op.create_table(
        "heights",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=False),
        sa.Column("measured_on", sa.Date(), nullable=False),
        sa.Column("height_cm", sa.String(), nullable=False),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_heights_athlete_id_heights_measured_on", "heights", ["athlete_id", "measured_on"])


def downgrade() -> None:
    op.drop_table("heights")
    op.drop_table("season_marks")
    for table, name, _, _ in ADDED:
        op.drop_column(table, name)
