"""the cells that wait to be published, and those the sheet has no more, found without reading a block's others"""

import sqlalchemy as sa
from alembic import op

revision = "waiting_cells"
down_revision = "stamps"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_index("ix_cells_drafts", "cells", ["slot_id"], sqlite_where=sa.text("current = 1 AND live = 0"))
    op.create_index("ix_cells_emptied", "cells", ["slot_id"], sqlite_where=sa.text("live = 1 AND current = 0"))


def downgrade() -> None:
    op.drop_index("ix_cells_emptied", "cells")
    op.drop_index("ix_cells_drafts", "cells")
