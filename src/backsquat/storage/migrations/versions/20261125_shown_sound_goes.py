"""the tick "shown sound" goes: the gate's checklist says more"""

import sqlalchemy as sa
from alembic import op

revision = "shown_sound_goes"
down_revision = "know_the_athlete_data"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("athletes", schema=None) as batch_op:
        batch_op.drop_column("shown_sound")


def downgrade() -> None:
    with op.batch_alter_table("athletes", schema=None) as batch_op:
        batch_op.add_column(sa.Column("shown_sound", sa.Boolean(), nullable=False, server_default="0"))
