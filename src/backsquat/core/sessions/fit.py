"""What would bring a session into its minutes: proposals with what they save and what they cost (rules 2.8)."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from backsquat.core.movements.movement import Movement, Muscle
from backsquat.core.rules import Rules
from backsquat.core.sessions.moves import Move, MoveKind, moved
from backsquat.core.sessions.order import hip_work, rest_wanted_s, shared, small
from backsquat.core.sessions.session import SUPERSET_MOST, Form, Group, Item, Session
from backsquat.core.sessions.timing import group_rest_s, group_s, timetable

SAVED_LEAST_S = 60  # less is not worth a change
QUICK_RIG_S = 15
PROPOSALS_MOST = 6
REST_STEP_S = 30

Facts = dict[str, str | float | int]


@dataclass(frozen=True)
class TimeProposal:
    """One move, the seconds it saves, and what it costs: 0 nothing, 1 a little, 2 work that was wanted."""

    code: str
    move: Move
    saved_s: float
    cost: int
    facts: Facts


def length_s(session: Session, rules: Rules) -> float:
    """How long what must be done takes, without laying it out."""
    return session.warm_up_s + sum(group_s(group, rules) for group in session.groups if not group.spare)


def proposals(
    session: Session,
    rules: Rules,
    week_sets: Mapping[Muscle, float] | None = None,
    quicker: Mapping[int, Movement] | None = None,
) -> list[TimeProposal]:
    """What would make a session shorter: the cheapest first, among those the most minutes; none where it fits.

    `week_sets`: hard sets a muscle over the week, so that a trim can say what it takes from it. `quicker`: by item
    what could be done in its stead that is rigged sooner.
    """
    now = length_s(session, rules)
    if now <= 60 * session.cap_min:
        return []
    found = []
    for code, move, cost, facts in [*_candidates(session, rules, week_sets or {}), *_quicker(session, quicker or {})]:
        saved = now - length_s(moved(session, move), rules)
        if saved >= SAVED_LEAST_S:
            found.append(TimeProposal(code, move, saved, cost, facts))
    best = sorted(found, key=lambda one: (one.cost, -one.saved_s))
    kept: list[TimeProposal] = []
    for one in best:  # one way a piece of work and kind is enough
        if not any((one.code, one.move.key) == (other.code, other.move.key) for other in kept):
            kept.append(one)
    return kept[:PROPOSALS_MOST]


Candidate = tuple[str, Move, int, Facts]


def _candidates(session: Session, rules: Rules, week_sets: Mapping[Muscle, float]) -> Iterable[Candidate]:
    working = [group for group in session.groups if not group.spare]
    yield from _supersets_of(working, session)
    yield from _circuit(working)
    yield from _rests(working, rules)
    for group in working:
        for item in group.items:
            yield from _trim(item, rules, week_sets)
    yield from _to_spare(working)


def _supersets_of(groups: list[Group], session: Session) -> Iterable[Candidate]:
    """Small work into the rests of what does not compete with it."""
    for group in groups:
        item = group.items[0]
        if group.form is not Form.SINGLE or not small(item.movement):
            continue
        for onto in groups:
            if onto is group or len(onto.items) >= SUPERSET_MOST or onto.form is Form.CIRCUIT:
                continue
            if any(shared(item.movement, other.movement) for other in onto.items) and not session.same_muscles:
                continue
            rig = item.movement.rig_s
            facts: Facts = {"name": item.movement.name, "onto": onto.items[0].movement.name, "rig_s": rig}
            cost = (rig > QUICK_RIG_S) + (onto.items[0].main and hip_work(item.movement))
            yield "superset", Move(MoveKind.SUPERSET, item.key, onto.items[-1].key), cost, facts


def _circuit(groups: list[Group]) -> Iterable[Candidate]:
    """Three or more small single items into one circuit."""
    singles = [g.items[0] for g in groups if g.form is Form.SINGLE and small(g.items[0].movement)]
    if len(singles) >= 3:
        facts: Facts = {"names": " · ".join(item.movement.name for item in singles)}
        yield "circuit", Move(MoveKind.GATHER, singles[0].key, others=tuple(i.key for i in singles[1:])), 1, facts


def _rests(groups: list[Group], rules: Rules) -> Iterable[Candidate]:
    for group in groups:
        rest = group_rest_s(group, rules)
        least = max(rest_wanted_s(item, rules) for item in group.items)
        shorter = max(least, rest - REST_STEP_S)
        if group.rounds > 1 and shorter < rest:
            facts: Facts = {"name": group.items[0].movement.name, "rest_s": rest, "to_s": shorter}
            yield "rest", Move(MoveKind.REST, group.items[0].key, shorter), 1, facts


def _trim(item: Item, rules: Rules, week_sets: Mapping[Muscle, float]) -> Iterable[Candidate]:
    if item.sets < 2:
        return
    facts: Facts = {"name": item.movement.name, "sets": item.sets - 1}
    cost = 2 if item.main else 1
    muscle = next((m for m in item.movement.prime if hasattr(rules, f"sets_{m.value}_low")), None)
    if muscle and muscle in week_sets and item.hard(rules):
        low, now = getattr(rules, f"sets_{muscle.value}_low"), week_sets[muscle]
        facts |= {"muscle": muscle.value, "now": round(now, 1), "then": round(now - 1, 1), "low": low}
        cost = 2 if now - 1 < low else cost
    yield "trim", Move(MoveKind.SETS, item.key, item.sets - 1), cost, facts


def _quicker(session: Session, quicker: Mapping[int, Movement]) -> Iterable[Candidate]:
    """The same kind of work on what is rigged sooner."""
    for item in session.items:
        other = quicker.get(item.key)
        if other and not item.spare:
            facts: Facts = {"name": item.movement.name, "into": other.name}
            yield "rig", Move(MoveKind.SWAP, item.key, into=other), 1, facts


def _to_spare(groups: list[Group]) -> Iterable[Candidate]:
    """The last thing that is no main lift waits for spare minutes."""
    for group in reversed(groups):
        item = group.items[-1]
        if not item.main and len(groups) > 1:
            yield "spare", Move(MoveKind.SPARE, item.key, 1), 2, {"name": item.movement.name}
            return


def what_fits(session: Session, rules: Rules) -> list[Item]:
    """The spare items that still fit into the minutes, in their order."""
    table = timetable(session, rules)
    left, found = table.cap_s - table.length_s, []
    for span in table.spans:
        if span.group.spare and span.length_s <= left:
            left -= span.length_s
            found += list(span.group.items)
    return found
