"""an audit log that only grows; a report of pain that was changed stays visible"""

import sqlalchemy as sa
from alembic import op

revision = "an_audit_log"
down_revision = "slots_have_drafts"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "audit_lines",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("squad_id", sa.Integer(), nullable=True),
        sa.Column("user_id", sa.Integer(), nullable=True),
        sa.Column("who", sa.String(), nullable=False),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("about", sa.JSON(), nullable=False),
        sa.Column("before", sa.String(), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
    )
    op.create_index("ix_audit_lines_squad_id", "audit_lines", ["squad_id"])
    for act in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER audit_lines_no_{act.lower()} BEFORE {act} ON audit_lines"
            " BEGIN SELECT RAISE(ABORT, 'the audit log only grows'); END"
        )
    op.execute("ALTER TABLE stops ADD COLUMN report_changed_by_id INTEGER REFERENCES users(id)")
    op.execute("ALTER TABLE stops ADD COLUMN report_changed_at DATETIME")


def downgrade() -> None:
    with op.batch_alter_table("stops") as table:
        table.drop_column("report_changed_at")
        table.drop_column("report_changed_by_id")
    for act in ("update", "delete"):
        op.execute(f"DROP TRIGGER audit_lines_no_{act}")
    op.drop_table("audit_lines")
