"""The running list of a session: what one athlete does next, from the warm-up to the spare minutes (rules 2.5).

It knows of each piece of work how many sets are asked and done, and whether it was skipped or judged. In
a superset or circuit the set of the same round of the next item comes at once; rest comes after the round.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from backsquat.core.rules import Rules
from backsquat.core.sessions.session import Form, Group, Item, Session
from backsquat.core.sessions.timing import group_rest_s


class ActKind(StrEnum):
    """What is done in a session besides sets."""

    RAMP = "ramp"  # a ramp set ticked
    DRILL = "drill"  # a warm-up drill done
    TRIAL = "trial"  # a trial rep for the feet
    SKIPPED = "skipped"  # a piece of work left out, with the reason
    TAKEN = "taken"  # skipped work of an earlier session done in this one
    LET_GO = "let_go"  # skipped work that nobody will do any more
    HERE = "here"  # come after all
    LATE = "late"
    ABSENT = "absent"


PRESENCE = (ActKind.HERE, ActKind.LATE, ActKind.ABSENT)


@dataclass(frozen=True)
class Done:
    """How far somebody is with one item. `over`: judged, skipped or stopped, whatever is missing."""

    sets: int = 0
    over: bool = False


@dataclass(frozen=True)
class FloorStep:
    """One set of the list: which item, its number from 1, the round it belongs to, and whether rest precedes it."""

    item: Item
    number: int
    group: Group
    rest_s: int  # between the set before it and this one: 0 inside a round

    @property
    def inside(self) -> bool:
        """Whether it follows at once: the partner of the set before in a superset or circuit."""
        return self.group.form is not Form.SINGLE and self.rest_s == 0 and self.item is not self.group.items[0]


@dataclass(frozen=True)
class Running:
    """Where somebody is: the step now, the one after it, and the groups with what is done of each."""

    now: FloorStep | None
    then: FloorStep | None
    finished: frozenset[int]  # keys of the items that are done with


def running(session: Session, done: Mapping[int, Done], rules: Rules) -> Running:
    """The list as it stands. Spare work comes after everything else, and only asks for itself."""
    finished = frozenset(item.key for item in session.items if _over(item, done))
    now = _next(session.groups, done, rules)
    if now is None:
        return Running(None, None, finished)
    key = now.item.key
    after = {**done, key: Done(done.get(key, Done()).sets + 1)}
    return Running(now, _next(session.groups, after, rules), finished)


def remaining(session: Session, done: Mapping[int, Done], rules: Rules) -> tuple[FloorStep, ...]:
    """Every set still to come, in order, if nothing is left out: what a device without a line works through."""
    steps: list[FloorStep] = []
    so_far = dict(done)
    while (step := _next(session.groups, so_far, rules)) is not None:
        steps.append(step)
        so_far[step.item.key] = Done(so_far.get(step.item.key, Done()).sets + 1)
    return tuple(steps)


def _over(item: Item, done: Mapping[int, Done]) -> bool:
    found = done.get(item.key, Done())
    return found.over or found.sets >= item.sets


def _next(groups: Sequence[Group], done: Mapping[int, Done], rules: Rules) -> FloorStep | None:
    for group in groups:
        left = [item for item in group.items if not _over(item, done)]
        if not left:
            continue
        fewest = min(done.get(item.key, Done()).sets for item in left)
        item = next(item for item in left if done.get(item.key, Done()).sets == fewest)
        return FloorStep(item, fewest + 1, group, _rest_before(group, item, fewest, done, rules))
    return None


def _rest_before(group: Group, item: Item, fewest: int, done: Mapping[int, Done], rules: Rules) -> int:
    """The rest of the group before the first set of a round; none inside a round and before the very first set."""
    others = [other for other in group.items if other is not item]
    begun = any(done.get(other.key, Done()).sets > fewest for other in others)
    if begun or not any(done.get(one.key, Done()).sets for one in group.items):
        return 0
    left = [one for one in group.items if one is item or not _over(one, done)]
    if len(left) == 1 and len(group.items) > 1 and not max(one.own_rest_s for one in group.items):
        return item.rest_s  # its partners are done or left out: it rests as a lift by itself
    return group_rest_s(group, rules)
