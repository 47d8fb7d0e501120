"""a first load to begin with, where the first set finds it"""

import sqlalchemy as sa
from alembic import op

revision = "first_loads"
down_revision = "what_was_asked"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("cells", sa.Column("start_amount", sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column("cells", "start_amount")
