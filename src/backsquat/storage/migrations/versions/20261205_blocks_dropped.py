"""a block that was dropped before anybody trained in it: kept, and no longer planned"""

import sqlalchemy as sa
from alembic import op

revision = "blocks_dropped"
down_revision = "the_sports_words"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("blocks", sa.Column("dropped", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("blocks", "dropped")
