"""Left against right, from screens and from logged sets."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.readiness.screens import SIDES, Kind, Screen
from backsquat.core.readiness.sides import Sides, compare
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.core.strength.estimate import bare_estimate
from backsquat.core.strength.told import told_from
from backsquat.storage.convert import record_from_row
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
    best = {(code, side): kg for code, side, kg in rows if kg is not None}
    for code, side, kg in _sides_of_whole_sets(session, ready, today, rules):
        best[code, side] = max(kg, best.get((code, side), kg))
    for code in sorted({one for one, _ in best}):
        left_kg, right_kg = best.get((code, "left")), best.get((code, "right"))
        if left_kg and right_kg:
            movement = ready.library.get(code)
            carried = movement.carried_kg(ready.body_mass_kg) or 0.0
            found.append(compare(movement.name, left_kg, right_kg, "kg", rules, carried=carried))
    return found


def _sides_of_whole_sets(
    session: Session, ready: Readiness, today: dt.date, rules: Rules
) -> Iterable[tuple[str, str, float]]:
    """Movement, side, estimate in kg, from sets of both sides in which each side's reps were said."""
    both = select(SetEntry).where(
        SetEntry.athlete_id == ready.person.id,
        SetEntry.standing,
        SetEntry.left_reps.is_not(None),
        SetEntry.done_on > today - dt.timedelta(days=rules.estimate_window_days),
    )
    for entry in session.scalars(both):
        whole, told = record_from_row(entry), told_from(entry.told)
        held = {"left": told.left_supported, "right": told.right_supported}
        for side, reps in (("left", entry.left_reps), ("right", entry.right_reps)):
            if not reps or held[side]:  # a supported side is no measure of a free one
                continue
            # What was left was left on the weaker side: the stronger could have done at least its own reps.
            short = whole.reps - whole.reps_to_depth
            half = replace(whole, reps=reps, reps_to_depth=max(0, reps - short), side=side, supported=False)
            estimate = bare_estimate(half, rules).max_kg
            if estimate is not None:
                yield entry.movement, side, estimate
