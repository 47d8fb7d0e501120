"""data: what the plan asked of the sets that are there; which of them may hold a forecast is looked at at the next start"""

from alembic import op

revision = "what_was_asked"
down_revision = "pain_by_itself"
branch_labels = None
depends_on = None

OF_CELL = (
    "FROM cells WHERE cells.id = set_entries.cell_id AND cells.state = 'load' "
    "AND set_entries.load_kg <= cells.load_kg + 0.01"
)


def upgrade() -> None:
    op.execute(
        f"UPDATE set_entries SET asked_reps = (SELECT cells.reps {OF_CELL}), "
        f"asked_reserve = (SELECT cells.reserve_reps {OF_CELL}) WHERE cell_id IS NOT NULL"
    )
    op.execute(
        "UPDATE squads SET recount_after = 0, forecasts_until = (SELECT max(set_entries.id) FROM set_entries JOIN "
        "athletes ON athletes.id = set_entries.athlete_id WHERE athletes.squad_id = squads.id)"
    )


def downgrade() -> None:
    """Nothing to take back: the columns go with the schema."""
