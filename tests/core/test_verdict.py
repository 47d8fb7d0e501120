"""May they: what stands in the way, the gravest first, and what it leaves. Broken by hand, each of these fails."""

import datetime as dt
from dataclasses import replace
from typing import Any

from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Implement, ReadinessCheck, Region
from backsquat.core.readiness.absence import AwayReason, EasedWeek
from backsquat.core.readiness.checklist import Override
from backsquat.core.readiness.limits import ActiveLimit, LimitKind, Scope
from backsquat.core.readiness.screens import Result
from backsquat.core.readiness.verdict import LevelHeld, OpenStop, Person, Readiness, Reason, Short, TimeAway
from backsquat.library.shelf import ladders, movements
from tests.factories import RULES, TODAY

SQUAT, CURL, HINGE, GOBLET = (
    movements()[code] for code in ("back_squat", "lying_curl", "romanian_deadlift", "goblet_squat")
)
LIBRARY = Library(movements(), ladders(), movements())
EVERYTHING = frozenset(code for movement in movements().values() for group in movement.equipment for code in group)
THROUGH = {
    readiness_check: Override("R. Amari", TODAY, "seen lifting soundly elsewhere") for readiness_check in ReadinessCheck
}
STOP = OpenStop(1, 9, "front_squat", "knee", 6, "sharp", dt.datetime.combine(TODAY, dt.time(18)))
AWAY = TimeAway(1, TODAY - dt.timedelta(days=3), None, AwayReason.ILLNESS)


def a_limit(kind: LimitKind = LimitKind.NOT_AT_ALL, load_kg: float | None = None, **changes: Any) -> ActiveLimit:
    limit = ActiveLimit(Scope.MOVEMENT, "back_squat", kind, load_kg, "", TODAY - dt.timedelta(days=1), None, "physio")
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
    assert verdict.reasons == (Reason.STOPPED, Reason.AWAY, Reason.BARRED, Reason.NOT_READY, Reason.OVER_LIMIT)
    order = [
        reason for reason in Reason if reason is not Reason.UNEARNED
    ]  # asked only where the readiness check is open
    assert order == list(verdict.reasons), "the order of judging is the order of the reasons"
    first = verdict.first
    assert first and first.stop is STOP and verdict.but(Reason.STOPPED).first is not first
    assert (
        verdict.but(*Reason).may
        and verdict.has(Reason.NOT_READY)
        and not verdict.but(Reason.NOT_READY).has(Reason.NOT_READY)
    )


def test_a_stop_locks_the_movement_its_family_and_its_region_and_nothing_else() -> None:
    stopped = ready(stops=(STOP,), lifted_before=True)
    assert stopped.judge(SQUAT).reasons == (Reason.STOPPED,)
    assert stopped.judge(CURL).reasons == (Reason.STOPPED,), "it loads the knee"
    assert stopped.judge(HINGE).may


def test_on_the_day_of_a_stop_nothing_with_a_load_and_from_the_next_what_does_not_load_the_place() -> None:
    stopped, tomorrow = ready(stops=(STOP,), lifted_before=True), STOP.at.date() + dt.timedelta(days=1)
    today = stopped.judge(HINGE, STOP.at.date())
    assert today.reasons == (Reason.STOPPED,) and today.first and today.first.rest_of_day
    assert stopped.judge(HINGE, tomorrow).may and not stopped.judge(SQUAT, tomorrow).may
    plank = LIBRARY.get("plank_row")
    assert stopped.judge(replace(plank, implement=Implement.BODY, regions=()), STOP.at.date()).may, "nothing held"
    off = ready(stops=(STOP,), lifted_before=True, rules=replace(RULES, stop_ends_loads=0))
    assert off.judge(HINGE, STOP.at.date()).may, "a squad may leave the day open"


def test_what_a_stop_locked_stays_locked_whatever_becomes_of_the_movement() -> None:
    was = replace(STOP, movement="gone", family=SQUAT.family, locked=frozenset({HINGE.code}))
    stopped = ready(stops=(was,), lifted_before=True)
    assert not stopped.judge(HINGE).may, "locked when it was made, though it never loaded the knee"
    assert not stopped.judge(replace(SQUAT, code="new", regions=())).may, "of the family it had then"
    assert not stopped.judge(replace(HINGE, code="new", regions=(Region.KNEE,))).may, "loads the place"
    assert stopped.judge(replace(HINGE, code="new", regions=())).may


def test_a_stop_shuts_the_readiness_check_too_for_those_who_never_lifted_a_bar_before() -> None:
    assert ready(stops=(STOP,)).judge(HINGE).reasons == (Reason.NOT_READY,)
    assert ready(stops=(STOP,), lifted_before=True).judge(HINGE).may


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


def test_a_readiness_check_stands_before_bars_and_a_minor_without_consent_is_let_through_by_nobody() -> None:
    assert ready(overrides={}).judge(SQUAT).reasons == (Reason.NOT_READY,)
    assert not ready(overrides={}).judge(GOBLET).has(Reason.NOT_READY)
    minor = Person(1, "Noor Visser", TODAY.replace(year=TODAY.year - 15))
    assert ready(person=minor).judge(SQUAT).reasons == (Reason.NOT_READY,)
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


def test_the_level_held_is_never_past_the_end_of_its_ladder() -> None:
    ladder = ladders()["squat_to_bar"]
    now = dt.datetime.combine(TODAY, dt.time(8))
    assert ready().level_on(ladder) is None
    assert ready(levels={ladder.code: LevelHeld(1, ladder.levels[1][0], now)}).level_on(ladder) == 1
    assert ready(levels={ladder.code: LevelHeld(99, "gone", now)}).level_on(ladder) == len(ladder.levels) - 1


def held(ladder: str, movement: str, way: str = "placed", days: int = 30) -> dict[str, LevelHeld]:
    at = dt.datetime.combine(TODAY - dt.timedelta(days=days), dt.time(8))
    return {ladder: LevelHeld(ladders()[ladder].level_of(movement) or 0, movement, at, way)}


def verdict_of(code: str, **changes: Any) -> tuple[Reason, ...]:
    return ready(**changes).judge(movements()[code]).reasons


def test_nothing_above_the_own_level_and_nothing_but_the_gentlest_for_who_is_not_placed() -> None:
    on_three = held("split_squat", "split_squat_front_raised")
    assert verdict_of("split_squat_front_raised", levels=on_three) == ()
    assert verdict_of("split_squat", levels=on_three) == (), "what lies below stays open"
    assert verdict_of("rear_raised_dumbbells", levels=on_three) == (Reason.UNEARNED,)
    assert verdict_of("split_squat_support") == (), "the gentlest level needs no placing"
    assert verdict_of("nordic") == verdict_of("rear_raised_dumbbells") == (Reason.UNEARNED,)
    obstacle = ready().judge(movements()["nordic"]).first
    assert obstacle and obstacle.unearned and obstacle.unearned.why is Short.NOT_PLACED
    above = ready(levels=on_three).judge(movements()["rear_raised_dumbbells"]).first
    assert above and above.unearned and (above.unearned.level, above.unearned.stands) == (7, 2)
    assert verdict_of("lying_curl") == (), "on no ladder"


def test_a_readiness_check_open_counts_as_its_level_until_somebody_is_moved_down() -> None:
    placed = held("squat_to_bar", "goblet_box_squat")
    assert verdict_of("back_squat") == verdict_of("goblet_squat") == ()
    assert verdict_of("back_squat", levels=placed) == ()
    assert verdict_of("back_squat", levels=held("squat_to_bar", "goblet_box_squat", "easier")) == (Reason.UNEARNED,)
    assert verdict_of("goblet_squat", levels=placed, overrides={}) == (Reason.UNEARNED,)
    assert verdict_of("romanian_deadlift") == () and verdict_of("good_morning") == (Reason.UNEARNED,)


def test_a_test_shows_a_level_until_somebody_decides_again() -> None:
    shown = {"rear_raised_dumbbells": TODAY - dt.timedelta(days=2)}
    assert verdict_of("rear_raised_dumbbells", shown=shown) == ()
    lower = held("split_squat", "split_squat")
    assert verdict_of("rear_raised_dumbbells", shown=shown, levels=lower) == ()
    moved_since = held("split_squat", "split_squat", days=1)
    assert verdict_of("rear_raised_dumbbells", shown=shown, levels=moved_since) == (Reason.UNEARNED,)
    assert verdict_of("rear_raised_one_dumbbell", shown=shown) == (Reason.UNEARNED,), "it shows nothing harder"


def test_a_minor_without_consent_has_no_level_with_a_weight() -> None:
    minor = Person(1, "Noor Visser", TODAY.replace(year=TODAY.year - 15))
    everything = held("split_squat", "rear_raised_dumbbells")
    assert verdict_of("rear_raised", person=minor, levels=everything) == ()
    obstacle = ready(person=minor, levels=everything).judge(movements()["rear_raised_dumbbells"]).first
    assert obstacle and obstacle.unearned and obstacle.unearned.why is Short.NO_CONSENT
    assert verdict_of("rear_raised_dumbbells", person=replace(minor, consent=True), levels=everything) == ()
    for code in ("lying_curl", "knee_extension", "leg_press"):
        # On no ladder and behind no readiness check: a machine all the same.
        mine = ready(person=minor, levels=everything)
        assert mine.judge(movements()[code]).has(Reason.UNEARNED), code
        assert not mine.may(code) and not mine.may_earn(code)
        assert verdict_of(code, person=replace(minor, consent=True), levels=everything) == (), code


def test_readiness_checks_have_a_scope() -> None:
    """A thrust waits for no squat shape, a pull has its own lines, a bar on the back keeps its own."""
    screened = {(code, ""): Result(1.0, TODAY) for code in ("brace", "standing_hinge")}
    on_thrusts = held("thrust", "bench_thrust_held")
    nobody = {"overrides": {}, "known": screened, "levels": on_thrusts}
    assert verdict_of("romanian_deadlift", **nobody) == verdict_of("bench_thrust_bar", **nobody) == ()
    assert verdict_of("back_squat", **nobody) == verdict_of("front_squat", **nobody) == (Reason.NOT_READY,)
    assert verdict_of("good_morning", **nobody) == (Reason.NOT_READY,), "a hinge with the bar on the back asks for both"
    for level, through in (("bench_thrust", False), ("bench_thrust_held", True)):
        assert (verdict_of("bench_thrust_bar", overrides={}, levels=held("thrust", level)) == ()) is through
    below = held("hinge", "kettlebell_deadlift")
    assert verdict_of("romanian_deadlift", overrides={}, known=screened, levels=below) == (Reason.NOT_READY,)
    assert verdict_of("romanian_deadlift", overrides={}, known={}, soundly=frozenset({ReadinessCheck.PULL})) == (
        Reason.NOT_READY,
    )
    brace = {("brace", ""): screened["brace", ""]}
    lifted = {"soundly": frozenset({ReadinessCheck.PULL}), "lately": frozenset({ReadinessCheck.PULL})}
    assert verdict_of("romanian_deadlift", overrides={}, known=brace, **lifted) == ()
    stopped = {**nobody, "stops": (replace(STOP, movement="bench_press", region="shoulder"),)}
    assert verdict_of("romanian_deadlift", **stopped) == (Reason.NOT_READY,), (
        "an open stop keeps every not ready for the bar"
    )
