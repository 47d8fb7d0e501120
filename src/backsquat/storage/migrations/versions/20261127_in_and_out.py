"""addresses calendars are read from; what a squad's lists call their columns"""

import sqlalchemy as sa
from alembic import op

revision = "in_and_out"
down_revision = "own_phones"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "calendar_addresses",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("squad_id", sa.Integer(), sa.ForeignKey("squads.id"), nullable=False),
        sa.Column("token", sa.String(), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.UniqueConstraint("token", name="uq_calendar_addresses_token"),
    )
    op.create_index("ix_calendar_addresses_squad_id", "calendar_addresses", ["squad_id"])
    op.create_table(
        "column_names",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("squad_id", sa.Integer(), sa.ForeignKey("squads.id"), nullable=False),
        sa.Column("list", sa.String(), nullable=False),
        sa.Column("head", sa.String(), nullable=False),
        sa.Column("holds", sa.String(), nullable=False),
        sa.UniqueConstraint("squad_id", "list", "head", name="uq_column_names_squad_id_list_head"),
    )


def downgrade() -> None:
    op.drop_table("column_names")
    op.drop_table("calendar_addresses")
