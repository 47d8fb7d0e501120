"""Every default of the job: its value, unit, meaning, bounds and source, in one place.

A squad changes a default by storing another value under its name; `with_changes` makes the
squad's rules from those. `docs/RULES.md` has a line for each, and a test compares the two.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, fields, replace
from typing import Any

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.numbers import read_decimal
from backsquat.core.rule import INDEX, OWN, USUAL, YES_NO, rule
from backsquat.core.season_rules import SeasonRules
from backsquat.core.session_rules import SessionRules
from backsquat.core.strength_rules import StrengthRules
from backsquat.core.technique_rules import TechniqueRules

AWAY = "usual practice, after what CSCCa and NSCA 2019 say of conditioning"  # of lifting they bound days and volume


@dataclass(frozen=True)
class Rules(TechniqueRules, SeasonRules, SessionRules, StrengthRules):
    """The named defaults, one table of five parts; a field's metadata says what it means and where it comes from."""

    rise_a_week_newcomer: float = rule(0.05, "Most the implied max may rise a week, newcomer", "share", USUAL, 0, 0.1)
    rise_a_week_trained: float = rule(0.025, "Most the implied max may rise a week, others", "share", USUAL, 0, 0.1)
    step_cap: float = rule(0.10, "Most one step at the same reps may be", "share", "ACSM 2009", 0.01, 0.2)
    catch_up: float = rule(
        0.05,
        "Most a climb goes in one step where the last load leaves plenty: after an eased session, with tiny plates",
        "share",
        "ACSM 2009 (2 to 10 % a step)",
        0,
        0.1,
    )
    catch_up_reps: int = rule(2, "RIR beyond the progression's that is plenty", "reps", USUAL, 1, 6)
    step_least: float = rule(
        0.01, "Least step that counts as one, share of the load: rooms with tiny plates", "share", USUAL, 0, 0.05
    )
    wave_step_least: float = rule(
        0.015,
        "Least step of a planning max from wave to wave, share of it: rooms with tiny plates",
        "share",
        OWN,
        0,
        0.05,
    )
    ratio_first_week: float = rule(
        0.9, "First load of a movement never tested, as a share of what its ratio gives", "share", USUAL, 0.6, 1
    )
    ratio_reps: int = rule(
        8, "Reps at which a ratio is said of the load, for movements that carry the body", "reps", USUAL, 3, 15
    )
    open_decisions: str = rule(
        "hold",
        "A decision nobody has answered: hold = the floor offers its lower number until it is; say = only says so",
        "name",
        USUAL,
        choices=("hold", "say"),
    )
    ask_repeats: int = rule(0, "Ask also about proposals that only repeat the published number", YES_NO, USUAL, 0, 1)
    keep_years: float = rule(
        3,
        "Years after somebody was put away until their data should be erased",
        "years",
        "local law comes first",
        0.5,
        30,
    )
    correct_pain_min: int = rule(
        10, "Minutes in which anyone who reported pain may still correct the report", "min", USUAL, 0, 60
    )
    missed_days: int = rule(21, "Days back in which a missed session waits for the coach", "days", USUAL, 7, 60)
    missed_ease_load: float = rule(
        0.95,
        "Load of the first session after an eased missed one, as a share",
        "share",
        "as after 8 to 14 days",
        0.7,
        1,
    )
    missed_ease_sets: float = rule(0.5, "Its sets, as a share", "share", "as after 8 to 14 days", 0.3, 1)
    doubt_body_masses: float = rule(
        3.5,
        "Maximum from which a set is asked about, in body masses; twice that on machines and thrusts",
        "body masses",
        USUAL,
        1.5,
        8,
    )
    doubt_over_best: float = rule(0.25, "How far over the best on record a set is asked about", "share", USUAL, 0.05, 1)
    pain_stop_level: int = rule(4, "Pain from which a movement is stopped", "of 10", USUAL, 1, 10)
    stop_ends_loads: int = rule(1, "After a stop nothing with a load for the rest of that day", YES_NO, USUAL, 0, 1)
    pain_ease_load: float = rule(
        0.9,
        "Next load after dull pain under the line, as a share; an easier version serves as well",
        "share",
        USUAL,
        0.5,
        1,
    )
    no_discomfort: int = rule(0, "Any pain at all stops the movement", YES_NO, USUAL, 0, 1)
    trend_points: int = rule(6, "Weeks with a record before a trend is judged", "weeks", USUAL, 3, 20)
    milestone_near: float = rule(
        0.98, "Share of a milestone that must be believed in the week whose best set reaches it", "share", OWN, 0.8, 1
    )
    trend_interval: float = rule(
        0.8,
        "Share of chance covered by the range of a trend",
        "share",
        "Sen 1968; the share is usual practice",
        0.5,
        0.95,
    )
    adult_age_years: int = rule(18, "Age under which a guardian must consent", "years", "local law may differ", 14, 21)
    earned_sessions: int = rule(
        2, "Clean sessions in a row at the level's criterion that earn the next level", "sessions", USUAL, 1, 6
    )
    earned_pain: int = rule(2, "Most pain a session may note and still earn", "of 10", USUAL, 0, 3)
    readiness_check_wedge_mm: int = rule(
        20, "Highest heel wedge with which the squat shape passes the readiness check", "mm", USUAL, 0, 50
    )
    readiness_check_grade: int = rule(
        1, "Worst grade of pelvis and side shift that passes the readiness check", "grade", USUAL, 0, 2
    )
    readiness_check_hold_s: int = rule(15, "Held deep squat that passes the readiness check", "s", USUAL, 5, 120)
    readiness_check_counterbalance_share: float = rule(
        0.25, "Weight of 3 × 10 counterbalanced squats that passes, as a share of body mass", "share", USUAL, 0, 1
    )
    readiness_check_sessions: int = rule(
        8, "Sessions on the road to the bar that pass the readiness check", "sessions", USUAL, 2, 40
    )
    road_items: int = rule(3, "Movements a session on the road to the bar, at most", "movements", USUAL, 1, 6)
    road_sets: int = rule(3, "Sets of a movement a session on the road to the bar, at most", "sets", USUAL, 1, 6)
    road_sets_day: int = rule(12, "Hard sets a day on the road to the bar, at most", "sets", USUAL, 3, 40)
    readiness_check_weeks: int = rule(4, "Weeks those sessions must span", "weeks", USUAL, 1, 26)
    wedge_allowed: int = rule(1, "A heel wedge may be lent", YES_NO, "usual practice; coaches differ", 0, 1)
    wedge_checks: int = rule(2, "Checks in a row that must hold before the wedge is lowered", "checks", USUAL, 1, 6)
    ankle_short_cm: float = rule(9, "Knee-to-wall distance under which an ankle counts as short", "cm", USUAL, 4, 15)
    side_note: float = rule(
        0.10, "Left/right difference from which it is noted, share of the better side", "share", USUAL, 0.02, 0.5
    )
    side_act: float = rule(
        0.15,
        "Left/right difference from which the weaker side goes first and the stronger matches its reps",
        "share",
        USUAL,
        0.05,
        0.6,
    )
    retest_days: int = rule(28, "Days until a screen is due again", "days", USUAL, 7, 180)
    sport_knee_strain: int = rule(
        2,
        "How much the sport itself loads the front of the knee",
        "0 to 3",
        "usual practice: braking, turning, landing",
        0,
        3,
    )
    sport_groin_strain: int = rule(
        2, "How much the sport itself loads the groin", "0 to 3", "usual practice: turning, striking", 0, 3
    )
    upright_first: int = rule(
        0, "Upright squats lead; no: back-loaded ones do", YES_NO, "usual practice; coaches differ", 0, 1
    )
    absence_short_days: int = rule(8, "Days away from which loads come down", "days", USUAL, 3, 21)
    absence_long_days: int = rule(15, "Days away from which they come down further, a stage back", "days", USUAL, 8, 42)
    absence_screen_days: int = rule(29, "Days away after which the athlete is screened again", "days", USUAL, 15, 90)
    absence_short_load: float = rule(0.95, "Load after a short absence, as a share", "share", USUAL, 0.5, 1)
    absence_long_load: float = rule(0.90, "Load after a long absence, as a share", "share", USUAL, 0.5, 1)
    absence_fall_week: float = rule(
        0.015,
        "Load lost for each further week away after that (`absence_screen_days`), as a share",
        "share",
        "usual practice, after Bosquet et al. 2013",
        0,
        0.05,
    )
    absence_least_load: float = rule(0.7, "Load after the longest absence, as a share", "share", USUAL, 0.4, 1)
    absence_more_days: int = rule(14, "Further days away that make the way back a week longer", "days", USUAL, 7, 60)
    return_volume_1: float = rule(0.5, "Sets in the first week back, as a share", "share", AWAY, 0.2, 1)
    return_volume_2: float = rule(0.7, "Sets in the second week back, as a share", "share", AWAY, 0.2, 1)
    return_volume_3: float = rule(0.8, "Sets in the third week back, as a share", "share", AWAY, 0.2, 1)
    sets_hamstrings_low: int = rule(6, "Hard sets a week: hamstrings, at least", "sets", USUAL, 0, 40)
    sets_hamstrings_high: int = rule(12, "Hard sets a week: hamstrings, at most", "sets", USUAL, 0, 60)
    sets_quads_low: int = rule(8, "Hard sets a week: quads, at least", "sets", USUAL, 0, 40)
    sets_quads_high: int = rule(16, "Hard sets a week: quads, at most", "sets", USUAL, 0, 60)
    sets_glutes_low: int = rule(8, "Hard sets a week: glutes, at least", "sets", USUAL, 0, 40)
    sets_glutes_high: int = rule(16, "Hard sets a week: glutes, at most", "sets", USUAL, 0, 60)
    sets_adductors_low: int = rule(3, "Hard sets a week: adductors, at least", "sets", USUAL, 0, 40)
    sets_adductors_high: int = rule(8, "Hard sets a week: adductors, at most", "sets", USUAL, 0, 60)
    sets_calves_low: int = rule(4, "Hard sets a week: calves, at least", "sets", USUAL, 0, 40)
    sets_calves_high: int = rule(10, "Hard sets a week: calves, at most", "sets", USUAL, 0, 60)
    helper_share: float = rule(0.5, "How far a set counts for a helping muscle", "share", USUAL, 0, 1)
    squat_hamstrings: float = rule(
        0,
        "How far a squat counts for the hamstrings: they lengthen at the hip while they shorten at the knee",
        "share",
        "usual practice; coaches differ",
        0,
        1,
    )
    hard_within_reps: int = rule(4, "Highest RIR of a set that still counts as a hard one", "reps", USUAL, 0, 8)
    unloaded_relative: float = rule(
        0.6, "Load as a share of the max, of what has none: body weight, bands, levels", "share", INDEX, 0.2, 1
    )
    posterior_days: int = rule(2, "Days a week with a hinge, a curl or a thrust, at least", "days", USUAL, 0, 6)
    hinge_sets_usual: int = rule(
        3, "Hard sets of hinges that never touch the floor, in one session, usually", "sets", USUAL, 1, 12
    )
    hinge_sets_session: int = rule(
        4, "Hard sets of hinges that never touch the floor, in one session, at most", "sets", USUAL, 1, 12
    )
    back_session: float = rule(16, "Lower-back index of a session, at most", "index", INDEX, 4, 60)
    back_week: float = rule(40, "Lower-back index of a week, at most", "index", INDEX, 8, 200)
    back_high_day: float = rule(
        12, "Lower-back index from which a day is a high one; two running are flagged", "index", INDEX, 4, 60
    )
    back_target_low: float = rule(
        0,
        "Lower-back index of a week, at least; 0: no target",
        "index",
        "usual practice; some coaches train it directly",
        0,
        60,
    )
    last_squat_share: float = rule(
        0.85,
        "First load of a squat placed last in the session, as a share of what its window gives",
        "share",
        USUAL,
        0.6,
        1,
    )
    place_balance_s: float = rule(
        20, "Balance on the worse leg from which the first levels need no support", "s", USUAL, 5, 60
    )
    place_bridge_s: float = rule(60, "Bridge hold from which thrusts start on the bench", "s", USUAL, 10, 180)
    variant_lean_deg: float = rule(
        45,
        "Trunk from upright in landing or pick-up, from which an athlete counts as leaning",
        "degrees",
        USUAL,
        20,
        80,
    )
    variant_rig_s: int = rule(120, "Seconds to rig a movement from which that speaks against it", "s", USUAL, 30, 600)
    variant_skill: int = rule(4, "Skill up to which a movement is easy enough to learn", "1 to 5", USUAL, 1, 5)
    variant_skill_newcomer: int = rule(3, "The same for newcomers", "1 to 5", USUAL, 1, 5)
    proven_sessions: int = rule(
        8, "Days with clean sets in the log from which a lift is proven: no beginner's level", "days", USUAL, 3, 60
    )
    proven_days: int = rule(365, "How far back the log is looked at for that", "days", USUAL, 60, 1000)
    watch_days: int = rule(14, "Days for which pain under the line stays on the physio's list", "days", USUAL, 3, 60)
    flags_needed: int = rule(2, "Red flags together that ask for a deload week", "flags", USUAL, 1, 4)
    flag_misses: int = rule(
        2, "Missed sessions of the days before (`flag_misses_days`) that are a red flag", "sessions", USUAL, 1, 7
    )
    flag_misses_days: int = rule(7, "Days of sessions in which misses are counted together", "days", USUAL, 3, 28)
    flag_low_score: float = rule(
        2.5,
        "Check-in up to which it is low: mean of sleep, and of soreness and stress turned round, 1 to 5",
        "points",
        USUAL,
        1,
        5,
    )
    flag_low_times: int = rule(3, "Low check-ins that are a red flag", "check-ins", USUAL, 1, 10)
    flag_days: int = rule(14, "Days of check-ins looked at, and how far back an e1RM is compared", "days", USUAL, 7, 42)
    flag_back_rise: int = rule(
        2, "Rise of the lower back's soreness over three check-ins that is a red flag", "points of 10", USUAL, 1, 10
    )
    flag_estimate_drop: float = rule(0.05, "Fall of a main lift's e1RM that is a red flag", "share", USUAL, 0.01, 0.3)
    strain_week: float = rule(
        70,
        "Strain of a week on knee or groin (sets × 0 to 3), at most, in a sport that asks nothing of it",
        "index",
        INDEX,
        10,
        200,
    )
    strain_sport: float = rule(
        10, "How much of that each grade of the sport's own strain takes away", "index", INDEX, 0, 40
    )


@dataclass(frozen=True)
class RuleLine:
    """One default as a coach reads it on the rules page."""

    name: str
    value: Any
    default: Any
    meaning: str
    unit: str
    source: str
    low: float | None
    high: float | None
    choices: tuple[str, ...]


def lines(rules: Rules) -> Iterator[RuleLine]:
    """Every rule with its value for a squad and everything said about it."""
    for item in fields(Rules):
        yield RuleLine(item.name, getattr(rules, item.name), item.default, **item.metadata)


def parse(name: str, text: str) -> str | int | float:
    """Read a coach's value for the rule `name`; raises ImpossibleInput with the bounds."""
    line = next((line for line in lines(Rules()) if line.name == name), None)
    if line is None:
        raise ImpossibleInput(Problem("name", "unknown_rule", {"name": name}))
    if line.choices:
        if text not in line.choices:
            raise ImpossibleInput(Problem("value", "not_a_choice", {"choices": ", ".join(line.choices)}))
        return text
    try:
        typed = read_decimal(text)
        if isinstance(line.default, int) and typed % 1:
            raise ValueError
        value: int | float = type(line.default)(typed)
    except ValueError:
        whole = isinstance(line.default, int)
        raise ImpossibleInput(Problem("value", "not_whole" if whole else "not_a_number")) from None
    if not ((line.low is None or value >= line.low) and (line.high is None or value <= line.high)):
        raise ImpossibleInput(Problem("value", "out_of_range", {"low": line.low or 0, "high": line.high or 0}))
    return value


def with_changes(changes: Mapping[str, Any]) -> Rules:
    """The squad's rules: the defaults with its own values in place; unknown names are left out."""
    known = {item.name for item in fields(Rules)}
    return replace(Rules(), **{name: value for name, value in changes.items() if name in known})
