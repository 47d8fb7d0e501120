"""May they: what stands in the way, the gravest first, and what it leaves. Broken by hand, each of these fails."""

import datetime as dt
from dataclasses import replace
from typing import Any

from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Gate
from backsquat.core.readiness.absence import EasedWeek, Why
from backsquat.core.readiness.gate import Override
from backsquat.core.readiness.limits import Limit, LimitKind, Scope
from backsquat.core.readiness.verdict import Absence, Person, Readiness, Reason, RungHeld, Stop
from backsquat.library.shelf import ladders, movements
from tests.factories import RULES, TODAY

SQUAT, CURL, HINGE, GOBLET = (
    movements()[code] for code in ("back_squat", "lying_curl", "romanian_deadlift", "goblet_squat")
)
LIBRARY = Library(movements(), ladders(), movements())
EVERYTHING = frozenset(code for movement in movements().values() for group in movement.equipment for code in group)
THROUGH = {Gate.BARBELL: Override("R. Amari", TODAY, "seen lifting soundly elsewhere")}
STOP = Stop(1, 9, "front_squat", "knee", 6, "sharp", dt.datetime.combine(TODAY, dt.time(18)))
AWAY = Absence(1, TODAY - dt.timedelta(days=3), None, Why.ILLNESS)


def a_limit(kind: LimitKind = LimitKind.NOT_AT_ALL, load_kg: float | None = None, **changes: Any) -> Limit:
    limit = Limit(Scope.MOVEMENT, "back_squat", kind, load_kg, "", TODAY - dt.timedelta(days=1), None, "physio")
    return replace(limit, **changes)


def ready(**changes: Any) -> Readiness:
    values: dict[str, Any] = {
        "person": Person(1, "Marit Holm", dt.date(2000, 1, 1)),
        "today": TODAY,
        "rules": RULES,
        "library": LIBRARY,
        "overrides": THROUGH,
        "equipment_on": lambda _day: EVERYTHING,
    }
    return Readiness(**(values | changes))


def test_nothing_in_the_way() -> None:
    verdict = ready().judge(SQUAT, TODAY, 100)
    assert verdict.may and verdict.first is None and verdict.ceilings == () and verdict.ease is None


def test_everything_in_the_way_is_named_the_gravest_first() -> None:
    most = a_limit(LimitKind.LOAD, 60.0)
    everything = ready(stops=(STOP,), absences=(AWAY,), limits=(a_limit(), most), overrides={})
    verdict = everything.judge(SQUAT, TODAY, 100)
    assert verdict.reasons == (Reason.STOPPED, Reason.AWAY, Reason.BARRED, Reason.GATED, Reason.OVER_LIMIT)
    assert list(Reason) == list(verdict.reasons), "the order of judging is the order of the reasons"
    first = verdict.first
    assert first and first.stop is STOP and verdict.but(Reason.STOPPED).first is not first
    assert verdict.but(*Reason).may and verdict.has(Reason.GATED) and not verdict.but(Reason.GATED).has(Reason.GATED)


def test_a_stop_locks_the_movement_its_family_and_its_region_and_nothing_else() -> None:
    stopped = ready(stops=(STOP,), lifted_before=True)
    assert stopped.judge(SQUAT).reasons == (Reason.STOPPED,)
    assert stopped.judge(CURL).reasons == (Reason.STOPPED,), "it loads the knee"
    assert stopped.judge(HINGE).may


def test_a_stop_shuts_the_gate_too_for_those_who_never_lifted_a_bar_before() -> None:
    assert ready(stops=(STOP,)).judge(HINGE).reasons == (Reason.GATED,)


def test_away_from_the_first_day_to_the_day_before_the_return_and_planned_for_all_the_same() -> None:
    away = ready(absences=(replace(AWAY, back_on=TODAY + dt.timedelta(days=4)),))
    for days, gone in ((-4, False), (-3, True), (0, True), (3, True), (4, False)):
        verdict = away.judge(SQUAT, TODAY + dt.timedelta(days=days))
        assert verdict.has(Reason.AWAY) == gone, days
    assert away.may("back_squat") and away.absent is not None


def test_the_time_of_a_pain_stop_is_the_stops_matter() -> None:
    after_stop = ready(absences=(replace(AWAY, movement="back_squat", region="knee"),))
    assert after_stop.judge(SQUAT).may and after_stop.absent is None


def test_a_limit_bars_or_bounds_on_its_days_only() -> None:
    assert ready(limits=(a_limit(),)).judge(SQUAT).reasons == (Reason.BARRED,)
    assert ready(limits=(a_limit(),)).judge(CURL).may
    ended = a_limit(until_on=TODAY)
    assert ready(limits=(ended,)).judge(SQUAT, TODAY + dt.timedelta(days=1)).may
    bounded = ready(limits=(a_limit(LimitKind.LOAD, 60.0), a_limit(LimitKind.LOAD, 80.0)))
    verdict = bounded.judge(SQUAT, TODAY, 60.0)
    assert verdict.may and verdict.most_kg == 60 and [one.most_kg for one in verdict.ceilings] == [60]
    assert bounded.judge(SQUAT, TODAY, 60.1).reasons == (Reason.OVER_LIMIT,)
    noted = ready(limits=(a_limit(LimitKind.RANGE, words="to thigh level"),)).judge(SQUAT)
    assert noted.may and [limit.words for limit in noted.notes] == ["to thigh level"]


def test_a_gate_stands_before_bars_and_a_minor_without_consent_is_let_through_by_nobody() -> None:
    assert ready(overrides={}).judge(SQUAT).reasons == (Reason.GATED,)
    assert ready(overrides={}).judge(GOBLET).may
    minor = Person(1, "Noor Visser", TODAY.replace(year=TODAY.year - 15))
    assert ready(person=minor).judge(SQUAT).reasons == (Reason.GATED,)
    assert ready(person=replace(minor, consent=True)).judge(SQUAT).may


def test_the_eased_weeks_of_a_return_and_only_for_what_the_stop_had_locked() -> None:
    back = replace(AWAY, back_on=TODAY, weeks=(EasedWeek(0.8, 0.5), EasedWeek(0.9, 0.7)))
    for days, ease in ((-1, None), (0, back.weeks[0]), (6, back.weeks[0]), (7, back.weeks[1]), (14, None)):
        assert ready(absences=(back,)).judge(SQUAT, TODAY + dt.timedelta(days=days)).ease == ease, days
    of_stop = replace(back, movement="back_squat", region="knee")
    assert ready(absences=(of_stop,)).judge(SQUAT).ease and not ready(absences=(of_stop,)).judge(HINGE).ease


def test_what_the_room_lacks_and_what_is_retired_may_not_be_given() -> None:
    assert ready().may("back_squat") and not ready().may("no_such_movement")
    assert not ready(equipment_on=lambda _day: frozenset()).may("back_squat")
    retired = Library(movements() | {"back_squat": replace(SQUAT, retired=True)}, ladders(), movements())
    assert not ready(library=retired).may("back_squat")


def test_the_rung_held_is_never_past_the_end_of_its_ladder() -> None:
    ladder = ladders()["squat_to_bar"]
    now = dt.datetime.combine(TODAY, dt.time(8))
    assert ready().rung_on(ladder) is None
    assert ready(rungs={ladder.code: RungHeld(1, ladder.rungs[1][0], now)}).rung_on(ladder) == 1
    assert ready(rungs={ladder.code: RungHeld(99, "gone", now)}).rung_on(ladder) == len(ladder.rungs) - 1
