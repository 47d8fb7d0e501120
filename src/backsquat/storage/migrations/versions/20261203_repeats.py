"""a proposal that only repeats what is published, and asks nothing of the coach"""

import sqlalchemy as sa
from alembic import op

revision = "repeats"
down_revision = "athletes_by_number"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("decisions", sa.Column("repeats", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("decisions", "repeats")
