"""what is believed of a lift, a row for every day with sets"""

import sqlalchemy as sa
from alembic import op

revision = "beliefs"
down_revision = "consent_is_a_record"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "belief_days",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=False),
        sa.Column("movement", sa.String(), nullable=False),
        sa.Column("done_on", sa.Date(), nullable=False),
        sa.Column("carried_kg", sa.Double(), nullable=False),
        sa.Column("belief", sa.JSON(), nullable=False),
        sa.Column("shares", sa.JSON(), nullable=False),
        sa.UniqueConstraint("movement", "athlete_id", "done_on", name="uq_belief_days_movement_athlete_id_done_on"),
    )
    one = sa.text("1")
    op.add_column("decisions", sa.Column("hold_share", sa.Double(), nullable=False, server_default=one))
    # made from the sets when the application starts, as after a changed rule
    op.execute("UPDATE squads SET recount_after = 0")


def downgrade() -> None:
    op.execute("ALTER TABLE decisions DROP COLUMN hold_share")
    op.drop_table("belief_days")
