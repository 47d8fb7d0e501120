"""How long a session takes, piece by piece (rules 2.8).

A set is reps × the seconds of a rep, on each side, and getting into position; between sets there is rest,
between sides a short one, before the first set the ramp, between items the change-over with its rigging.
On a shared rack the rest is the prescribed one or the wait for the others' turns, whichever is longer.
After a round of a superset or circuit comes its own rest, and never less than each item's rest minus what
the others took of it. Nothing is counted after the last set of a group: the change-over follows.
"""

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from backsquat.core.movements.manner import rep_s
from backsquat.core.movements.movement import UNLOADED, SideMode
from backsquat.core.rules import Rules
from backsquat.core.sessions.session import Form, Group, Item, Session
from backsquat.core.working import Fact, Step, Working


class Part(StrEnum):
    """What a stretch of a session is."""

    WARM_UP = "warm_up"
    CHANGE = "change"  # from one item to the next, with rigging
    RAMP = "ramp"
    SET = "set"
    INSIDE = "inside"  # between the items of a round, or between the sides
    REST = "rest"


@dataclass(frozen=True)
class Piece:
    """One stretch: where it starts and how long it is, in seconds; whose set it is, and which."""

    part: Part
    start_s: float
    length_s: float
    key: int = 0
    row: int = 0  # of the item in its group, from 0
    nth: int = 0  # set, from 1
    side: int = 0  # 1, 2; 0: both at once


@dataclass(frozen=True)
class TimeSpan:
    """One group in time, with how its seconds were counted."""

    group: Group
    start_s: float
    length_s: float
    rest_s: int  # after a set, or after a round
    pieces: tuple[Piece, ...]
    working: Working


@dataclass(frozen=True)
class Timetable:
    """A session in time. `length_s` leaves out what is done if minutes are left."""

    warm_up_s: float
    spans: tuple[TimeSpan, ...] = field(default=())
    cap_s: float = 0

    @property
    def length_s(self) -> float:
        """Up to the end of the last group that must be done."""
        return max(
            (span.start_s + span.length_s for span in self.spans if not span.group.spare), default=self.warm_up_s
        )

    @property
    def spare_s(self) -> float:
        """How long what is done if minutes are left would take."""
        return sum(span.length_s for span in self.spans if span.group.spare)

    @property
    def over_s(self) -> float:
        """Seconds over the cap; nought where it fits."""
        return max(0.0, self.length_s - self.cap_s)


def side_s(item: Item, rules: Rules) -> float:
    """Seconds of the work of one set, one side of it where the sides go one after the other."""
    if item.by_the_clock:
        return float(item.hold_s)
    times = 2 if item.movement.side_mode is SideMode.ALTERNATING else 1
    return times * item.reps * rep_s(item.tempo, item.manner, rules) + item.end_hold_s


def set_s(item: Item, rules: Rules) -> float:
    """Seconds of a whole set: both sides with the pause between them, and getting into position."""
    sides = 2 if item.movement.side_mode is SideMode.ONE_THEN_OTHER else 1
    return sides * side_s(item, rules) + (sides - 1) * rules.side_rest_s + rules.set_up_s


def wait_s(item: Item, rules: Rules) -> float:
    """What the others on the rack take before the next set is one's own again."""
    return (item.sharing - 1) * set_s(item, rules)


def inside_s(before: Item, after: Item, rules: Rules) -> float:
    """Seconds from one item of a round to the next: some more where another implement is taken up."""
    taken_up = after.movement.implement not in UNLOADED and after.movement.implement != before.movement.implement
    return rules.superset_change_s + (rules.implement_change_s if taken_up else 0)


def group_rest_s(group: Group, rules: Rules) -> int:
    """Rest after a set of a single item, or after a round; a coach's own goes before the progression's, not the wait."""
    own = max(item.own_rest_s for item in group.items)
    if group.form is Form.SINGLE:
        item = group.items[0]
        return int(max(own or item.rest_s, wait_s(item, rules)))
    if own:
        return own
    least = rules.circuit_rest_s if group.form is Form.CIRCUIT else rules.superset_rest_s
    whole = round_s(group.items, rules)
    asked = (max(item.rest_s, wait_s(item, rules)) - (whole - set_s(item, rules)) for item in group.items)
    return int(max(least, *asked))


def round_s(items: Sequence[Item], rules: Rules) -> float:
    """One round without the rest after it."""
    moves = sum(inside_s(a, b, rules) for a, b in itertools.pairwise(items))
    return sum(set_s(item, rules) for item in items) + moves


def ramp_s(item: Item, rules: Rules) -> float:
    """All ramp sets with the rests after them; whoever shares the bar ramps in between."""
    return sum(_ramp_set_s(reps, item, rules) + _ramp_rest_s(reps, item, rules) for reps in item.ramp)


def _ramp_set_s(reps: int, item: Item, rules: Rules) -> float:
    return item.movement.sides * reps * rep_s(item.tempo, item.manner, rules) + rules.set_up_s


def _ramp_rest_s(reps: int, item: Item, rules: Rules) -> float:
    return max(rules.ramp_rest_s, (item.sharing - 1) * _ramp_set_s(reps, item, rules))


def change_s(group: Group, rules: Rules) -> float:
    """From what came before to the first set: moving over, and rigging all that is needed."""
    return rules.change_over_s + sum(item.movement.rig_s for item in group.items)


def group_s(group: Group, rules: Rules) -> float:
    """The whole of a group in one sum: what its pieces in the timetable add up to."""
    turns = sum(round_s(group.round_of(nth), rules) for nth in range(1, group.rounds + 1))
    ramps = sum(ramp_s(item, rules) for item in group.items)
    return change_s(group, rules) + ramps + turns + (group.rounds - 1) * group_rest_s(group, rules)


def timetable(session: Session, rules: Rules) -> Timetable:
    """The session in time, each group with its pieces and its working."""
    at, spans = float(session.warm_up_s), []
    for group in session.groups:
        span = _span(group, at, rules)
        spans.append(span)
        at += span.length_s
    return Timetable(float(session.warm_up_s), tuple(spans), 60.0 * session.cap_min)


class _Clock:
    """Lays pieces one after the other."""

    def __init__(self, start_s: float) -> None:
        self.at, self.pieces = start_s, list[Piece]()

    def put(self, part: Part, length_s: float, **of: int) -> None:
        """The next piece, where it takes any time."""
        if length_s > 0:
            self.pieces.append(Piece(part, self.at, length_s, **of))
            self.at += length_s


def _span(group: Group, start_s: float, rules: Rules) -> TimeSpan:
    clock, rest = _Clock(start_s), group_rest_s(group, rules)
    clock.put(Part.CHANGE, change_s(group, rules))
    for row, item in enumerate(group.items):
        for reps in item.ramp:
            clock.put(Part.RAMP, _ramp_set_s(reps, item, rules), key=item.key, row=row)
            clock.put(Part.INSIDE, _ramp_rest_s(reps, item, rules))
    for nth in range(1, group.rounds + 1):
        turn = group.round_of(nth)
        for n, item in enumerate(turn):
            if n:
                clock.put(Part.INSIDE, inside_s(turn[n - 1], item, rules))
            _put_set(clock, item, group.items.index(item), nth, rules)
        if nth < group.rounds:
            clock.put(Part.REST, rest)
    length_s = clock.at - start_s
    return TimeSpan(group, start_s, length_s, rest, tuple(clock.pieces), _working(group, rest, length_s, rules))


def _put_set(clock: _Clock, item: Item, row: int, nth: int, rules: Rules) -> None:
    """One set: getting into position, then its sides."""
    clock.put(Part.INSIDE, rules.set_up_s)
    sides = (1, 2) if item.movement.side_mode is SideMode.ONE_THEN_OTHER else (0,)
    for n, side in enumerate(sides):
        if n:
            clock.put(Part.INSIDE, rules.side_rest_s)
        clock.put(Part.SET, side_s(item, rules), key=item.key, row=row, nth=nth, side=side)


def _working(group: Group, rest_s: int, length_s: float, rules: Rules) -> Working:
    return Working(tuple(_steps(group, rest_s, rules))).then(Step("session_group", {}, round(length_s), "s"))


def _steps(group: Group, rest_s: int, rules: Rules) -> Iterable[Step]:
    rig = sum(item.movement.rig_s for item in group.items)
    yield Step("session_change", {"move_s": rules.change_over_s, "rig_s": rig}, change_s(group, rules), "s")
    for item in group.items:
        name = item.movement.name
        if item.ramp:
            yield Step("session_ramp", {"name": name, "sets": len(item.ramp)}, round(ramp_s(item, rules)), "s")
        sides = 2 if item.movement.sides == 2 else 1
        if item.by_the_clock:
            facts: dict[str, Fact] = {"name": name, "hold_s": item.hold_s, "sides": sides, "set_up_s": rules.set_up_s}
            yield Step("session_clock", facts, round(set_s(item, rules)), "s")
            continue
        rep = round(rep_s(item.tempo, item.manner, rules), 1)
        facts = {"name": name, "reps": item.reps, "rep_s": rep, "sides": sides, "set_up_s": rules.set_up_s}
        facts |= {"end_hold_s": item.end_hold_s} if item.end_hold_s else {}
        yield Step("session_set", facts, round(set_s(item, rules)), "s")
    if group.form is not Form.SINGLE:
        yield Step("session_round", {"items": len(group.items)}, round(round_s(group.items, rules)), "s")
    if group.rounds > 1:
        own = max(item.own_rest_s for item in group.items)
        waited = max(wait_s(item, rules) for item in group.items)
        asked = own or max(item.rest_s for item in group.items)
        why = "wait" if group.form is Form.SINGLE and rest_s > asked else "own" if own else group.form.value
        rests: dict[str, Fact] = {"rests": group.rounds - 1, "rest_s": rest_s, "why": why, "wait_s": round(waited)}
        yield Step("session_rests", rests, (group.rounds - 1) * rest_s, "s")
