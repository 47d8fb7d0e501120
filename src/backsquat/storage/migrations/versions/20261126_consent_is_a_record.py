"""a guardian's consent is a record"""

import sqlalchemy as sa
from alembic import op

revision = "consent_is_a_record"
down_revision = "sign_ins"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "consents",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=False),
        sa.Column("given_by", sa.String(), nullable=False),
        sa.Column("purpose", sa.String(), nullable=False),
        sa.Column("given_on", sa.Date(), nullable=False),
        sa.Column("withdrawn_on", sa.Date(), nullable=True),
        sa.Column("withdrawn_by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=True),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_consents_athlete_id", "consents", ["athlete_id"])
    # what was ticked before is on record since the athlete was added; nobody wrote down whose it was
    op.execute(
        "INSERT INTO consents (athlete_id, given_by, purpose, given_on, by_id, at)"
        " SELECT id, '', 'lifting', date(at), by_id, at FROM athletes WHERE consent"
    )


def downgrade() -> None:
    op.drop_table("consents")
