"""where people are written to, and what is sent"""

import sqlalchemy as sa
from alembic import op

revision = "sending"
down_revision = "more_squads"
branch_labels = None
depends_on = None


def _signed() -> list[sa.Column]:  # type: ignore[type-arg]
    return [
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    ]


def _whose() -> list[sa.Column]:  # type: ignore[type-arg]
    return [
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("squad_id", sa.Integer(), sa.ForeignKey("squads.id"), nullable=False),
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=True),
        sa.Column("user_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=True),
    ]


def upgrade() -> None:
    op.create_table("post_addresses", *_whose(), sa.Column("address", sa.String(), nullable=False), *_signed())
    op.create_table(
        "messages",
        *_whose(),
        *(sa.Column(name, sa.String(), nullable=False) for name in ("kind", "digest", "key", "address", "subject")),
        *(sa.Column(name, sa.String(), nullable=False) for name in ("text", "file_name", "file")),
        sa.Column("due_at", sa.DateTime(), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("trouble", sa.String(), nullable=False),
        sa.Column("sent_at", sa.DateTime(), nullable=True),
        sa.Column("taken_back_at", sa.DateTime(), nullable=True),
        *_signed(),
        sa.UniqueConstraint("key", name="uq_messages_key"),
    )
    for table in ("post_addresses", "messages"):
        op.create_index(f"ix_{table}_squad_id", table, ["squad_id"])
        op.create_index(f"ix_{table}_athlete_id", table, ["athlete_id"])


def downgrade() -> None:
    op.drop_table("messages")
    op.drop_table("post_addresses")
