"""A week around its matches, camps and tests: what each day leaves for the legs, on which days sessions are best held.

Heaviest work three or four days before a match, light at two, none the day before, none or light the day after; with
two matches one short session; light in a camp, fresh for days of tests (rules 2.9, usual practice). Before a match that
counts a taper: the loads stay, about half the sets (Pritchard et al. 2015, Travis et al. 2020). The week is laid out by
trying every choice of days, of which there are few.
"""

import datetime as dt
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import product

from backsquat.core.rules import Rules
from backsquat.core.season.calendar import WEEK, monday_of

OUT_OF_ORDER, RUNNING, TOO_HEAVY, LIGHT_DAY = (4.0, 0.25, 3.0, 6.0)  # weighed after what comes first


@dataclass(frozen=True)
class Fixture:
    """A match on a day."""

    on: dt.date
    counts: bool = False
    away: bool = False


class Legs(StrEnum):
    """What a day leaves for the legs."""

    HEAVY = "heavy"
    LIGHT = "light"
    NONE = "none"


class DayReason(StrEnum):
    """What a day is near to."""

    FREE = "free"
    MATCH = "match"
    BEFORE = "before"
    AFTER = "after"
    OFF = "off"  # a holiday, a trip
    CAMP = "camp"  # the sport takes more than usual
    TESTS = "tests"  # days of tests are near: they are to be met fresh


@dataclass(frozen=True)
class Marked:
    """Days on which nobody trains at home, days of a camp, days of tests."""

    off: frozenset[dt.date] = frozenset()
    camp: frozenset[dt.date] = frozenset()
    tests: frozenset[dt.date] = frozenset()


NOTHING_MARKED = Marked()


@dataclass(frozen=True)
class DayLeaves:
    """What a day leaves, why, and how many days it is from the match or the tests that say so (0: none do)."""

    day: dt.date
    legs: Legs
    why: DayReason
    days: int = 0


def day_leaves(day: dt.date, fixtures: Iterable[Fixture], marked: Marked, rules: Rules) -> DayLeaves:
    """What a day leaves for the legs, given every match around it and what its days are marked as."""
    if day in marked.off:
        return DayLeaves(day, Legs.NONE, DayReason.OFF)
    found = [said for one in fixtures if (said := _near(day, one, rules))]
    if day in marked.camp and rules.camp_legs != "planned":
        found.append(DayLeaves(day, Legs(rules.camp_legs), DayReason.CAMP))
    if tests := _near_tests(day, marked.tests, rules):
        found.append(tests)
    order = (Legs.NONE, Legs.LIGHT, Legs.HEAVY)
    return min(
        found, key=lambda said: (order.index(said.legs), said.days), default=DayLeaves(day, Legs.HEAVY, DayReason.FREE)
    )


def _near(day: dt.date, match: Fixture, rules: Rules) -> DayLeaves | None:
    ahead, after = (match.on - day).days, rules.match_after_away if match.away else rules.match_after
    if ahead == 0:
        return DayLeaves(day, Legs.NONE, DayReason.MATCH)
    if ahead == -1 and after != "planned":
        return DayLeaves(day, Legs(after), DayReason.AFTER, 1)
    if 0 < ahead <= rules.match_none_before:
        return DayLeaves(day, Legs.NONE, DayReason.BEFORE, ahead)
    if 0 < ahead <= rules.match_light_before:
        return DayLeaves(day, Legs.LIGHT, DayReason.BEFORE, ahead)
    if 0 < ahead <= rules.match_best_to:
        return DayLeaves(day, Legs.HEAVY, DayReason.BEFORE, ahead)
    return None


def _near_tests(day: dt.date, tests: Collection[dt.date], rules: Rules) -> DayLeaves | None:
    """The days before tests; what is planned on a day of tests may be the test itself."""
    ahead = min(((one - day).days for one in tests if one > day), default=0)
    if day in tests or not 0 < ahead <= max(rules.tests_none_before, rules.tests_light_before):
        return None
    return DayLeaves(day, Legs.NONE if ahead <= rules.tests_none_before else Legs.LIGHT, DayReason.TESTS, ahead)


@dataclass(frozen=True)
class HeldSession:
    """A session of the week: the day it is on, how heavy it is for the legs (any scale), and how it stands.

    `fixed`: done, begun or past. `light`: what is left of it is easy already. `left_out`: not held in this week.
    """

    key: int
    day: dt.date
    weight: float
    fixed: bool = False
    light: bool = False
    left_out: bool = False


class DayAct(StrEnum):
    """What is proposed for a session."""

    MOVE = "move"
    LIGHTEN = "lighten"  # fewer sets, a lighter load
    TAPER = "taper"  # fewer sets, the load stays: a match that counts is near
    LEAVE_OUT = "leave_out"


@dataclass(frozen=True)
class DayProposal:
    """One thing to do with a session, and what its day leaves that asks for it. `to`: where it would be moved."""

    key: int
    act: DayAct
    leaves: DayLeaves
    to: DayLeaves | None = None
    short: bool = False  # for the number of matches in the week


def propose(
    week: dt.date,
    held: Sequence[HeldSession],
    fixtures: Sequence[Fixture],
    rules: Rules,
    *,
    marked: Marked = NOTHING_MARKED,
    weekdays: Collection[int] = (),
    today: dt.date | None = None,
) -> list[DayProposal]:
    """What to move, lighten or leave out so that the week fits around its matches; nothing where it does.

    `weekdays` (0 is Monday): the only ones a session may be moved to; none: any. Nothing is moved to a day before
    `today`, nor is anything fixed moved at all.
    """
    monday = monday_of(week)
    days = [day_leaves(monday + dt.timedelta(days=n), fixtures, marked, rules) for n in range(7)]
    open_ones = [one for one in held if not one.fixed and not one.left_out]
    if not open_ones:
        return []
    played = sum(monday <= one.on < monday + WEEK for one in fixtures)
    short = played >= rules.matches_short
    kept = _kept_of_short(open_ones, held, short, days)
    found = [
        DayProposal(one.key, DayAct.LEAVE_OUT, days[one.day.weekday()], short=True)
        for one in open_ones
        if one not in kept
    ]
    fixed = [one for one in held if one.fixed and not one.left_out]
    chosen = _best_days(kept, fixed, days, weekdays, rules, today or monday)
    for one, place in zip(kept, chosen, strict=True):
        mine = _for_one(one, days[one.day.weekday()], place, short)
        eased = one.light or any(said.act in (DayAct.LIGHTEN, DayAct.LEAVE_OUT) for said in mine)
        if not eased and (match := tapers_for(place.day, fixtures, rules)):
            mine.append(DayProposal(one.key, DayAct.TAPER, replace(place, days=(match - place.day).days)))
        found += mine
    return found


def tapers_for(day: dt.date, fixtures: Iterable[Fixture], rules: Rules) -> dt.date | None:
    """The day of the match that counts for which a day is in the taper: in its week before it, or in those before that."""
    weeks = (
        (one.on, (monday_of(one.on) - monday_of(day)).days // 7) for one in fixtures if one.counts and one.on > day
    )
    return min((on for on, ahead in weeks if 0 <= ahead < rules.taper_weeks), default=None)


def _kept_of_short(
    open_ones: Sequence[HeldSession], held: Sequence[HeldSession], short: bool, days: Sequence[DayLeaves]
) -> list[HeldSession]:
    """In a week of two matches the one that can stay on its day, of those the heaviest; none if one was held already."""
    if not short:
        return list(open_ones)
    if any(one.fixed and not one.left_out for one in held):
        return []

    def worth(one: HeldSession) -> tuple[bool, float, int]:
        return days[one.day.weekday()].legs is not Legs.NONE, one.weight, -one.day.toordinal()

    return [max(open_ones, key=worth)]


def _for_one(one: HeldSession, here: DayLeaves, place: DayLeaves, short: bool) -> list[DayProposal]:
    if place.legs is Legs.NONE:
        return [DayProposal(one.key, DayAct.LEAVE_OUT, here)]
    found = [DayProposal(one.key, DayAct.MOVE, here, place)] if place.day != one.day else []
    if (place.legs is Legs.LIGHT or short) and not one.light:
        found.append(DayProposal(one.key, DayAct.LIGHTEN, place, short=short))
    return found


def _best_days(
    kept: Sequence[HeldSession],
    fixed: Sequence[HeldSession],
    days: Sequence[DayLeaves],
    weekdays: Collection[int],
    rules: Rules,
    today: dt.date,
) -> list[DayLeaves]:
    choices = [
        [one for one in days if one.day == session.day or _may_move_to(one, weekdays, today)] for session in kept
    ]
    heaviest = max(kept, key=lambda one: one.weight, default=None)

    def cost(days_chosen: Iterable[DayLeaves]) -> tuple[float, ...]:
        """In the documented order, each counting only where all before it are even.

        A squad to which moving is worth more than a light day (`move_cost`) has it weighed.
        """
        chosen = tuple(days_chosen)
        pairs = list(zip(kept, chosen, strict=True))
        not_to_be = sum(at.legs is Legs.NONE for _, at in pairs)
        together, between = _between(kept, chosen, fixed)
        too_light = sum(one is heaviest and not one.light and at.legs is Legs.LIGHT for one, at in pairs)
        soft = sum(_cost_of(one, at, one is heaviest, rules) for one, at in pairs) + between
        if rules.move_cost > LIGHT_DAY:
            soft, too_light = soft + LIGHT_DAY * too_light, 0
        return not_to_be, together, too_light, soft, sum(at.day.toordinal() for at in chosen)

    return list(min(product(*choices), key=cost)) if kept else []


def _may_move_to(place: DayLeaves, weekdays: Collection[int], today: dt.date) -> bool:
    """Not onto the day after a match either: what is light there by need is nowhere to go."""
    free = place.legs is not Legs.NONE and place.why is not DayReason.AFTER
    return free and place.day >= today and (not weekdays or place.day.weekday() in weekdays)


def _cost_of(one: HeldSession, at: DayLeaves, heaviest: bool, rules: Rules) -> float:
    """What is weighed against each other: moving, what must be lightened, a heaviest day that is not the best."""
    shift = abs((at.day - one.day).days)
    total = rules.move_cost * bool(shift) + 0.05 * shift
    if at.legs is Legs.LIGHT and not heaviest:
        total += TOO_HEAVY * (0.3 if one.light else 1.0)
    best = at.why is DayReason.FREE or rules.match_best_from <= at.days <= rules.match_best_to
    return total + (heaviest and not best)


def _between(
    kept: Sequence[HeldSession], chosen: Sequence[DayLeaves], fixed: Sequence[HeldSession]
) -> tuple[int, float]:
    """How many pairs are on one day that were not; what one after the other and another order than planned cost."""
    placed = [(one.day, at.day) for one, at in zip(kept, chosen, strict=True)] + [(one.day, one.day) for one in fixed]
    together, total = 0, 0.0
    for n, (was, now) in enumerate(placed):
        for other_was, other_now in placed[:n]:
            apart, before = (now - other_now).days, (was - other_was).days
            together += apart == 0 and before != 0
            total += RUNNING * (abs(apart) == 1 and abs(before) != 1)
            total += OUT_OF_ORDER * (apart * before < 0)
    return together, total
