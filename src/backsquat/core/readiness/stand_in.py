"""What an athlete does in the stead of a movement they may not do: the own level, or the most alike (rules 2.6).

Nothing here is harder than what was earned: every movement given has passed the verdict, which asks the ladders.
"""

import datetime as dt

from backsquat.core.movements.choice import unlikeness
from backsquat.core.movements.ladder import Ladder
from backsquat.core.movements.movement import Family, Movement
from backsquat.core.readiness.verdict import Readiness


def own_level(ready: Readiness, ladder: Ladder, day: dt.date | None = None) -> Movement | None:
    """The work of the athlete's own level of a ladder, or of the next below that may be done here; None: no level."""
    held = ready.levels.get(ladder.code)
    own = ladder.level_of(held.movement) if held else None
    if held is None or own is None:
        return None
    if ready.may(held.movement, day):
        return ready.library.movements[held.movement]
    for level in range(own, -1, -1):
        code = next((code for code in ladder.levels[level] if ready.may(code, day)), None)
        if code:
            return ready.library.movements[code]
    return None


def level_work(ready: Readiness, ladder: Ladder, day: dt.date | None = None) -> Movement | None:
    """The own level's work; where the room can rig nothing of the ladder up to it, what is most like it. None: not
    placed.
    """
    if work := own_level(ready, ladder, day):
        return work
    held = ready.levels.get(ladder.code)
    level = ready.library.movements.get(held.movement) if held else None
    return most_alike(ready, level, day) if level and ready.lacking(level, day) else None


def own_level_instead(ready: Readiness, movement: Movement, day: dt.date | None = None) -> Movement | None:
    """The own level's work for a movement behind a readiness check not passed, from a ladder it stands on; None: on no
    such level.
    """
    for ladder, level in ready.library.ladders_of(movement.code):
        held = ready.levels.get(ladder.code)
        own = ladder.level_of(held.movement) if held else None
        if own is not None and own <= level:
            work = own_level(ready, ladder, day)
            if work:
                return work
    return None


def earned_work(ready: Readiness, movement: Movement, day: dt.date | None = None) -> Movement | None:
    """For a movement that is not earned: the own level's work, for who is not placed the gentlest; None: neither.

    Of one that is on no ladder (no consent to a weight): what is most alike without one.
    """
    ladders = [ladder for ladder, _ in ready.library.ladders_of(movement.code)]
    if not ladders:
        return most_alike(ready, movement, day)
    own = (own_level(ready, ladder, day) for ladder in ladders)
    gentlest = (_gentlest(ready, ladder, day) for ladder in ladders)
    return next((work for work in (*own, *gentlest) if work), None)


def _gentlest(ready: Readiness, ladder: Ladder, day: dt.date | None) -> Movement | None:
    code = next((code for code in ladder.levels[0] if ready.may(code, day)), None)
    return ready.library.movements[code] if code else None


def without_load(ready: Readiness, movement: Movement, day: dt.date | None = None) -> Movement | None:
    """The hardest level below a movement's that takes no load and may be done here; None: its ladders have none."""
    for ladder, level in ready.library.ladders_of(movement.code):
        for place in range(level - 1, -1, -1):
            for code in ladder.levels[place]:
                below = ready.library.movements.get(code)
                if below is not None and not below.takes_load and ready.may(code, day):
                    return below
    return None


def most_alike(ready: Readiness, movement: Movement, day: dt.date | None = None) -> Movement | None:
    """The movement of the same family most like this one that may be done here on that day; None: nothing may.

    Who stands on no ladder of the family, or lacks a guardian's consent, gets a gentlest level or nothing.
    """
    others = [
        other
        for other in ready.library.in_use()
        if other.family is movement.family and other.code != movement.code and ready.may(other.code, day)
    ]
    known = not ready.lacks_consent and _known_on(ready, movement.family)
    others = [
        other for other in others if (_no_harder(ready, other, movement) if known else _is_gentlest(ready, other))
    ]
    return min(others, key=lambda other: (unlikeness(movement, other), other.name), default=None)


def _known_on(ready: Readiness, family: Family) -> bool:
    """Whether the athlete stands on a ladder with movements of a family."""
    ladders = (
        ladder for m in ready.library.in_use() if m.family is family for ladder, _ in ready.library.ladders_of(m.code)
    )
    return any(ready.stands_on(ladder) is not None for ladder in ladders)


def _no_harder(ready: Readiness, other: Movement, movement: Movement) -> bool:
    """On a ladder it is earned; beside the ladders it asks no more skill and balance than what it stands in for, nor
    than the levels of the family that were earned.
    """
    if ready.library.ladders_of(other.code):
        return True
    skill, balance = _earned_on(ready, movement.family)
    return other.skill <= min(movement.skill, skill) and other.balance <= min(movement.balance, balance)


def _earned_on(ready: Readiness, family: Family) -> tuple[int, int]:
    """The most skill and balance of the levels of a family that count as earned."""
    earned = [
        member
        for ladder in ready.library.ladders.values()
        if (stands := ready.stands_on(ladder)) is not None
        for level in ladder.levels[: stands + 1]
        for code in level
        if (member := ready.library.movements.get(code)) is not None and member.family is family
    ]
    return max((one.skill for one in earned), default=1), max((one.balance for one in earned), default=0)


def _is_gentlest(ready: Readiness, other: Movement) -> bool:
    return any(level == 0 for _, level in ready.library.ladders_of(other.code))
