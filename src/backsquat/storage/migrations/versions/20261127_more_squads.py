"""a coach of several squads: which one a browser shows"""

import sqlalchemy as sa
from alembic import op

revision = "more_squads"
down_revision = "in_and_out"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("sign_ins") as table:
        table.add_column(sa.Column("squad_id", sa.Integer(), nullable=True))
        table.create_foreign_key("fk_sign_ins_squad_id_squads", "squads", ["squad_id"], ["id"])


def downgrade() -> None:
    with op.batch_alter_table("sign_ins") as table:
        table.drop_constraint("fk_sign_ins_squad_id_squads")
        table.drop_column("squad_id")
