"""What planning must know of each athlete for one movement: readiness, estimate, what stands in."""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.row import Candidate
from backsquat.core.rules import Rules
from backsquat.core.strength.current import CurrentEstimate
from backsquat.core.strength.estimate import Trust
from backsquat.core.working import Step, plain
from backsquat.features.athletes.queries import estimates
from backsquat.features.athletes.readiness import Readiness, readiness_of
from backsquat.features.movements.queries import Library, library_of
from backsquat.storage.models import Athlete


@dataclass(frozen=True)
class Asking:
    """The movement of a slot, or the ladder everybody's own rung is taken from; `days` by week of the block."""

    movement: Movement
    days: Mapping[int, dt.date]
    ladder: str = ""


def candidates(
    session: Session, squad_id: int, athletes: Sequence[Athlete], asking: Asking, today: dt.date, rules: Rules
) -> dict[int, Candidate]:
    """Candidates by athlete, in a fixed number of queries."""
    ready = readiness_of(session, squad_id, athletes, today, rules)
    library = library_of(session, squad_id)
    ids = [athlete.id for athlete in athletes]
    current = estimates(session, ids, asking.movement.code, today, rules)
    untested = [athlete_id for athlete_id in ids if athlete_id not in current]
    by_ratio = estimates_by_ratio(session, library, untested, asking.movement, today, rules)
    return {
        athlete.id: _candidate(
            ready[athlete.id], asking, current.get(athlete.id) or by_ratio.get(athlete.id), athlete.id in by_ratio
        )
        for athlete in athletes
    }  # fmt: skip


def _candidate(
    ready: Readiness, asking: Asking, current: CurrentEstimate | None, by_ratio: bool
) -> Candidate:
    movement, days = asking.movement, asking.days
    bounds = {week: ready.bounds(movement, day) for week, day in days.items()} if ready.limits else {}
    eased = {week: ready.eased(movement, day) for week, day in days.items()} if ready.away else {}
    gate = ready.gate(movement)
    barred = frozenset(week for week, bound in bounds.items() if bound.barred_by)
    lacks = frozenset(week for week, day in days.items() if ready.lacking(movement, day))
    lacking = len(lacks) == len(days) if days else bool(ready.lacking(movement))
    reasons = {"rung": asking.ladder, "gate": gate, "room": lacks or lacking, "limit": barred}
    why = next((reason for reason, holds in reasons.items() if holds), "")

    def instead(day: dt.date | None) -> Movement | None:
        """What is done in the movement's place on a day; limits may begin or end on the way."""
        if asking.ladder:
            return ready.own_rung(ready.library.ladders[asking.ladder], day)
        return ready.rung_work(movement, day) if gate else ready.stand_in(movement, day)

    varies = ready.limits or ready.moves(days.values())
    stands_in = {week: instead(day) for week, day in days.items()} if why and varies else {}
    rung = next((m for m in stands_in.values() if m), None)
    if why and not varies:
        rung = instead(None)
    return Candidate(
        newcomer=ready.athlete.newcomer,
        gate=gate,
        locked=ready.stop_on(movement) is not None,
        current=current,
        rung=rung,
        rungs=stands_in,
        barred=barred if lacking else barred | lacks,
        lacks=lacks,
        most_kg={week: bound.most_kg for week, bound in bounds.items() if bound.most_kg is not None},
        eased={week: ease for week, ease in eased.items() if ease},
        carried_kg=movement.carried_kg(ready.body_mass_kg),
        by_ratio=by_ratio,
        why=why if rung else "",
        by_rung=bool(asking.ladder),
        lacking=lacking,
        must_be_tested=CONVENTIONS[movement.convention].tested,
    )


def estimates_by_ratio(
    session: Session, library: Library, athlete_ids: Sequence[int], movement: Movement, today: dt.date, rules: Rules
) -> dict[int, CurrentEstimate]:  # fmt: skip
    """A low start for those who were never tested: the movement's usual share of a lift they have a record of.

    The ratio's own lift is looked at first, then the lift that one is a share of, and so on.
    """
    found: dict[int, CurrentEstimate] = {}
    share, parent, seen = 1.0, movement, {movement.code}
    waiting = list(athlete_ids)
    while (
        waiting
        and parent.ratio
        and parent.ratio.parent in library.movements
        and parent.ratio.parent not in seen
    ):
        share *= parent.ratio.share
        parent = library.movements[parent.ratio.parent]
        seen.add(parent.code)
        known = estimates(session, waiting, parent.code, today, rules)
        found |= {
            athlete_id: _of_parent(estimate, parent, movement, share)
            for athlete_id, estimate in known.items()
        }
        waiting = [athlete_id for athlete_id in waiting if athlete_id not in known]
    return found


def _of_parent(known: CurrentEstimate, parent: Movement, movement: Movement, share: float) -> CurrentEstimate:
    max_kg = known.max_kg * parent.hands * share / movement.hands
    words = f"{plain(share, 3)} of {parent.name.lower()} {plain(known.max_kg)}"
    if movement.hands > 1:
        words += f", in {movement.hands} hands"
    step = Step("By ratio", f"{words}: never tested, a low start", plain(max_kg), "kg")
    value = replace(known.value, max_kg=max_kg, weighed_kg=max_kg, trust=Trust.WEAK, raised_by=None)
    return CurrentEstimate(value, known.working.then(step))
