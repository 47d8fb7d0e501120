"""Left against right, from screens and from logged sets."""

import datetime as dt
from collections.abc import Iterable

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.readiness.screens import SIDES, Kind, Screen
from backsquat.core.readiness.sides import Sides, compare
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.storage.models import SetEntry


def sides_of(
    session: Session, ready: Readiness, screens: Iterable[Screen], today: dt.date, rules: Rules
) -> list[Sides]:
    """Left against right: two-sided screens in units, and the best estimate of each side in the window."""
    found = []
    for screen in screens:
        left, right = (ready.known.get((screen.code, side)) for side in SIDES)
        if screen.two_sided and screen.unit and screen.kind is not Kind.GRADE and left and right:
            found.append(
                compare(
                    screen.name,
                    left.value,
                    right.value,
                    screen.unit,
                    rules,
                    less_is_better=screen.less_is_better,
                    error=screen.error,
                )
            )
    rows = session.execute(
        select(SetEntry.movement, SetEntry.side, func.max(SetEntry.estimate_kg))
        .where(
            SetEntry.athlete_id == ready.person.id,
            SetEntry.side != "",
            SetEntry.standing,
            SetEntry.estimate_kg.is_not(None),
            SetEntry.done_on > today - dt.timedelta(days=rules.estimate_window_days),
        )
        .group_by(SetEntry.movement, SetEntry.side)
    )
    best = {(movement, side): kg for movement, side, kg in rows}
    for code in sorted({movement for movement, _ in best}):
        left_kg, right_kg = best.get((code, "left")), best.get((code, "right"))
        if left_kg and right_kg:
            movement = ready.library.get(code)
            carried = movement.carried_kg(ready.body_mass_kg) or 0.0
            found.append(compare(movement.name, left_kg, right_kg, "kg", rules, carried=carried))
    return found
