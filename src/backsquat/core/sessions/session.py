"""A session: the ordered work of one day (rules 2.5).

Items stand in their order. Neighbours with the same number form a superset (no rest inside) or a circuit
(rounds); those marked spare come last and are done if minutes are left.
"""

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

from backsquat.core.movements.manner import Manner
from backsquat.core.movements.movement import Movement
from backsquat.core.rules import Rules

PLAIN = Manner()
SUPERSET_MOST = 3  # more than three without rest is a circuit


class Form(StrEnum):
    """What some items are to each other."""

    SINGLE = "single"
    SUPERSET = "superset"
    CIRCUIT = "circuit"


@dataclass(frozen=True)
class Item:
    """One piece of work. `key` names it (the exercise); `reps` are of one side; times in seconds."""

    key: int
    movement: Movement
    sets: int
    reps: int
    hold_s: int = 0  # by the clock: seconds held, or minutes of free work
    rest_s: int = 90  # what its progression asks between sets
    tempo: str = "2-0-1-0"
    reserve_reps: int = 2
    manner: Manner = PLAIN
    superset: int = 0  # 0: alone
    circuit: bool = False
    spare: bool = False
    own_rest_s: int = 0  # set by the coach for its group; 0: worked out
    main: bool = False  # a lift the block is about
    fast: bool = False  # for speed
    relative: float | None = None  # load as a share of the planning max; None: none is worked out
    ramp: tuple[int, ...] = ()  # reps of the ramp sets
    sharing: int = 1  # lifters on one rack
    end_hold_s: int = 0  # held after the reps of every set
    last_to_failure: bool = False  # the last set alone

    @property
    def by_the_clock(self) -> bool:
        """Whether it counts seconds and not reps."""
        return self.hold_s > 0

    def back_cost(self, rules: Rules) -> float:
        """Lower-back index: sets × the movement's index × load as a share of the max; an index of planning."""
        relative = rules.unloaded_relative if self.relative is None else self.relative
        return self.sets * self.movement.back_index * relative

    def hard(self, rules: Rules) -> bool:
        """Whether its sets end near enough to failure to count as hard."""
        return not self.fast and not self.by_the_clock and self.reserve_reps <= rules.hard_within_reps


@dataclass(frozen=True)
class Group:
    """What is done together: one item, a superset or a circuit."""

    items: tuple[Item, ...]

    @property
    def form(self) -> Form:
        """What its items are to each other."""
        if len(self.items) == 1:
            return Form.SINGLE
        return Form.CIRCUIT if any(item.circuit for item in self.items) else Form.SUPERSET

    @property
    def rounds(self) -> int:
        """How often it goes round: the sets of the item that has most."""
        return max(item.sets for item in self.items)

    @property
    def spare(self) -> bool:
        """Done only if minutes are left."""
        return all(item.spare for item in self.items)

    def round_of(self, nth: int) -> tuple[Item, ...]:
        """The items of the `nth` round, from 1: who has had all its sets is left out."""
        return tuple(item for item in self.items if item.sets >= nth)


@dataclass(frozen=True)
class Session:
    """The work of one day with its cap in minutes, the warm-up in seconds, and the progressions it follows."""

    items: tuple[Item, ...]
    cap_min: int = 60
    warm_up_s: int = 0
    same_muscles: bool = False  # what a superset is for: the same muscles, or (False) apart
    hips_first: bool = False  # hip work first, the squat last and lighter
    groups: tuple[Group, ...] = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "groups", groups_of(self.items))

    def with_items(self, items: Iterable[Item]) -> "Session":
        """The same session with other items or another order."""
        return replace(self, items=tuple(items))

    def item(self, key: int) -> Item:
        """The item of this key; KeyError where there is none."""
        return next((item for item in self.items if item.key == key), None) or _missing(key)


def _missing(key: int) -> Item:
    raise KeyError(key)


def groups_of(items: Sequence[Item]) -> tuple[Group, ...]:
    """The groups in their order, the spare ones last: neighbours of the same number, and single items."""
    numbered = itertools.count(-1, -1)  # what stands alone has a number of its own
    keyed = [(item.superset or next(numbered), item.spare, item) for item in items]
    found = [Group(tuple(item for *_, item in run)) for _, run in itertools.groupby(keyed, key=lambda one: one[:2])]
    return tuple([group for group in found if not group.spare] + [group for group in found if group.spare])
