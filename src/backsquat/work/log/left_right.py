"""Left against right, from screens and from logged sets."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.movements.library import Library
from backsquat.core.readiness.screens import SIDES, Result, ResultKind, Screen
from backsquat.core.readiness.sides import Sides, compare
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.core.strength.estimate import bare_estimate
from backsquat.core.strength.set_notes import set_notes_from
from backsquat.storage.convert import record_from_row
from backsquat.storage.models import SetEntry


@dataclass(frozen=True)
class MeasuredSides:
    """What was measured of one athlete: screens by code and side, and the body mass."""

    known: Mapping[tuple[str, str], Result]
    body_mass_kg: float | None


def sides_of(db: Session, ready: Readiness, screens: Iterable[Screen], today: dt.date, rules: Rules) -> list[Sides]:
    """Left against right: two-sided screens in units, and the best estimate of each side in the window."""
    who, measured = ready.person.id, MeasuredSides(ready.known, ready.body_mass_kg)
    return sides_of_all(db, ready.library, {who: measured}, list(screens), today, rules)[who]


def sides_of_all(
    db: Session,
    library: Library,
    measured: Mapping[int, MeasuredSides],
    screens: Sequence[Screen],
    today: dt.date,
    rules: Rules,
) -> dict[int, list[Sides]]:
    """The same for many, in two queries."""
    best = _best(db, list(measured), today, rules)
    screens = [one for one in screens if one.two_sided and one.unit and one.kind is not ResultKind.GRADE]
    return {
        who: [*_by_screens(one, screens, rules), *_by_lifts(library, one, best[who], rules)]
        for who, one in measured.items()
    }


def _by_screens(measured: MeasuredSides, screens: Sequence[Screen], rules: Rules) -> Iterable[Sides]:
    for screen in screens:
        left, right = (measured.known.get((screen.code, side)) for side in SIDES)
        if left and right:
            less, error = screen.less_is_better, screen.error
            values = left.value, right.value
            yield compare(screen.name, *values, screen.unit, rules, less_is_better=less, error=error)


def _by_lifts(
    library: Library, measured: MeasuredSides, best: Mapping[tuple[str, str], float], rules: Rules
) -> Iterable[Sides]:
    for code in sorted({one for one, _ in best}):
        left_kg, right_kg = best.get((code, "left")), best.get((code, "right"))
        if left_kg and right_kg:
            movement = library.get(code)
            carried = movement.carried_kg(measured.body_mass_kg) or 0.0
            yield compare(movement.name, left_kg, right_kg, "kg", rules, carried=carried)


def _best(
    db: Session, athlete_ids: Sequence[int], today: dt.date, rules: Rules
) -> dict[int, dict[tuple[str, str], float]]:
    """By athlete: movement and side → the best estimate of the window in kg."""
    found: dict[int, dict[tuple[str, str], float]] = defaultdict(dict)
    rows = db.execute(
        select(SetEntry.athlete_id, SetEntry.movement, SetEntry.side, func.max(SetEntry.estimate_kg))
        .where(
            SetEntry.athlete_id.in_(athlete_ids),
            SetEntry.side != "",
            SetEntry.standing,
            SetEntry.estimate_kg.is_not(None),
            SetEntry.done_on > today - dt.timedelta(days=rules.estimate_window_days),
            SetEntry.done_on <= today,
        )
        .group_by(SetEntry.athlete_id, SetEntry.movement, SetEntry.side)
    )
    for who, code, side, kg in rows:
        found[who][code, side] = kg or 0.0
    for who, code, side, kg in _sides_of_whole_sets(db, athlete_ids, today, rules):
        found[who][code, side] = max(kg, found[who].get((code, side), kg))
    return found


def _sides_of_whole_sets(
    db: Session, athlete_ids: Sequence[int], today: dt.date, rules: Rules
) -> Iterable[tuple[int, str, str, float]]:
    """Athlete, movement, side, estimate in kg, from sets of both sides in which each side's reps were said."""
    both = select(SetEntry).where(
        SetEntry.athlete_id.in_(athlete_ids),
        SetEntry.standing,
        SetEntry.left_reps.is_not(None),
        SetEntry.done_on > today - dt.timedelta(days=rules.estimate_window_days),
        SetEntry.done_on <= today,
    )
    for entry in db.scalars(both):
        whole, told = record_from_row(entry), set_notes_from(entry.notes)
        held = {"left": told.left_supported, "right": told.right_supported}
        for side, reps in (("left", entry.left_reps), ("right", entry.right_reps)):
            if not reps or held[side]:  # a supported side is no measure of a free one
                continue
            # What was left was left on the weaker side: the stronger could have done at least its own reps.
            short = whole.reps - whole.reps_to_depth
            half = replace(whole, reps=reps, reps_to_depth=max(0, reps - short), side=side, supported=False)
            estimate = bare_estimate(half, rules).max_kg
            if estimate is not None:
                yield entry.athlete_id, entry.movement, side, estimate
