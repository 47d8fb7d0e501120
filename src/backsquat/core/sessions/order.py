"""What a coach would say of the order of a session, its supersets and its rests (rules 2.5).

Fast and skilled first, the heaviest on two legs and the wobbly lift on one while fresh, isolation and
holds last. Hips first is a way of its own: hip work leads, the squat is last of the big ones and lighter.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from backsquat.core.findings import Finding, Severity
from backsquat.core.movements.movement import Family, Movement, Muscle
from backsquat.core.rules import Rules
from backsquat.core.sessions.moves import Move, MoveKind
from backsquat.core.sessions.session import Form, Group, Item, Session
from backsquat.core.sessions.timing import group_rest_s, round_s, set_s

THIRD_REPS = 10  # from which a single-leg lift has the dose of a third place
SMALL = frozenset(
    {Family.CURL, Family.CALF, Family.EXTENSION, Family.GROIN, Family.TRUNK, Family.MOBILITY}
)  # isolation, holds and loosening
SKILLED = 5  # of 5
WOBBLY = 2  # of 3
HEAVY_BACK = 1.0  # of 3: a hinge that costs the lower back
LAST_SQUAT_REPS = 8  # the bottom of the usual window of a squat placed last
ISOLATING = frozenset({"knee_extension"})


@dataclass(frozen=True)
class Advice:
    """One finding, and the move that would fix it; None where no single move would."""

    finding: Finding
    move: Move | None = None

    @property
    def grave(self) -> bool:
        """Whether it is more than a thing to know."""
        return self.finding.severity is not Severity.NOTE


def _about(item: Item, **facts: str | float | int) -> dict[str, str | float | int]:
    """What a finding is about, with its facts."""
    return {"name": item.movement.name, "key": item.key, **facts}


def small(movement: Movement) -> bool:
    """Whether it is isolation, a hold or loosening: work that comes last, and fits into others' rests."""
    return movement.family in SMALL or movement.code in ISOLATING or movement.work.seconds


def hip_work(movement: Movement) -> bool:
    """Whether it is for the hips: hinges, thrusts, back extensions, and what leans to them on one leg."""
    return movement.family in (Family.HINGE, Family.THRUST, Family.EXTENSION) and movement.code not in ISOLATING


def session_advice(session: Session, rules: Rules) -> list[Advice]:
    """Everything to be said of order, supersets and rests; the gravest first, then as they come in the session."""
    working = [group for group in session.groups if not group.spare]
    found = [
        *_fast_late(working),
        *([*_squat_not_last(working), *_squat_heavy_last(working)] if session.hips_first else ()),
        *_wobbly_late(working, rules),
        *_hinge_after_squat(session, working, rules),
        *_small_early(working),
        *_supersets(session, rules),
        *_rests(session, rules),
    ]
    return sorted(found, key=lambda advice: not advice.grave)


def _fast_late(groups: Sequence[Group]) -> Iterable[Advice]:
    """Fast or very skilled work after anything that tires."""
    tired = False
    for group in groups:
        for item in group.items:
            quick = item.fast or item.movement.family is Family.SPEED
            skilled = item.movement.skill >= SKILLED and not small(item.movement)
            if (quick or skilled) and tired:
                move = Move(MoveKind.BEFORE, item.key, groups[0].items[0].key)
                code = "fast_late" if quick else "skilled_late"
                yield Advice(Finding(code, Severity.WATCH, _about(item)), move)
        tired = tired or any(not small(item.movement) and not item.fast for item in group.items)


def _wobbly_late(groups: Sequence[Group], rules: Rules) -> Iterable[Advice]:
    hard = 0
    for n, group in enumerate(groups):
        for item in group.items:
            many = item.reps >= THIRD_REPS  # the usual dose of a third place: more and lighter
            wobbly = item.movement.family is Family.SINGLE_LEG and item.movement.balance >= WOBBLY and not many
            if wobbly and hard >= rules.wobbly_after and not item.by_the_clock:
                facts = _about(item, after=n)
                yield Advice(
                    Finding("wobbly_late", Severity.WATCH, facts),
                    Move(MoveKind.BEFORE, item.key, groups[1].items[0].key),
                )
        hard += any(item.hard(rules) and not small(item.movement) for item in group.items)


def _hinge_after_squat(session: Session, groups: Sequence[Group], rules: Rules) -> Iterable[Advice]:
    """A heavy hinge once the back has held a heavy squat; said with the lower-back index of the whole session."""
    squatted = False
    cost = round(sum(item.back_cost(rules) for item in session.items), 1)
    for group in groups:
        for item in group.items:
            heavy = item.hard(rules) and item.movement.back_index >= HEAVY_BACK
            if heavy and squatted and item.movement.family is Family.HINGE:
                over = cost > rules.back_session
                facts = _about(item, cost=cost, most=rules.back_session)
                yield Advice(Finding("hinge_after_squat", Severity.WATCH if over else Severity.NOTE, facts))
            squatted = squatted or (heavy and item.movement.family is Family.SQUAT)


def _small_early(groups: Sequence[Group]) -> Iterable[Advice]:
    """Isolation or a hold, by itself, before work that needs fresh legs. What only loosens may lead."""
    for n, group in enumerate(groups):
        if not all(small(item.movement) and item.movement.family is not Family.MOBILITY for item in group.items):
            continue
        later = next(
            (o for g in groups[n + 1 :] for o in g.items if not small(o.movement) and not o.by_the_clock), None
        )
        if later:
            first = group.items[0]
            facts = _about(first, later=later.movement.name)
            yield Advice(Finding("small_early", Severity.NOTE, facts), Move(MoveKind.BEFORE, first.key))


def _squat_not_last(groups: Sequence[Group]) -> Iterable[Advice]:
    """Hips first: no hip work after the squat, whatever small work follows it."""
    for n, group in enumerate(groups):
        squat = next((item for item in group.items if item.movement.family is Family.SQUAT), None)
        after = [item for later in groups[n + 1 :] for item in later.items if hip_work(item.movement)]
        if squat and after:
            last = max(m for m, g in enumerate(groups) if any(hip_work(i.movement) for i in g.items))
            following = groups[last + 1].items[0].key if last + 1 < len(groups) else 0
            facts = _about(squat, later=after[-1].movement.name)
            yield Advice(Finding("squat_not_last", Severity.WATCH, facts), Move(MoveKind.BEFORE, squat.key, following))


def shared(one: Movement, other: Movement) -> tuple[Muscle, ...]:
    """The muscles both are for; a lower back that works in both counts as well."""
    same = [muscle for muscle in one.prime if muscle in other.prime]
    if one.back_index >= HEAVY_BACK and other.back_index >= HEAVY_BACK and Muscle.LOWER_BACK not in same:
        same.append(Muscle.LOWER_BACK)
    return tuple(same)


class Place(NamedTuple):
    """Where a movement stands among the big ones of its session: `nth` from 0, `of` so many."""

    nth: int
    of: int
    after_hips: bool = False  # hinges, thrusts or extensions of the hip come before it


ALONE = Place(0, 1)


def places(work: Sequence[tuple[Movement, int]]) -> list[Place]:
    """Where each of some movements with their supersets stands.

    A superset counts once, and what is only small not at all: a curl after the squat leaves the squat last.
    """
    numbers: list[int] = []
    for n, (_, superset) in enumerate(work):
        joined = n > 0 and superset and work[n - 1][1] == superset
        numbers.append(numbers[-1] if joined else (numbers[-1] + 1 if numbers else 0))
    big = sorted({number for number, (movement, _) in zip(numbers, work, strict=True) if not small(movement)})
    hips = [number for number, (movement, _) in zip(numbers, work, strict=True) if hip_work(movement)]
    return [
        Place(sum(other < number for other in big), len(big), any(hip < number for hip in hips)) for number in numbers
    ]


def _squat_heavy_last(groups: Sequence[Group]) -> Iterable[Advice]:
    """Hips first: a squat that comes last is of more and lighter reps."""
    hips = False
    for group in groups:
        for item in group.items:
            if hips and item.movement.family is Family.SQUAT and not item.by_the_clock and item.reps < LAST_SQUAT_REPS:
                yield Advice(Finding("squat_heavy_last", Severity.NOTE, _about(item, reps=item.reps)))
        hips = hips or any(hip_work(item.movement) for item in group.items)


def second_of_superset(work: Sequence[tuple[Movement, int]], nth: int) -> bool:
    """Whether the `nth` of some movements with their supersets comes after one of its superset that works the same
    muscles.
    """
    movement, superset = work[nth]
    before = [other for other, its in work[:nth] if superset and its == superset]
    return any(shared(movement, other) for other in before)


def _supersets(session: Session, rules: Rules) -> Iterable[Advice]:
    for group in session.groups:
        for before, item in zip(group.items, group.items[1:], strict=False):
            facts = _about(item, other=before.movement.name)
            same = next(
                (m for one in group.items if one is not item for m in shared(one.movement, item.movement)), None
            )
            if not session.same_muscles and same:
                facts |= {"muscle": same.value}
                yield Advice(
                    Finding("superset_competes", Severity.WATCH, facts), Move(MoveKind.LEAVE_SUPERSET, item.key)
                )
            if session.same_muscles and not same and group.form is Form.SUPERSET:
                yield Advice(
                    Finding("superset_not_same", Severity.NOTE, facts), Move(MoveKind.LEAVE_SUPERSET, item.key)
                )
            if _heavier(item, before):
                yield Advice(Finding("superset_order", Severity.NOTE, facts), Move(MoveKind.UP, item.key))
            elif session.same_muscles and same and not _lighter(item, before):
                yield Advice(Finding("superset_not_lighter", Severity.NOTE, facts))


def _heavier(item: Item, before: Item) -> bool:
    """Whether the later one is the heavy one: a main lift behind what is none, or a good deal more of its max."""
    if small(before.movement) and not small(item.movement):
        return True
    return item.main and not before.main and not small(item.movement)


def _lighter(item: Item, before: Item) -> bool:
    """Lighter in load, or with less to balance, or with fewer reps."""
    less = (before.relative or 0) - (item.relative or 0) >= 0.05
    return less or item.movement.balance < before.movement.balance or item.reps < before.reps


def _rests(session: Session, rules: Rules) -> Iterable[Advice]:
    for group in session.groups:
        if group.rounds < 2:
            continue
        rest, whole, first = group_rest_s(group, rules), round_s(group.items, rules), group.items[0]
        names = " · ".join(item.movement.name for item in group.items)
        for item in group.items:
            least, has = rest_wanted_s(item, rules), rest + whole - set_s(item, rules)
            if has < least:
                facts = _about(item, rest_s=round(has), least_s=least)
                more = int(least - has) + rest
                yield Advice(Finding("rest_short", Severity.WATCH, facts), Move(MoveKind.REST, item.key, more))
                break
        if first.own_rest_s > rules.rest_most_s:
            facts = _about(first, rest_s=rest, most_s=rules.rest_most_s) | {"name": names}
            yield Advice(Finding("rest_long", Severity.NOTE, facts), Move(MoveKind.REST, first.key))


def rest_wanted_s(item: Item, rules: Rules) -> int:
    """The least sane rest between an item's sets: long after few heavy reps, short after others, none by the clock."""
    if item.by_the_clock or item.movement.family is Family.MOBILITY:
        return 0
    heavy = item.reps <= rules.rest_heavy_reps and item.hard(rules) and not small(item.movement)
    return rules.rest_heavy_s if heavy or item.fast else rules.rest_least_s
