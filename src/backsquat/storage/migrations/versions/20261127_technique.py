"""lengths of bodies, pictures from the side, and what was marked in them"""

import sqlalchemy as sa
from alembic import op

revision = "technique"
down_revision = "the_calendar"
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
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=False),
    ]


def upgrade() -> None:
    op.create_table(
        "body_lengths",
        *_whose(),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("length_cm", sa.Double(), nullable=True),
        *_signed(),
    )
    op.create_index("ix_body_lengths_athlete_id_body_lengths_what", "body_lengths", ["athlete_id", "what"])
    op.create_table(
        "stills",
        *_whose(),
        sa.Column("taken_on", sa.Date(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("faces_right", sa.Boolean(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("picture", sa.LargeBinary(), nullable=False),
        sa.Column("movement", sa.String(), nullable=False),
        sa.Column("wedge_mm", sa.Integer(), nullable=False),
        sa.Column("load_kg", sa.Double(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("on_card", sa.Boolean(), nullable=False),
        sa.Column("erased_at", sa.DateTime(), nullable=True),
        sa.Column("erased_by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=True),
        *_signed(),
    )
    op.create_index("ix_stills_athlete_id_stills_taken_on", "stills", ["athlete_id", "taken_on"])
    op.create_table(
        "still_marks",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("still_id", sa.Integer(), sa.ForeignKey("stills.id"), nullable=False),
        sa.Column("points", sa.JSON(), nullable=False),
        sa.Column("plate_cm", sa.Double(), nullable=False),
        sa.Column("suggested_by", sa.String(), nullable=False),
        *_signed(),
    )
    op.create_index("ix_still_marks_still_id", "still_marks", ["still_id"])


def downgrade() -> None:
    for table in ("still_marks", "stills", "body_lengths"):
        op.drop_table(table)
