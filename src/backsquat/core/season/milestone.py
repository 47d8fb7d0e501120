"""Is a milestone in reach by its date? Judged from the trend of the weekly bests: of estimates, seconds, screens."""

import datetime as dt
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from backsquat.core.rules import Rules
from backsquat.core.season.trend import Point, Trend, theil_sen
from backsquat.core.working import Fact, Step, Working


class MilestoneKind(StrEnum):
    """What a milestone is counted in."""

    LOAD = "load"  # kg
    BODY_MASSES = "body_masses"
    REPS = "reps"  # with a load
    LEVEL = "level"  # a level of a ladder reached
    SECONDS = "seconds"  # a hold
    SCREEN = "screen"  # the value of a screen, jumps among them
    SESSIONS = "sessions"  # attended since it was set


class Status(StrEnum):
    """How a milestone stands."""

    DONE = "done"
    ON_COURSE = "on course"
    BEHIND = "behind"
    OUT_OF_REACH = "out of reach"
    MISSED = "missed"  # its day has passed
    NO_DATA = "no data"


@dataclass(frozen=True)
class Judgement:
    """Status, the projected day with its early and late ends (None: not on this trend), and how sure."""

    status: Status
    target_kg: float | None
    expected_on: dt.date | None
    earliest_on: dt.date | None
    latest_on: dt.date | None
    sure: bool  # the whole range of dates falls on the same side of the due date
    trend: Trend | None
    working: Working


def target_kg(kind: MilestoneKind, amount: float, body_mass_kg: float | None) -> float | None:
    """The load a milestone stands for; None where it needs a body mass that nobody recorded."""
    if kind is MilestoneKind.LOAD:
        return amount
    return None if body_mass_kg is None else amount * body_mass_kg


def judge_value(
    points: Sequence[Point],
    target: float,
    due_on: dt.date,
    rules: Rules,
    today: dt.date,
    unit: str,
    less: bool = False,
    set_on: dt.date | None = None,
) -> Judgement:
    """Status of what is counted in another unit; `less` where a smaller value is better.

    What comes and goes counts from the day it was set (`set_on`): the value that stood then, and those that came later.
    """
    sign = -1.0 if less else 1.0
    turned = [Point(point.on, sign * point.value) for point in points]
    stood = max((point.on for point in points if set_on and point.on <= set_on), default=None)
    found = judge(turned, sign * target, due_on, rules, today, counts_from=stood)
    newest = max(points, key=lambda point: point.on, default=None)
    stands = Step("stands_at", {"day": newest.on.isoformat()}, newest.value, unit) if newest else Step("stands_nowhere")
    return replace(found, target_kg=None, working=_in(found.working, unit, sign).then(stands))


def _in(working: Working, unit: str, sign: float) -> Working:
    """The same steps in another unit, turned back where less is better."""

    def said(step: Step) -> Step:
        if not step.unit:
            return step
        output = sign * step.output if isinstance(step.output, int | float) else step.output
        facts = dict(step.facts)
        if "low" in facts and "high" in facts and sign < 0:
            facts |= {"low": -float(facts["high"]), "high": -float(facts["low"])}
        return Step(step.code, facts, output, step.unit.replace("kg", unit))

    return Working(tuple(said(step) for step in working.steps))


def judge_attended(done: int, ahead: int, share: float, wanted: int, due_on: dt.date, today: dt.date) -> Judgement:
    """Status of sessions attended: `done` of them, `ahead` still to come, `share` of those so far that were attended."""
    facts: dict[str, Fact] = {"done": done, "ahead": ahead, "share": share, "due_on": due_on.isoformat()}
    working = Working((Step("sessions_wanted", facts, wanted),))
    if done >= wanted:
        status = Status.DONE
    elif today > due_on:
        status = Status.MISSED
    elif done + ahead < wanted:
        status = Status.OUT_OF_REACH
    else:
        status = Status.ON_COURSE if done + share * ahead >= wanted else Status.BEHIND
    sure = status in (Status.DONE, Status.MISSED, Status.OUT_OF_REACH)
    return Judgement(status, None, None, None, None, sure, None, working)


def judge(
    points: Sequence[Point],
    target: float | None,
    due_on: dt.date,
    rules: Rules,
    today: dt.date | None = None,
    believed: Mapping[dt.date, float] | None = None,
    counts_from: dt.date | None = None,
    idle: Collection[dt.date] = (),
) -> Judgement:
    """Status of a target in kg. `points` are weekly best estimates without deload weeks, oldest first.

    `believed` is the maximum believed at the end of a point's week: one lucky set whose week nobody believes reaches
    nothing (`milestone_near`).

    Only points from `counts_from` on can have reached it; earlier ones say how it goes. In weeks ahead that are `idle`
    (their Mondays) nothing is trained: nothing rises in them either.

    What was not reached is missed once its day has passed (`today`), whatever the trend says.
    """
    if target is None:
        return Judgement(Status.NO_DATA, None, None, None, None, False, None, Working())
    working = Working((Step("target", {"due_on": due_on.isoformat()}, target, "kg"),))
    near = {on for on, kg in (believed or {}).items() if kg >= target * rules.milestone_near}
    stands = [point for point in points if believed is None or point.on in near]
    stands = [point for point in stands if counts_from is None or point.on >= counts_from]
    reached = next((point for point in stands if point.value >= target and point.on <= due_on), None)
    if reached:
        step = Step("reached", {"week": reached.on.isoformat()}, reached.value, "kg")
        return Judgement(Status.DONE, target, reached.on, reached.on, reached.on, True, None, working.then(step))
    if today is not None and today > due_on:
        best = max((point.value for point in points if point.on <= due_on), default=0.0)
        step = Step("not_reached", {"due_on": due_on.isoformat()}, best, "kg")
        return Judgement(Status.MISSED, target, None, None, None, True, None, working.then(step))
    trend = theil_sen(points, rules.trend_interval) if len(points) >= rules.trend_points else None
    if trend is None:
        step = Step("weeks_with_record", {"needed": rules.trend_points}, len(points))
        return Judgement(Status.NO_DATA, target, None, None, None, False, None, working.then(step))
    without = sorted(week for week in idle if week > trend.last.on)
    lost = sum(week <= due_on for week in without)
    working = working.then(*_shown(trend, target, due_on, len(points), lost))
    return _on_trend(trend, target, due_on, rules, today, working, without)


def _on_trend(
    trend: Trend,
    target: float,
    due_on: dt.date,
    rules: Rules,
    today: dt.date | None,
    working: Working,
    idle: Sequence[dt.date],
) -> Judgement:
    found = trend.reaches(target, trend.slope), *range_of(trend, target, rules)
    # What is over has not brought it.
    expected, earliest, latest = (max(_later(day, idle), today or day) if day else None for day in found)
    status = Status.OUT_OF_REACH
    if expected is not None and expected <= due_on:
        status = Status.ON_COURSE
    elif earliest is not None and earliest <= due_on:
        status = Status.BEHIND
    sure = (latest is not None and latest <= due_on) or status is Status.OUT_OF_REACH
    return Judgement(status, target, expected, earliest, latest, sure, trend, working)


def _later(day: dt.date, idle: Sequence[dt.date]) -> dt.date:
    """A day put off by the idle weeks before it."""
    for week in idle:
        if week <= day:
            day += dt.timedelta(weeks=1)
    return day


def _shown(trend: Trend, target: float, due_on: dt.date, weeks: int, lost: int) -> tuple[Step, ...]:
    """The trend, and what it says of the target; `lost` weeks until its day bring nothing."""
    counted_to = due_on - dt.timedelta(weeks=lost)
    slopes = {"weeks": weeks, "low": 7 * trend.slope_low, "high": 7 * trend.slope_high}
    return (
        Step("trend", slopes, 7 * trend.slope, "kg a week"),
        Step("now_on_trend", {"week": trend.last.on.isoformat()}, trend.at(trend.last.on), "kg"),
        *((Step("idle_weeks", {}, lost),) if lost else ()),
        Step("on_due_date", {}, trend.at(counted_to), "kg"),
        *_needed(trend, target, counted_to),
    )


def range_of(trend: Trend, target: float, rules: Rules) -> tuple[dt.date | None, dt.date | None]:
    """The days between which a target is reached four times in five; None: not on this trend, or with no end to it.

    By the low and high slope of the trend, and by how far weeks scatter about it: a good week reaches a target before
    the line does, and a line drawn through few weeks lies off by some of that. How much of the scatter is taken was
    fitted on made-up athletes, where the range holds what it says (docs/simulations.md).
    """
    scatter = rules.range_scatter * max(trend.scatter, rules.scatter_least * abs(trend.at(trend.last.on)))
    return trend.reaches(target - scatter, trend.slope_high), trend.reaches(target + scatter, trend.slope_low)


def _needed(trend: Trend, target: float, due_on: dt.date) -> tuple[Step, ...]:
    """What a week must bring from now on so that the target is reached by its day."""
    days = (due_on - trend.last.on).days
    lacking = target - trend.at(trend.last.on)
    return (Step("needed_a_week", {}, 7 * lacking / days, "kg a week"),) if days > 0 and lacking > 0 else ()


def judge_level(here: int | None, wanted: int, due_on: dt.date, today: dt.date) -> Judgement:
    """Status of a level: done where the athlete stands on it or beyond. Levels have no trend to judge by."""
    facts: dict[str, Fact] = {"here": 0 if here is None else here + 1, "due_on": due_on.isoformat()}
    working = Working((Step("level_wanted", facts, wanted + 1),))
    done = here is not None and here >= wanted
    status = Status.DONE if done else Status.MISSED if today > due_on else Status.NO_DATA
    return Judgement(status, None, None, None, None, done, None, working)
