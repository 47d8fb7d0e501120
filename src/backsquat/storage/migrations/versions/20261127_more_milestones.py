"""milestones in reps at a load; pictures of movements; minutes played"""

import sqlalchemy as sa
from alembic import op

revision = "more_milestones"
down_revision = "technique"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("milestones", sa.Column("load_kg", sa.String(), nullable=True))
    op.create_table(
        "movement_pictures",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("squad_id", sa.Integer(), sa.ForeignKey("squads.id"), nullable=False),
        sa.Column("movement", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("dropped", sa.Boolean(), nullable=False),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_movement_pictures_squad_id", "movement_pictures", ["squad_id"])
    op.create_table(
        "movement_frames",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("picture_id", sa.Integer(), sa.ForeignKey("movement_pictures.id"), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("pixels", sa.LargeBinary(), nullable=False),
    )
    op.create_index("ix_movement_frames_picture_id", "movement_frames", ["picture_id"])
    op.create_table(
        "match_minutes",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("match_id", sa.Integer(), sa.ForeignKey("matches.id"), nullable=False),
        sa.Column("athlete_id", sa.Integer(), sa.ForeignKey("athletes.id"), nullable=False),
        sa.Column("minutes", sa.Integer(), nullable=True),
        sa.Column("by_id", sa.Integer(), sa.ForeignKey("users.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_match_minutes_match_id_match_minutes_athlete_id", "match_minutes", ["match_id", "athlete_id"])


def downgrade() -> None:
    op.drop_table("match_minutes")
    op.drop_table("movement_frames")
    op.drop_table("movement_pictures")
    op.drop_column("milestones", "load_kg")
