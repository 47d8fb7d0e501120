"""The defaults of a season: what matches leave of the days around them, how sure milestones are (rules 2.9).

They stand apart from `rules.py` for its length alone: `Rules` has them all.
"""

from dataclasses import dataclass

from backsquat.core.rule import OWN, USUAL, rule

FITTED = "our own, fitted on made-up athletes: docs/simulations.md"


@dataclass(frozen=True)
class SeasonRules:
    """Days of matches, and the weeks around them."""

    match_none_before: int = rule(1, "Days before a match without work for the legs", "days", USUAL, 0, 3)
    match_light_before: int = rule(2, "Days before a match from which that work is light at most", "days", USUAL, 0, 4)
    match_best_from: int = rule(3, "Days before a match from which the heaviest work is best done", "days", USUAL, 1, 6)
    match_best_to: int = rule(4, "Days before a match up to which it is", "days", USUAL, 1, 7)
    match_after: str = rule(
        "light",
        "Work for the legs on the day after a match: none, light, or as planned",
        "name",
        "usual practice (none or light)",
        choices=("none", "light", "planned"),
    )
    match_after_away: str = rule(
        "none",
        "The same after a match away, from which the squad comes home late",
        "name",
        USUAL,
        choices=("none", "light", "planned"),
    )
    matches_short: int = rule(
        2, "Matches in a week from which there is one short session and no more", "matches", USUAL, 2, 4
    )
    taper_weeks: int = rule(
        1,
        "Weeks before a match that counts in which the loads stay and the sets go to about half; 0: none",
        "weeks",
        "Pritchard et al. 2015, Travis et al. 2020 (one to two)",
        0,
        2,
    )
    camp_legs: str = rule(
        "light",
        "Work for the legs on the days of a camp: none, light, or as planned",
        "name",
        USUAL,
        choices=("none", "light", "planned"),
    )
    tests_none_before: int = rule(1, "Days before days of tests without work for the legs", "days", USUAL, 0, 3)
    tests_light_before: int = rule(
        2, "Days before days of tests from which that work is light at most", "days", USUAL, 0, 4
    )
    match_long_min: int = rule(
        40, "Minutes played from which the next session is proposed easier", "minutes", USUAL, 10, 90
    )
    match_long_days: int = rule(2, "Days after a match within which that is", "days", USUAL, 1, 4)
    move_cost: float = rule(
        2.0,
        "What moving a session costs: 1 is a heaviest session that is not on the best days, 6 one on a light day",
        "index",
        OWN,
        0,
        10,
    )
    outcome_share: float = rule(
        0.02, "Share by which a maximum must differ after a block to have risen or fallen", "share", USUAL, 0, 0.1
    )
    block_power_weeks: int = rule(4, "Power and jumps before the match that counts", "weeks", USUAL, 1, 8)
    block_strength_least: int = rule(4, "A strength block, at least", "weeks", USUAL, 2, 12)
    block_strength_most: int = rule(8, "A strength block, or one in season, at most", "weeks", USUAL, 2, 16)
    block_base_most: int = rule(12, "A base in stages, at most", "weeks", "usual practice (9 to 12)", 2, 20)
    growth_fast_cm: float = rule(
        0.6,
        "Growth of a month from which the young are planned with caution",
        "cm",
        "Kemper et al. 2015; approximate, and no measure of maturity",
        0.3,
        2,
    )
    growth_error_cm: float = rule(0.5, "Growth that may be nothing but measuring", "cm", USUAL, 0, 2)
    growth_apart_days: int = rule(56, "Days between two heights from which growth is read", "days", USUAL, 28, 180)
    growth_old_days: int = rule(120, "Days after which a height says nothing of today", "days", USUAL, 30, 365)
    caution_growing: float = rule(
        0.95,
        "Planning max as a share of the e1RM while somebody grows fast: technique before load, no new maximum",
        "share",
        USUAL,
        0.7,
        1,
    )
    range_scatter: float = rule(
        1.0, "Scatter of weeks about a trend by which a target is reached earlier or later", "scatters", FITTED, 0, 3
    )
    scatter_least: float = rule(
        0.01, "Least scatter that is reckoned with, share of the value", "share", FITTED, 0, 0.05
    )
