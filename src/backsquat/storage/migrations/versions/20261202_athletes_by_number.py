"""athletes in the audit log by their number: a name that is in no line need be taken out of none"""

import hashlib
import json

import sqlalchemy as sa
from alembic import op

revision = "athletes_by_number"
down_revision = "bags"
branch_labels = None
depends_on = None
FIRST = "0" * 64


def upgrade() -> None:
    connection = op.get_bind()
    own = dict(
        connection.execute(sa.text("SELECT user_id, athlete_id FROM memberships WHERE athlete_id IS NOT NULL")).all()
    )
    lines = connection.execute(sa.text("SELECT * FROM audit_lines ORDER BY id")).mappings().all()
    if not any(line["user_id"] in own for line in lines):
        return
    refusing = {
        name: made
        for name, made in connection.execute(
            sa.text("SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND name LIKE 'audit_lines_no_%'")
        )
    }
    for name in refusing:
        op.execute(f"DROP TRIGGER {name}")
    before = FIRST
    for line in lines:
        who = f"athlete {own[line['user_id']]}" if line["user_id"] in own else line["who"]
        at = line["at"].replace(" ", "T")
        at = at.removesuffix(".000000")
        said = [before, at, line["squad_id"], line["user_id"], who, line["what"], json.loads(line["about"])]
        digest = hashlib.sha256(json.dumps(said, sort_keys=True, ensure_ascii=False).encode()).hexdigest()
        connection.execute(
            sa.text("UPDATE audit_lines SET who = :who, before = :before, digest = :digest WHERE id = :id"),
            {"who": who, "before": before, "digest": digest, "id": line["id"]},
        )
        before = digest
    for made in refusing.values():
        op.execute(made)


def downgrade() -> None:
    """The names are in no line any more."""
