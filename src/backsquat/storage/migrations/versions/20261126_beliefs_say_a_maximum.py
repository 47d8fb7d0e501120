"""a row of what is believed says the maximum in kg too"""

import sqlalchemy as sa
from alembic import op

revision = "beliefs_say_a_maximum"
down_revision = "beliefs"
branch_labels = None
depends_on = None


def upgrade() -> None:
    nought = sa.text("0")
    op.add_column("belief_days", sa.Column("max_kg", sa.Double(), nullable=False, server_default=nought))
    op.execute("UPDATE squads SET recount_after = 0")  # made anew when the application starts


def downgrade() -> None:
    op.execute("ALTER TABLE belief_days DROP COLUMN max_kg")
