"""what was left in reserve: said as so many, as so many or more, or not at all"""

import sqlalchemy as sa
from alembic import op

revision = "reserve_said"
down_revision = "waiting_cells"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("set_entries", sa.Column("reserve_at_least", sa.Boolean(), nullable=False, server_default=sa.text("0")))
    for name in ("asked_reps", "asked_reserve"):
        op.add_column("set_entries", sa.Column(name, sa.Integer(), nullable=True))
    op.add_column("squads", sa.Column("forecasts_until", sa.Integer(), nullable=True))


def downgrade() -> None:
    op.drop_column("squads", "forecasts_until")
    for name in ("asked_reserve", "asked_reps", "reserve_at_least"):
        op.drop_column("set_entries", name)
