"""What is believed of each athlete's lifts, kept a row for every day with sets, so that pages need not go through them all.

A row is the belief after its day. A set of today adds to the newest row; one of an earlier day, or one corrected or taken
back, makes the rows from that day on again. A changed depth standard begins a new line with nothing believed.
"""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable

from sqlalchemy import bindparam, delete, func, insert, select
from sqlalchemy.orm import Session

from backsquat.core.rules import Rules
from backsquat.core.strength.belief import Belief, beliefs_of
from backsquat.core.strength.record import SetRecord
from backsquat.storage.convert import RECORD_COLUMNS, record_from_values
from backsquat.storage.models import BeliefDay, DepthChoice, SetEntry

_MINE = (BeliefDay.movement == bindparam("movement"), BeliefDay.athlete_id == bindparam("athlete"))
_BEFORE = (
    select(BeliefDay.done_on, BeliefDay.belief)
    .where(*_MINE, BeliefDay.done_on < bindparam("first"))
    .order_by(BeliefDay.done_on.desc())
    .limit(1)
)
_LINE = select(func.max(DepthChoice.from_on)).where(
    DepthChoice.athlete_id == bindparam("athlete"), DepthChoice.movement == bindparam("movement")
)
_SETS = (
    select(*RECORD_COLUMNS)
    .where(
        SetEntry.athlete_id == bindparam("athlete"),
        SetEntry.movement == bindparam("movement"),
        SetEntry.standing,
        SetEntry.done_on >= bindparam("first"),
    )
    .order_by(SetEntry.done_on, SetEntry.id)
)


def bring_up_to_date(db: Session, athlete_id: int, movement: str, first: dt.date, rules: Rules) -> None:
    """Make what is believed of a lift from a day on again, from its standing sets; `rules` are the athlete's own."""
    asked = {"athlete": athlete_id, "movement": movement, "first": first}
    line = db.scalar(_LINE, asked)
    if line is not None and line > first:
        asked["first"] = line
    before = db.execute(_BEFORE, asked).first()
    start = Belief.from_plain(before.belief) if before and (line is None or before.done_on >= line) else None
    db.execute(
        delete(BeliefDay).where(
            BeliefDay.movement == movement, BeliefDay.athlete_id == athlete_id, BeliefDay.done_on >= first
        )
    )
    records = [record_from_values(*values) for (*values,) in db.execute(_SETS, asked)]
    rows = _rows(athlete_id, movement, beliefs_of(records, rules, start))
    if rows:
        db.execute(insert(BeliefDay), rows)


def _rows(athlete_id: int, movement: str, steps: Iterable[tuple[SetRecord, Belief, float]]) -> list[dict[str, object]]:
    days: dict[dt.date, list[tuple[SetRecord, Belief, float]]] = defaultdict(list)
    for step in steps:
        days[step[0].done_on].append(step)
    return [
        {
            "athlete_id": athlete_id,
            "movement": movement,
            "done_on": day,
            "carried_kg": sets[-1][0].carried_kg or 0.0,
            "max_kg": sets[-1][1].max_kg(sets[-1][0].carried_kg or 0.0),
            "belief": sets[-1][1].to_plain(),
            "shares": [[record.set_id, round(share, 4)] for record, _, share in sets],
        }
        for day, sets in days.items()
    ]


def bring_all_up_to_date(db: Session, athlete_id: int, rules: Rules) -> None:
    """The same for everything an athlete has lifted, from the first set on."""
    lifted = select(SetEntry.movement, func.min(SetEntry.done_on)).where(
        SetEntry.athlete_id == athlete_id, SetEntry.standing
    )
    for movement, first in db.execute(lifted.group_by(SetEntry.movement)).all():
        bring_up_to_date(db, athlete_id, movement, first, rules)
