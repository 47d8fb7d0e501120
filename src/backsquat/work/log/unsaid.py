"""Sets of before that hold a forecast as if somebody had said it.

One tap used to store what the plan expected to be left. Where a set holds just that number, nobody knows whether it was
said: it counts as not said. The number stays beside it, under a name of its own.
"""

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.rules import Rules
from backsquat.core.strength.belief import Belief, believe, on_day
from backsquat.core.strength.chance import KnownStrength
from backsquat.storage.convert import record_from_row
from backsquat.storage.models import Athlete, Cell, SetEntry, Squad

WAS = "forecast_reserve"  # what stood there, in `SetEntry.notes`


def unsay_forecasts(db: Session, squad: Squad, rules: Rules) -> int:
    """Mark the forecasts of a squad as not said, once; returns how many there were."""
    until, squad.forecasts_until = squad.forecasts_until, None
    found = 0
    for athlete in db.scalars(select(Athlete).where(Athlete.squad_id == squad.id)) if until else ():
        for entry in list(_forecasts(db, athlete, until or 0, rules)):
            entry.notes = {**entry.notes, WAS: entry.reserve_reps}
            entry.reserve_reps = None
            found += 1
    db.flush()
    return found


def _forecasts(db: Session, athlete: Athlete, until: int, rules: Rules) -> Iterator[SetEntry]:
    """The sets whose reserve is what their card expected, from what was believed when they were done."""
    rows = db.execute(
        select(SetEntry, Cell)
        .outerjoin(Cell, SetEntry.cell_id == Cell.id)
        .where(SetEntry.athlete_id == athlete.id, SetEntry.standing, SetEntry.id <= until)
        .order_by(SetEntry.movement, SetEntry.done_on, SetEntry.id)
    )
    belief: Belief | None = None
    movement, gain = "", rules.gain_newcomer if athlete.newcomer else rules.gain_trained
    for entry, cell in rows:
        if entry.movement != movement:
            movement, belief = entry.movement, None
        record = record_from_row(entry)
        if cell is not None and entry.reserve_reps is not None and not entry.pain:
            expected = cell.reserve_reps
            if belief is not None and cell.load_kg is not None:
                known = KnownStrength.of(on_day(belief, entry.done_on, rules))
                moved_kg = cell.load_kg + (entry.carried_kg or 0.0)
                expected = max(round(known.left(moved_kg, cell.reps, 0.0, gain, rules)), 0)
            if entry.reserve_reps == expected:
                yield entry
        belief, _ = believe(belief, record, rules)
