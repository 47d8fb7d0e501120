"""What can be done to the order of a session, as data: the page, the findings and the proposals all speak it.

Every move gives a new session; numbers of supersets are made again from what stands together, and what is
spare stands last.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.movements.movement import BARS, Movement
from backsquat.core.sessions.session import SUPERSET_MOST, Group, Item, Session

REST_MOST_S = 900
SETS_MOST = 10


class MoveKind(StrEnum):
    """What is done to one item, or to the group it stands in."""

    EARLIER = "earlier"  # the group, past the one before it; in a superset `inside` the item
    LATER = "later"
    UP = "up"  # the item inside its superset
    DOWN = "down"
    BEFORE = "before"  # the group before the group of `to`; 0: to the end
    SUPERSET = "superset"  # the item onto the end of the group of `to`
    LEAVE_SUPERSET = "leave_superset"  # the item out of its superset, behind it
    CIRCUIT = "circuit"  # the group goes round, or (`to` 0) is a superset again
    GATHER = "gather"  # the item and `others` become one circuit
    REST = "rest"  # `to` seconds after each set or round; 0: as the progression says
    SPARE = "spare"  # only if minutes are left, or (`to` 0) always
    SETS = "sets"  # `to` sets
    WINDOW = "window"  # the usual reps of its place; nothing moves
    DAY = "day"  # to the session `to`; nothing moves in this one
    SWAP = "swap"  # the movement `into` in its stead


@dataclass(frozen=True)
class Move:
    """One move: of which item, and where or how much."""

    what: MoveKind
    key: int
    to: int = 0
    others: tuple[int, ...] = ()
    into: Movement | None = None


Groups = list[tuple[Item, ...]]


def moved(session: Session, move: Move) -> Session:
    """The session after a move; ImpossibleInput where it cannot be done."""
    groups: Groups = [group.items for group in session.groups]
    here = _place(groups, move.key)
    done = MOVES[move.what](groups, here, move)
    return session.with_items(_numbered(done))


def _place(groups: Groups, key: int) -> int:
    found = next((n for n, group in enumerate(groups) if any(item.key == key for item in group)), None)
    if found is None:
        raise ImpossibleInput(Problem("item", "not_in_session"))
    return found


def _of(group: Sequence[Item], key: int) -> Item:
    return next(item for item in group if item.key == key)


def _past(groups: Groups, here: int, by: int) -> Groups:
    """The group past its neighbour; at the end, and across the line of what is spare, it stays."""
    there = here + by
    if 0 <= there < len(groups) and Group(groups[here]).spare == Group(groups[there]).spare:
        groups[here], groups[there] = groups[there], groups[here]
    return groups


def _within(groups: Groups, here: int, key: int, by: int) -> Groups:
    items = list(groups[here])
    at = next(n for n, item in enumerate(items) if item.key == key)
    if 0 <= at + by < len(items):
        items[at], items[at + by] = items[at + by], items[at]
    groups[here] = tuple(items)
    return groups


def _before(groups: Groups, here: int, move: Move) -> Groups:
    group = groups[here]
    rest = [other for n, other in enumerate(groups) if n != here]
    if move.to and any(item.key == move.to for item in group):
        return groups
    rest.insert(_place(rest, move.to) if move.to else len(rest), group)
    return rest


def _superset(groups: Groups, here: int, move: Move) -> Groups:
    there = _place(groups, move.to)
    if here == there:
        return groups
    item, onto = _of(groups[here], move.key), groups[there]
    circuit = onto[0].circuit and len(onto) > 1
    if len(onto) >= SUPERSET_MOST and not circuit:
        raise ImpossibleInput(Problem("item", "superset_full", {"most": SUPERSET_MOST}))
    if onto[0].spare != item.spare:
        item = replace(item, spare=onto[0].spare)
    groups[there] = (*onto, replace(item, circuit=circuit, own_rest_s=onto[0].own_rest_s))
    return _without(groups, here, move.key)


def _without(groups: Groups, here: int, key: int) -> Groups:
    left = tuple(item for item in groups[here] if item.key != key)
    return [*groups[:here], *([left] if left else []), *groups[here + 1 :]]


def _leave_superset(groups: Groups, here: int, move: Move) -> Groups:
    if len(groups[here]) == 1:
        return groups
    item = replace(_of(groups[here], move.key), circuit=False, own_rest_s=0)
    groups = _without(groups, here, move.key)
    groups.insert(here + 1, (item,))
    return groups


def _circuit(groups: Groups, here: int, move: Move) -> Groups:
    if not move.to and len(groups[here]) > SUPERSET_MOST:
        raise ImpossibleInput(Problem("item", "superset_full", {"most": SUPERSET_MOST}))
    groups[here] = tuple(replace(item, circuit=bool(move.to)) for item in groups[here])
    return groups


def _gather(groups: Groups, here: int, move: Move) -> Groups:
    wanted = [move.key, *move.others]
    taken = [_of(groups[_place(groups, key)], key) for key in wanted]
    for key in wanted:
        groups = _without(groups, _place(groups, key), key)
    spare = taken[0].spare
    together = tuple(replace(item, circuit=True, own_rest_s=0, spare=spare) for item in taken)
    groups.insert(min(here, len(groups)), together)
    return groups


def _rest(groups: Groups, here: int, move: Move) -> Groups:
    if not 0 <= move.to <= REST_MOST_S:
        raise ImpossibleInput(Problem("rest", "rest_range", {"low": 0, "high": REST_MOST_S}))
    groups[here] = tuple(replace(item, own_rest_s=move.to) for item in groups[here])
    return groups


def _spare(groups: Groups, here: int, move: Move) -> Groups:
    item = replace(_of(groups[here], move.key), spare=bool(move.to), circuit=False)
    return [*_without(groups, here, move.key), (item,)]


def _sets(groups: Groups, here: int, move: Move) -> Groups:
    if not 1 <= move.to <= SETS_MOST:
        raise ImpossibleInput(Problem("sets", "sets_range", {"most": SETS_MOST}))
    groups[here] = tuple(replace(item, sets=move.to) if item.key == move.key else item for item in groups[here])
    return groups


def _swap(groups: Groups, here: int, move: Move) -> Groups:
    into = move.into
    if into is None:
        raise ImpossibleInput(Problem("item", "no_swap"))
    bar = into.implement in BARS
    groups[here] = tuple(
        replace(item, movement=into, ramp=item.ramp if bar else (), sharing=item.sharing if bar else 1)
        if item.key == move.key
        else item
        for item in groups[here]
    )
    return groups


MOVES: dict[MoveKind, Callable[[Groups, int, Move], Groups]] = {
    MoveKind.EARLIER: lambda groups, here, move: _past(groups, here, -1),
    MoveKind.LATER: lambda groups, here, move: _past(groups, here, 1),
    MoveKind.UP: lambda groups, here, move: _within(groups, here, move.key, -1),
    MoveKind.DOWN: lambda groups, here, move: _within(groups, here, move.key, 1),
    MoveKind.BEFORE: _before,
    MoveKind.SUPERSET: _superset,
    MoveKind.LEAVE_SUPERSET: _leave_superset,
    MoveKind.CIRCUIT: _circuit,
    MoveKind.GATHER: _gather,
    MoveKind.REST: _rest,
    MoveKind.SPARE: _spare,
    MoveKind.SETS: _sets,
    MoveKind.WINDOW: lambda groups, here, move: groups,
    MoveKind.DAY: lambda groups, here, move: groups,
    MoveKind.SWAP: _swap,
}


def _numbered(groups: Groups) -> list[Item]:
    """The items in order, their supersets numbered again; what is spare last."""
    ordered = [group for group in groups if not Group(group).spare] + [g for g in groups if Group(g).spare]
    number, items = 0, []
    for group in ordered:
        together = len(group) > 1
        number += together
        items += [replace(one, superset=number if together else 0, circuit=one.circuit and together) for one in group]
    return items
