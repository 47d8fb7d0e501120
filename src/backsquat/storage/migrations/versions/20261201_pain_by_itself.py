"""pain said by itself, without a set; what a stop locked is kept with it"""

import sqlalchemy as sa
from alembic import op

revision = "pain_by_itself"
down_revision = "reserve_said"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pain_reports",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_id", sa.String(), nullable=False),
        sa.Column("athlete_id", sa.Integer(), nullable=False),
        sa.Column("movement", sa.String(), nullable=False),
        sa.Column("cell_id", sa.Integer(), nullable=True),
        sa.Column("region", sa.String(), nullable=False),
        sa.Column("character", sa.String(), nullable=False),
        sa.Column("level", sa.Integer(), nullable=True),
        sa.Column("done_on", sa.Date(), nullable=False),
        sa.Column("happened_at", sa.DateTime(), nullable=True),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["athlete_id"], ["athletes.id"], name="fk_pain_reports_athlete_id_athletes"),
        sa.ForeignKeyConstraint(["by_id"], ["users.id"], name="fk_pain_reports_by_id_users"),
        sa.ForeignKeyConstraint(["cell_id"], ["cells.id"], name="fk_pain_reports_cell_id_cells"),
        sa.PrimaryKeyConstraint("id", name="pk_pain_reports"),
        sa.UniqueConstraint("client_id", name="uq_pain_reports_client_id"),
    )
    op.create_index("ix_pain_reports_athlete_id_pain_reports_done_on", "pain_reports", ["athlete_id", "done_on"])
    with op.batch_alter_table("stops") as table:
        table.alter_column("set_id", existing_type=sa.Integer(), nullable=True)
        table.alter_column("level", existing_type=sa.Integer(), nullable=True)
        table.add_column(sa.Column("family", sa.String(), nullable=False, server_default=""))
        table.add_column(sa.Column("report_id", sa.Integer(), nullable=True))
        table.create_foreign_key("fk_stops_report_id_pain_reports", "pain_reports", ["report_id"], ["id"])
    # The set behind a stop says the family of its movement as it was then.
    op.execute(
        "UPDATE stops SET family = coalesce((SELECT family FROM set_entries WHERE set_entries.id = stops.set_id), '')"
    )


def downgrade() -> None:
    with op.batch_alter_table("stops") as table:
        table.drop_constraint("fk_stops_report_id_pain_reports", type_="foreignkey")
        table.drop_column("report_id")
        table.drop_column("family")
    op.drop_table("pain_reports")
