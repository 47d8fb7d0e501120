"""sign-ins kept here, a second factor, one-time links, sign-in names in any case"""

import sqlalchemy as sa
from alembic import op

revision = "sign_ins"
down_revision = "an_audit_log"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE users ADD COLUMN sign_in_key VARCHAR NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE users ADD COLUMN second_factor VARCHAR NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE users ADD COLUMN second_used INTEGER NOT NULL DEFAULT 0")
    connection = op.get_bind()
    taken: set[str] = set()
    for user_id, name in connection.execute(sa.text("SELECT id, sign_in FROM users ORDER BY id")).all():
        key = name.strip().casefold()
        key = f"{key}#{user_id}" if key in taken else key  # two that differ by capitals: the first keeps the name
        taken.add(key)
        connection.execute(sa.text("UPDATE users SET sign_in_key = :key WHERE id = :id"), {"key": key, "id": user_id})
    op.create_index("uq_users_sign_in_key", "users", ["sign_in_key"], unique=True)
    op.create_table(
        "sign_ins",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("user_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("token", sa.String(), nullable=False),
        sa.Column("began_at", sa.DateTime(), nullable=False),
        sa.Column("seen_at", sa.DateTime(), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
        sa.Column("second", sa.Boolean(), nullable=False),
        sa.Column("browser", sa.String(), nullable=False),
        sa.UniqueConstraint("token", name="uq_sign_ins_token"),
    )
    op.create_index("ix_sign_ins_user_id", "sign_ins", ["user_id"])
    op.create_table(
        "one_time_links",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("user_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("token", sa.String(), nullable=False),
        sa.Column("until", sa.DateTime(), nullable=False),
        sa.Column("used_at", sa.DateTime(), nullable=True),
        sa.Column("made_by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=True),
        sa.UniqueConstraint("token", name="uq_one_time_links_token"),
    )
    op.create_index("ix_one_time_links_user_id", "one_time_links", ["user_id"])


def downgrade() -> None:
    op.drop_table("one_time_links")
    op.drop_table("sign_ins")
    op.drop_index("uq_users_sign_in_key", "users")
    for column in ("second_used", "second_factor", "sign_in_key"):
        op.execute(f"ALTER TABLE users DROP COLUMN {column}")
