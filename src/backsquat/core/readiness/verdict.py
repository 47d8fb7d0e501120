"""May they, how much, and why not: the one verdict everybody asks (rules 2.6, 2.9, 2.10).

What stands in the way is judged in one order, the gravest first: an open pain stop, time away, a limit,
a readiness check not passed (a minor's missing consent is one of its lines), a level not earned (for a minor without
consent whatever
takes a weight, on a ladder or beside them), a load over a limit. Sheet, panel, edits, floor, tests, ladder work, plans,
stand-ins, decisions and rankings take their answer from here.

A verdict says what may be *offered*. It never decides whether something that was lifted is kept.
"""

import datetime as dt
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from backsquat.core.findings import Finding
from backsquat.core.loads.ceilings import Ceiling, CeilingKind
from backsquat.core.movements.ladder import Ladder, rigged
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Family, Movement, ReadinessCheck
from backsquat.core.readiness.absence import AwayReason, EasedWeek
from backsquat.core.readiness.checklist import (
    Candidacy,
    Override,
    ReadinessCheckView,
    checklist,
    lacks_consent,
    readiness_check_findings,
)
from backsquat.core.readiness.limits import ActiveLimit, Bounds, bounds_on
from backsquat.core.readiness.pain import locks
from backsquat.core.readiness.screens import Known
from backsquat.core.rules import Rules


class Reason(StrEnum):
    """Why not, in the order in which it is judged."""

    STOPPED = "stopped"
    AWAY = "away"
    BARRED = "barred"
    NOT_READY = "not_ready"
    UNEARNED = "unearned"
    OVER_LIMIT = "over_limit"


@dataclass(frozen=True)
class Person:
    """Who is judged: what of an athlete the rules look at."""

    id: int
    name: str
    born_on: dt.date
    newcomer: bool = False
    consent: bool = False  # a guardian's, needed for minors
    growing: bool = False  # fast, by measured heights


@dataclass(frozen=True)
class OpenStop:
    """An open pain stop: from which movement (empty: none in particular), in which region, since when."""

    id: int
    set_id: int | None  # None: reported by itself, not with a set
    movement: str
    region: str
    level: int | None  # 0–10; None: nobody was asked for a number
    character: str
    at: dt.datetime
    family: Family | None = None  # of the movement as it was then
    locked: frozenset[str] = frozenset()  # movements it locked when it was made

    def locks(self, movement: Movement, library: Library) -> bool:
        """What it locked when it was made, and what the library says today."""
        now = library.movements.get(self.movement)
        return locks(self.movement, self.family, self.region, movement, self.locked) or (
            now is not None and now.family is movement.family
        )


@dataclass(frozen=True)
class TimeAway:
    """Time away. After a pain stop it concerns only what the stop had locked (`movement`, `region`)."""

    id: int
    first_on: dt.date
    back_on: dt.date | None  # None: still away
    why: AwayReason
    movement: str = ""
    region: str = ""
    weeks: tuple[EasedWeek, ...] = ()  # the accepted return, week by week from `back_on`

    @property
    def after_stop(self) -> bool:
        """Whether a pain stop led to it."""
        return bool(self.movement or self.region)

    def holds_on(self, day: dt.date) -> bool:
        """Whether the athlete is away on a day."""
        return self.first_on <= day and (self.back_on is None or day < self.back_on)


@dataclass(frozen=True)
class LevelHeld:
    """Where an athlete stands on a ladder: the level from 0, the movement, since when and why."""

    level: int
    movement: str
    at: dt.datetime
    way: str = "placed"
    reason: str = ""


class Short(StrEnum):
    """Why a level is not earned."""

    NO_CONSENT = "no_consent"  # a minor's guardian has not agreed to work with a weight
    ABOVE_LEVEL = "above_level"
    NOT_PLACED = "not_placed"


@dataclass(frozen=True)
class Unearned:
    """A movement harder than what was earned: on which ladder, which level it is, where the athlete stands (from 0).

    Of a minor without consent it may be on no ladder at all.
    """

    why: Short
    ladder: Ladder | None = None
    level: int = 0
    stands: int | None = None


@dataclass(frozen=True)
class Obstacle:
    """One thing in the way, with what a sentence about it needs."""

    reason: Reason
    stop: OpenStop | None = None
    rest_of_day: bool = False  # the stop does not lock it: on its day nothing with a load is done
    absence: TimeAway | None = None
    limit: ActiveLimit | None = None
    readiness_check: tuple[Finding, ...] = ()
    unearned: Unearned | None = None


@dataclass(frozen=True)
class Verdict:
    """What one athlete may do of one movement on one day."""

    obstacles: tuple[Obstacle, ...] = ()  # gravest first; empty: nothing in the way
    most_kg: float | None = None  # the strictest limit on the load, written as the load is; None: none
    most_by: ActiveLimit | None = None
    ease: EasedWeek | None = None  # of an accepted return
    notes: tuple[ActiveLimit, ...] = ()  # limits of range or side, to be read before the set

    @property
    def may(self) -> bool:
        """Nothing stands in the way."""
        return not self.obstacles

    @property
    def first(self) -> Obstacle | None:
        """The gravest obstacle."""
        return self.obstacles[0] if self.obstacles else None

    @property
    def reasons(self) -> tuple[Reason, ...]:
        """Codes of everything in the way, gravest first."""
        return tuple(obstacle.reason for obstacle in self.obstacles)

    def has(self, *reasons: Reason) -> bool:
        """Whether any of these stands in the way."""
        return any(reason in reasons for reason in self.reasons)

    def but(self, *reasons: Reason) -> "Verdict":
        """The verdict leaving these out of account: a plan is made for whoever is away, too."""
        kept = tuple(obstacle for obstacle in self.obstacles if obstacle.reason not in reasons)
        return Verdict(kept, self.most_kg, self.most_by, self.ease, self.notes)

    @property
    def ceilings(self) -> tuple[Ceiling, ...]:
        """The limit on the load as a ceiling for rounding."""
        return () if self.most_kg is None else (Ceiling(CeilingKind.LIMIT, self.most_kg),)


@dataclass(frozen=True)
class Readiness:
    """Everything that decides what one athlete may do, as it is known `today`.

    `rules` are the athlete's own: the squad's with a pain line a physio or doctor may have set.
    `equipment_on` and `room_on` answer for the room the athlete trains in on a day.
    """

    person: Person
    today: dt.date
    rules: Rules
    library: Library
    stops: tuple[OpenStop, ...] = ()
    limits: tuple[ActiveLimit, ...] = ()
    absences: tuple[TimeAway, ...] = ()  # newest first
    levels: Mapping[str, LevelHeld] = field(default_factory=dict)  # by ladder
    known: Known = field(default_factory=dict)  # newest results of screens
    body_mass_kg: float | None = None
    overrides: Mapping[ReadinessCheck, Override] = field(default_factory=dict)
    road: tuple[int, int] = (0, 0)  # sound sessions on the road to the bar; days from the first to the last
    lifted_before: bool = False  # had lifted a bar before the oldest open stop
    bar_days: Mapping[Family, int] = field(default_factory=dict)  # days with clean sets on a bar, by family
    soundly: frozenset[ReadinessCheck] = frozenset()  # readiness checks behind which clean sets were lifted
    lately: frozenset[ReadinessCheck] = (
        frozenset()
    )  # readiness checks behind which they were lifted within the retest interval
    shown: Mapping[str, dt.date] = field(default_factory=dict)  # movement → the last day it was shown in a test
    equipment_on: Callable[[dt.date], frozenset[str]] = lambda _day: frozenset()
    room_on: Callable[[dt.date], int | None] = lambda _day: None

    # --- the verdict

    def judge(self, movement: Movement, day: dt.date | None = None, load_kg: float | None = None) -> Verdict:
        """What this athlete may do of a movement on a day, with a load if one is named.

        Where no day is said: as things stand today, without what ends with it (the rest of the day after a stop).
        """
        on = day or self.today
        bounds = self.bounds(movement, on)
        found = [*self._health(movement, on, bounds, of_day=day is not None)]
        if readiness_check := self.readiness_check(movement):
            found.append(Obstacle(Reason.NOT_READY, readiness_check=readiness_check))
        elif unearned := self.unearned(movement):  # behind a readiness check not passed nobody asks for the level yet
            found.append(Obstacle(Reason.UNEARNED, unearned=unearned))
        if bounds.most_kg is not None and (load_kg or 0.0) > bounds.most_kg + 1e-9:
            found.append(Obstacle(Reason.OVER_LIMIT, limit=bounds.most_by))
        ease = self._ease(movement, on)
        return Verdict(tuple(found), bounds.most_kg, bounds.most_by, ease, bounds.notes)

    def _health(self, movement: Movement, on: dt.date, bounds: Bounds, *, of_day: bool) -> Iterable[Obstacle]:
        if stop := next((one for one in self.stops if one.locks(movement, self.library)), None):
            yield Obstacle(Reason.STOPPED, stop=stop)
        elif of_day and (stop := self._stopped_that_day(movement, on)):
            yield Obstacle(Reason.STOPPED, stop=stop, rest_of_day=True)
        if absence := self.absent_on(on):
            yield Obstacle(Reason.AWAY, absence=absence)
        if bounds.barred_by:
            yield Obstacle(Reason.BARRED, limit=bounds.barred_by)

    def may(self, code: str, day: dt.date | None = None) -> bool:
        """Whether the movement may be given, now or on a day, with what the room has; being away is no bar to a plan."""
        return self._given(code, day, Reason.AWAY)

    def may_earn(self, code: str, day: dt.date | None = None) -> bool:
        """The same whatever the level: for moves on a ladder, which is how a level is come by."""
        return self._given(code, day, Reason.AWAY, Reason.UNEARNED)

    def _given(self, code: str, day: dt.date | None, *leaving: Reason) -> bool:
        movement = self.library.movements.get(code)
        if movement is None or movement.retired or self.lacking(movement, day):
            return False
        if movement.takes_load and self.lacks_consent:
            return False
        return self.judge(movement, day).but(*leaving).may

    # --- its parts

    def _stopped_that_day(self, movement: Movement, on: dt.date) -> OpenStop | None:
        """A stop of the day itself: whatever it locks, nothing with a load is done for the rest of it."""
        if not self.rules.stop_ends_loads or not movement.takes_load:
            return None
        return next((stop for stop in self.stops if stop.at.date() == on), None)

    def bounds(self, movement: Movement, day: dt.date) -> Bounds:
        """What the limits leave of a movement on a day."""
        return bounds_on(self.limits, movement, day)

    def readiness_check(self, movement: Movement) -> tuple[Finding, ...]:
        """What shuts the readiness checks before this movement; empty: they are open, or it has none."""
        return tuple(
            finding
            for readiness_check in movement.readiness_checks
            for finding in readiness_check_findings(self.view(readiness_check))
        )

    def view(self, readiness_check: ReadinessCheck) -> ReadinessCheckView:
        """The checklist of a readiness check as it stands; worked out once, and only where somebody asks for it."""
        if readiness_check not in self._views:
            self._views[readiness_check] = checklist(
                readiness_check, self._candidacy(readiness_check), self.today, self.rules
            )
        return self._views[readiness_check]

    @cached_property
    def _views(self) -> dict[ReadinessCheck, ReadinessCheckView]:
        return {}

    @property
    def opened(self) -> frozenset[ReadinessCheck]:
        """The readiness checks passed."""
        return frozenset(readiness_check for readiness_check in ReadinessCheck if self.view(readiness_check).open)

    def _candidacy(self, readiness_check: ReadinessCheck) -> Candidacy:
        stopped = bool(self.stops) and not self.lifted_before
        return Candidacy(
            known=self.known,
            born_on=self.person.born_on,
            consent=self.person.consent,
            stopped=stopped,
            body_mass_kg=self.body_mass_kg,
            road_sessions=self.road[0],
            road_days=self.road[1],
            override=self.overrides.get(readiness_check),
            hinge_earned=self._beyond("hinge", "kettlebell_deadlift"),
            thrust_earned=self._beyond("thrust", "bench_thrust"),
            hinge_days=self.bar_days.get(Family.HINGE, 0),
            squat_days=self.bar_days.get(Family.SQUAT, 0),
            lifted_soundly=readiness_check in self.soundly,
            lifts=readiness_check in self.lately,
        )

    def _beyond(self, ladder_code: str, movement: str) -> bool | None:
        """Whether the athlete was put on a level above a movement's; None: on none of that ladder."""
        ladder = self.library.ladders.get(ladder_code)
        held, level = (self.level_on(ladder), ladder.level_of(movement)) if ladder else (None, None)
        return None if held is None or level is None else held > level

    @property
    def absent(self) -> TimeAway | None:
        """The time away that is not over."""
        return self.absent_on(self.today)

    def absent_on(self, day: dt.date) -> TimeAway | None:
        """The time away a day falls in; a pain stop's own time is the stop's matter."""
        return next((a for a in self.absences if not a.after_stop and a.holds_on(day)), None)

    def could_come(self, day: dt.date) -> bool:
        """Whether the athlete was neither away nor stopped on a day: who was has missed nothing."""
        return self.absent_on(day) is None and all(stop.at.date() > day for stop in self.stops)

    def _ease(self, movement: Movement, day: dt.date) -> EasedWeek | None:
        """The eased week of an accepted return a day falls in; after a stop only for what it had locked."""
        for absence in self.absences:
            if absence.back_on and absence.back_on <= day and self._concerns(absence, movement):
                week = (day - absence.back_on).days // 7
                if week < len(absence.weeks):
                    return absence.weeks[week]
        return None

    def _concerns(self, absence: TimeAway, movement: Movement) -> bool:
        stopped = self.library.movements.get(absence.movement)
        family = stopped.family if stopped else None
        return not absence.after_stop or locks(absence.movement, family, absence.region, movement)

    def lacking(self, movement: Movement, day: dt.date | None = None) -> tuple[str, ...]:
        """What the movement needs and the athlete's room of that day has not: codes of equipment."""
        return rigged(movement, self.equipment_on(day or self.today))

    def moves(self, days: Iterable[dt.date]) -> bool:
        """Whether the athlete trains in different rooms on these days, or in another than today."""
        return len({self.room_on(day) for day in (self.today, *days)}) > 1

    # --- ladders

    def level_on(self, ladder: Ladder) -> int | None:
        """The level the athlete was put on, from 0; None: not placed."""
        held = self.levels.get(ladder.code)
        if held is None:
            return None
        level = ladder.level_of(held.movement)  # the ladder may have been changed since
        return min(held.level, len(ladder.levels) - 1) if level is None else level

    def stands_on(self, ladder: Ladder) -> int | None:
        """The highest level that counts as earned; None: nothing is known.

        The readiness check before the bar is the criterion of its level: who is through stands there, unless somebody
        has moved them down since.
        """
        held, level = self.levels.get(ladder.code), self.level_on(ladder)
        if held is not None and held.way == "easier":
            return level
        through = self.library.movements.get(ladder.through)
        known = [level] if level is not None else []
        if through and through.readiness_checks and not self.readiness_check(through):
            known.append(ladder.level_of(through.code) or 0)
        return max(known, default=None)

    def unearned(self, movement: Movement) -> Unearned | None:
        """Why the movement is a harder level than the athlete has earned; None: it is not, or is on no ladder.

        A minor whose guardian has not agreed has earned nothing with a weight or a machine, on a ladder or beside them.

        The gentlest level needs no placing. A test with clean sets of the movement itself, newer than the last
        move on the ladder, has shown it.
        """
        ladders = self.library.ladders_of(movement.code)
        if movement.takes_load and self.lacks_consent:
            return Unearned(Short.NO_CONSENT, *ladders[0] if ladders else ())
        if not ladders:
            return None
        placed = [
            (ladder, level, stands) for ladder, level in ladders if (stands := self.stands_on(ladder)) is not None
        ]
        if any(level <= stands or self._shown_on(movement, ladder) for ladder, level, stands in placed):
            return None
        if placed:
            return Unearned(Short.ABOVE_LEVEL, *placed[0])
        if min(level for _, level in ladders) == 0 or movement.code in self.shown:
            return None
        return Unearned(Short.NOT_PLACED, *ladders[0])

    def _shown_on(self, movement: Movement, ladder: Ladder) -> bool:
        """Whether a test has shown it since the athlete was put on their level of a ladder."""
        day, held = self.shown.get(movement.code), self.levels.get(ladder.code)
        return day is not None and (held is None or day > held.at.date())

    @property
    def lacks_consent(self) -> bool:
        """A minor whose guardian has not agreed."""
        return lacks_consent(self.person.born_on, self.person.consent, self.today, self.rules)
