"""What the squad's own lists call their columns: remembered when a list is taken in."""

from collections.abc import Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.storage.models import ColumnName
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require

HEAD_MOST, HEADS_MOST = 60, 200
MOVEMENT_WORDS, NAME_WORDS = "movement words", "name words"  # how the squad's lists write movements and athletes


def heads_of(db: Session, squad_id: int, kind: str) -> dict[str, str]:
    """Head in small letters → what it holds, in lists of a kind."""
    rows = select(ColumnName.head, ColumnName.holds).where(ColumnName.squad_id == squad_id, ColumnName.list == kind)
    return {row.head: row.holds for row in db.execute(rows)}


def remember_heads(context: WorkContext, kind: str, heads: Mapping[str, str]) -> None:
    """Keep what these heads hold for the next list of the kind."""
    require(context.actor, Act.KEEP_ATHLETES)
    mine = ColumnName.squad_id == context.squad_id, ColumnName.list == kind
    known = {row.head: row for row in context.db.scalars(select(ColumnName).where(*mine))}
    for head, holds in heads.items():
        if head in known:
            known[head].holds = holds
        elif head and len(head) <= HEAD_MOST and len(known) < HEADS_MOST:
            known[head] = ColumnName(squad_id=context.squad_id, list=kind, head=head, holds=holds)
            context.db.add(known[head])
    context.db.flush()
