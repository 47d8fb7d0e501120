"""stamps: when something was last written, of each athlete and of all the rest; their triggers are `storage/stamps.py`"""

import sqlalchemy as sa
from alembic import op

revision = "stamps"
down_revision = "sets_by_cell"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "stamps",
        sa.Column("subject", sa.Integer(), primary_key=True),
        sa.Column("stamp", sa.Integer(), nullable=False),
    )


def downgrade() -> None:
    ours = "SELECT name FROM sqlite_master WHERE type = 'trigger' AND name LIKE 'stamp\\_%' ESCAPE '\\'"
    for (name,) in op.get_bind().exec_driver_sql(ours).all():
        op.execute(f"DROP TRIGGER {name}")
    op.drop_table("stamps")
