"""bags of a room, by mass"""

import sqlalchemy as sa
from alembic import op

revision = "bags"
down_revision = "first_loads"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("rooms", sa.Column("bags", sa.JSON(), nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("rooms", "bags")
