"""What planning must know of each athlete for one movement: the verdict, the estimate, what stands in."""

import datetime as dt
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import hypot

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import StandIn
from backsquat.core.progression.row import Candidate
from backsquat.core.readiness.stand_in import earned_work, level_work, most_alike, own_level_instead, without_load
from backsquat.core.readiness.verdict import Readiness, Reason, Verdict
from backsquat.core.rules import Rules
from backsquat.core.strength.current import CurrentEstimate, trust_of
from backsquat.core.strength.estimate import Trust
from backsquat.core.strength.ratio import max_by_ratio
from backsquat.storage.models import SetEntry
from backsquat.work.log.estimates import estimates


@dataclass(frozen=True)
class ExerciseDemand:
    """The movement of an exercise, or the ladder everybody's own level is taken from; `days` by exposure of the row.

    `chosen`: what the coach gives one athlete in its place; `left_out`: nothing.
    """

    movement: Movement
    days: Mapping[int, dt.date]
    ladder: str = ""
    chosen: Movement | None = None
    left_out: bool = False


def candidates(
    db: Session, ready: Mapping[int, Readiness], demands: Mapping[int, ExerciseDemand], rules: Rules
) -> dict[int, Candidate]:
    """Candidates by athlete, in a fixed number of queries; of whom, says `ready`, on its day.

    `demands` by athlete: the same movement for all, on the days each of them does it.
    """
    if not ready:
        return {}
    ids, first = list(ready), next(iter(ready.values()))
    today, movement = first.today, next(iter(demands.values())).movement
    own = {athlete_id: one.rules for athlete_id, one in ready.items()}
    current = estimates(db, ids, movement.code, today, rules, own)
    finding = _finding(db, ids, movement, rules)
    untested = [athlete_id for athlete_id in ids if athlete_id not in current or athlete_id in finding]
    by_ratio = _by_ratio(db, {athlete_id: ready[athlete_id] for athlete_id in untested}, movement, rules)
    known = current | by_ratio
    with_weight = _with_weight(db, ids, movement)
    found = {}
    for athlete_id in ids:
        ratio = athlete_id in by_ratio
        one = _candidate(ready[athlete_id], demands[athlete_id], known.get(athlete_id), ratio)
        by_reps = movement.gains_reps and athlete_id not in with_weight
        found[athlete_id] = replace(one, by_reps=by_reps, found_in=finding.get(athlete_id) if ratio else None)
    return _with_starts(db, ready, movement, found, rules)


def _with_starts(
    db: Session, ready: Mapping[int, Readiness], movement: Movement, found: dict[int, Candidate], rules: Rules
) -> dict[int, Candidate]:
    """With what a first load begins from, for who has never lifted what they are given: by the movements they are given."""
    given: dict[Movement, set[int]] = defaultdict(set)
    for athlete_id, one in found.items():
        others = {other for other in (one.level, *one.levels.values()) if other is not None}
        for other in {*others, *([movement] if one.current is None else [])}:
            if other.takes_load:
                given[other].add(athlete_id)
    if not given:
        return found
    lifted = select(SetEntry.athlete_id, SetEntry.movement).where(
        SetEntry.athlete_id.in_(list(found)), SetEntry.movement.in_([other.code for other in given]), SetEntry.standing
    )
    known = {(athlete_id, code) for athlete_id, code in db.execute(lifted.distinct())}
    starts: dict[int, dict[str, float | None]] = defaultdict(dict)
    for other, athletes in given.items():  # a stand-in or two of an exercise
        never = {one: ready[one] for one in athletes if (one, other.code) not in known}
        by_ratio = _by_ratio(db, never, other, rules)
        for athlete_id in never:
            ratio = by_ratio.get(athlete_id)
            starts[athlete_id][other.code] = ratio.max_kg if ratio else None
    return {athlete_id: replace(one, starts=starts.get(athlete_id, {})) for athlete_id, one in found.items()}


def _finding(db: Session, ids: Sequence[int], movement: Movement, rules: Rules) -> dict[int, int]:
    """For a pattern that is itself to be learnt: who is still on the way to a first load, with the sessions gone.

    Over after the session at the ceiling, or as soon as a set was said to be near failure: then the record is the word.
    """
    if not movement.new_pattern:
        return {}
    counted = (
        select(SetEntry.athlete_id, func.count(SetEntry.done_on.distinct()), func.min(SetEntry.reserve_reps))
        .where(
            SetEntry.athlete_id.in_(list(ids)),
            SetEntry.movement == movement.code,
            SetEntry.standing,
            SetEntry.estimate_kg.is_not(None),
        )
        .group_by(SetEntry.athlete_id)
    )
    gone = {athlete_id: (days, least) for athlete_id, days, least in db.execute(counted)}
    found = {}
    for athlete_id in ids:
        days, least = gone.get(athlete_id, (0, None))
        if days <= rules.finding_sessions and (least is None or least >= rules.finding_reserve_reps):
            found[athlete_id] = days
    return found


def _with_weight(db: Session, ids: Sequence[int], movement: Movement) -> set[int]:
    """Who has done a movement of body weight with a weight: they go on with one."""
    if not movement.gains_reps:
        return set()
    weighted = select(SetEntry.athlete_id).where(
        SetEntry.athlete_id.in_(list(ids)), SetEntry.movement == movement.code, SetEntry.standing, SetEntry.load_kg > 0
    )
    return set(db.scalars(weighted.distinct()))


def _candidate(ready: Readiness, demand: ExerciseDemand, current: CurrentEstimate | None, by_ratio: bool) -> Candidate:
    if demand.left_out or demand.chosen:
        return _own_work(ready, demand)
    movement, verdicts = demand.movement, _verdicts(ready, demand)
    now = ready.judge(movement).but(Reason.AWAY)
    barred = frozenset(week for week, verdict in verdicts.items() if verdict.has(Reason.BARRED))
    lacks = frozenset(week for week, day in demand.days.items() if ready.lacking(movement, day))
    lacking = len(lacks) == len(demand.days) if demand.days else bool(ready.lacking(movement))
    why = _why(demand, now, bool(lacks) or lacking, bool(barred))
    levels = _instead(ready, demand, now) if why else {}
    level = next((other for other in levels.values() if other), None)
    return Candidate(
        newcomer=ready.person.newcomer,
        growing=ready.person.growing,
        readiness_check=ready.readiness_check(movement),
        locked=now.has(Reason.STOPPED),
        current=current,
        level=level,
        levels=levels,
        barred=barred if lacking else barred | lacks,
        lacks=lacks,
        most_kg={week: v.most_kg for week, v in verdicts.items() if v.most_kg is not None},
        eased={week: v.ease for week, v in verdicts.items() if v.ease},
        carried_kg=movement.carried_kg(ready.body_mass_kg),
        by_ratio=by_ratio,
        why=why if level else StandIn.NOT,
        by_level=bool(demand.ladder),
        lacking=lacking,
        unearned=now.has(Reason.UNEARNED),
        lighter=without_load(ready, movement) if movement.takes_load and not movement.readiness_checks else None,
        body_mass_kg=ready.body_mass_kg,
        must_be_tested=CONVENTIONS[movement.convention].tested,
    )


def _own_work(ready: Readiness, demand: ExerciseDemand) -> Candidate:
    """What one athlete was given in the exercise's place: the movement where it may be done, else what is most like it."""
    chosen = demand.chosen

    def on(day: dt.date | None) -> Movement | None:
        return chosen if chosen is None or ready.may(chosen.code, day) else most_alike(ready, chosen, day)

    levels = {week: on(day) for week, day in demand.days.items()}
    return Candidate(
        newcomer=ready.person.newcomer,
        readiness_check=(),
        locked=False,
        current=None,
        level=next((other for other in levels.values() if other), None),
        levels=levels,
        eased={week: ease for week, day in demand.days.items() if (ease := ready.judge(chosen, day).ease)}
        if chosen
        else {},
        why=StandIn.CHOSEN,
        chosen=chosen is not None,
        left_out=demand.left_out,
        body_mass_kg=ready.body_mass_kg,
    )


def _verdicts(ready: Readiness, demand: ExerciseDemand) -> dict[int, Verdict]:
    """The verdict of each week of the block; judged once where nothing depends on the day."""
    if ready.limits or ready.absences:
        return {week: ready.judge(demand.movement, day) for week, day in demand.days.items()}
    return dict.fromkeys(demand.days, ready.judge(demand.movement))


def _why(demand: ExerciseDemand, now: Verdict, lacking: bool, barred: bool) -> StandIn:
    """Why another movement stands in; NOT where none does."""
    reasons = (
        (StandIn.LEVEL, bool(demand.ladder)),
        (StandIn.READINESS_CHECK, now.has(Reason.NOT_READY)),
        (StandIn.LADDER, now.has(Reason.UNEARNED)),
        (StandIn.ROOM, lacking),
        (StandIn.LIMIT, barred),
    )
    return next((reason for reason, holds in reasons if holds), StandIn.NOT)


def _instead(ready: Readiness, demand: ExerciseDemand, now: Verdict) -> dict[int, Movement | None]:
    """What is done in the movement's stead, week by week; limits may begin or end on the way, rooms change."""

    def on(day: dt.date | None) -> Movement | None:
        if demand.ladder:
            return level_work(ready, ready.library.ladders[demand.ladder], day)
        if now.has(Reason.NOT_READY):
            return own_level_instead(ready, demand.movement, day)
        if now.has(Reason.UNEARNED):
            return earned_work(ready, demand.movement, day)
        return most_alike(ready, demand.movement, day)

    if ready.limits or ready.moves(demand.days.values()):
        return {week: on(day) for week, day in demand.days.items()}
    return dict.fromkeys(demand.days or (0,), on(None))


def _by_ratio(
    db: Session, untested: Mapping[int, Readiness], movement: Movement, rules: Rules
) -> dict[int, CurrentEstimate]:
    """A low start for those who were never tested: the movement's usual share of a lift they have a record of.

    The ratio's own lift is looked at first, then the lift that one is a share of, and so on.
    """
    found: dict[int, CurrentEstimate] = {}
    share, parent, seen = 1.0, movement, {movement.code}
    waiting = dict(untested)
    while waiting and (ratio := parent.ratio):
        library, today = next((one.library, one.today) for one in waiting.values())
        if ratio.parent not in library.movements or ratio.parent in seen:
            break
        share *= ratio.share
        parent = library.movements[ratio.parent]
        seen.add(parent.code)
        for athlete_id, known in estimates(db, list(waiting), parent.code, today, rules).items():
            carried_kg = movement.carried_kg(waiting.pop(athlete_id).body_mass_kg)
            if carried_kg is not None:
                found[athlete_id] = _of_parent(known, parent, movement, share, carried_kg, rules)
    return found


def _of_parent(
    known: CurrentEstimate, parent: Movement, movement: Movement, share: float, carried_kg: float, rules: Rules
) -> CurrentEstimate:
    max_kg, step = max_by_ratio(known.max_kg * parent.hands, share, movement, carried_kg, rules)
    step = replace(step, facts={**step.facts, "parent": parent.name, "parent_kg": known.max_kg})
    spread = hypot(known.value.spread, rules.width_ratio)
    trust = max(trust_of(spread, rules), Trust.WEAK)
    value = replace(known.value, max_kg=max_kg, spread=spread, trust=trust, carried_kg=carried_kg, belief=None)
    return CurrentEstimate(value, known.working.then(step))
