"""The defaults of estimates, chances and cautions (rules 2.2)."""

from dataclasses import dataclass

from backsquat.core.rule import OWN, USUAL, rule


@dataclass(frozen=True)
class StrengthRules:
    """What is taken of a set, of people and of chance, where a squad says nothing else."""

    formula: str = rule(
        "epley",
        "Formula from a set to an estimated maximum",
        "name",
        "Epley 1985; Brzycki 1993",
        choices=("epley", "brzycki"),
    )
    reserve_cap_reps: int = rule(
        4,
        "Highest RIR that counts towards an e1RM",
        "reps",
        "Zourdos et al. 2021; Halperin et al. 2022: judged less well far from failure",
        0,
        6,
    )
    trust_good_reps: int = rule(6, "Reps plus reserve up to which an e1RM is good", "reps", USUAL, 1, 12)
    trust_fair_reps: int = rule(10, "Reps plus reserve up to which an e1RM is fair", "reps", USUAL, 1, 15)
    trust_weak_reps: int = rule(12, "Reps plus reserve up to which an e1RM counts at all", "reps", USUAL, 1, 20)
    hinge_trust_drop: int = rule(
        1, "Grades of trust a hinge loses", "grades", "LeSuer et al. 1997: formulas fit the deadlift worst", 0, 2
    )
    trust_good_weight: float = rule(1.0, "Weight of a good e1RM", "share", USUAL, 0, 1)
    trust_fair_weight: float = rule(0.6, "Weight of a fair e1RM", "share", USUAL, 0, 1)
    trust_weak_weight: float = rule(0.25, "Weight of a weak e1RM", "share", USUAL, 0, 1)
    estimate_window_days: int = rule(28, "Days of sets behind the current e1RM; older is stale", "days", USUAL, 7, 90)
    estimate_half_life_days: int = rule(14, "Days after which a session weighs half in the e1RM", "days", USUAL, 3, 90)
    estimator: str = rule(
        "belief",
        "How the current e1RM is made: belief = a filter over every set, with its width; plain = the weighted mean "
        "of the days in the window",
        "name",
        "Kalman 1960; Allik et al. 2016; our own",
        choices=("belief", "plain"),
    )
    max_drift_week: float = rule(
        0.017, "How much less sure a week makes a maximum, one spread as a share", "share", OWN, 0.002, 0.05
    )
    day_spread: float = rule(0.018, "How good and bad days differ, one spread as a share", "share", OWN, 0, 0.1)
    curve_spread: float = rule(
        0.18,
        "How people differ in reps at a share of their maximum, one spread around the formula's curve",
        "share",
        "Nuzzo et al. 2024: people differ widely; the figure is our own",
        0,
        0.5,
    )
    hinge_curve: float = rule(
        1.5, "How much wider that is for hinges", "times", "LeSuer et al. 1997: formulas fit the deadlift worst", 1, 3
    )
    reserve_bias_spread: float = rule(
        0.4,
        "How people differ in the RIR they say, one spread",
        "reps",
        "Halperin et al. 2022: about a rep; the figure is our own",
        0,
        2,
    )
    reserve_error_reps: float = rule(
        0.6, "How far off a set to failure is, one spread", "reps", "Zourdos et al. 2021; the figure is our own", 0.1, 2
    )
    reserve_error_grows: float = rule(
        0.1,
        "How much more for each rep said to be in reserve",
        "reps",
        "Zourdos et al. 2021: worse far from failure; the figure is our own",
        0,
        1,
    )
    unsaid_error_reps: float = rule(
        4.0,
        "How far off what was asked may be where a set was made and nobody said the RIR, one spread",
        "reps",
        OWN,
        1,
        10,
    )
    tired_a_set: float = rule(0.25, "Reps a set takes from the next of the same day", "reps", OWN, 0, 2)
    tired_most: float = rule(1.5, "Most of that in a day", "reps", OWN, 0, 5)
    belief_reserve_reps: int = rule(
        6,
        "Highest RIR a belief counts, ever more widely; above it a set says at least this",
        "reps",
        "Zourdos et al. 2021: worse far from failure; the figure is our own",
        0,
        10,
    )
    belief_reps: int = rule(20, "Reps from which a set says nothing about the maximum", "reps", OWN, 6, 30)
    width_good: float = rule(0.06, "Half the 80 % range, up to which an e1RM is good", "share", OWN, 0.01, 0.2)
    width_fair: float = rule(0.10, "The same for fair", "share", OWN, 0.02, 0.3)
    width_weak: float = rule(0.16, "The same for weak; wider says nothing", "share", OWN, 0.03, 0.5)
    width_ratio: float = rule(
        0.12, "How unsure a first load from another lift is, one spread as a share", "share", OWN, 0.03, 0.3
    )
    chance_work: float = rule(
        0.8, "Least chance with which the last set of planned work is made as written", "share", OWN, 0.5, 0.99
    )
    chance_test: float = rule(0.5, "The same for a test", "share", OWN, 0.2, 0.99)
    gain_newcomer: float = rule(
        0.008, "Gain a week the chance of coming weeks is worked out with, newcomer", "share", OWN, 0, 0.03
    )
    gain_trained: float = rule(0.005, "The same for others", "share", OWN, 0, 0.03)
    coarse_reps: int = rule(
        2,
        "Most reps asked over the progression's, where the room's next load is too far; and under them, at that load",
        "reps",
        USUAL,
        0,
        8,
    )
    coarse_least_reps: int = rule(4, "Fewest reps asked for the sake of a coarse step", "reps", USUAL, 1, 10)
    coarse_step: float = rule(
        0.06,
        "Step from which a room is coarse: reps grow before the load, share of what is moved",
        "share",
        OWN,
        0,
        0.3,
    )
    speed_at_max_squat: float = rule(
        0.32,
        "Mean speed at which a squat's maximum is lifted",
        "m/s",
        "Sánchez-Medina et al. 2017 (full back squat)",
        0.1,
        0.6,
    )
    speed_at_max_hinge: float = rule(0.15, "The same for a hinge", "m/s", USUAL, 0.05, 0.6)
    speed_at_max_other: float = rule(0.25, "The same for anything else on a bar", "m/s", USUAL, 0.05, 0.6)
    speed_loads: int = rule(3, "Loads from which a load–velocity line is drawn", "loads", USUAL, 3, 8)
    speed_spread: float = rule(
        0.8, "The lightest of them, at most this share of the heaviest", "share", USUAL, 0.3, 0.95
    )
    speed_drop: float = rule(
        0.2,
        "Loss of speed at which a watched set may end, where its progression says none",
        "share",
        "Pareja-Blanco et al. 2017 (20 against 40 %)",
        0.03,
        0.6,
    )
    caution_newcomer: float = rule(0.95, "Planning max as a share of the e1RM: newcomer", "share", USUAL, 0.7, 1)
    in_season_sets: float = rule(
        0.5, "Sets in season as a share; the load is kept", "share", "Bickel et al. 2011; usual practice", 0.3, 1
    )
    reach_shorter_cm: float = rule(
        5, "How much shorter a direction of lunges is that was not clean last time", "cm", USUAL, 1, 20
    )
    in_season_least_sets: int = rule(2, "Sets of a piece of work in season, at least", "sets", USUAL, 1, 4)
    return_work_weeks: int = rule(4, "Weeks back in which no deload comes", "weeks", USUAL, 0, 8)
    finding_sessions: int = rule(
        2, "Sessions on the way to the first load of a pattern never tried", "sessions", USUAL, 0, 6
    )
    finding_reserve_reps: int = rule(3, "RIR of every set so far from which that way goes on", "reps", USUAL, 0, 6)
    finding_first_share: float = rule(
        0.5, "First bell of such a pattern as a share of the load at the end of the way", "share", USUAL, 0.2, 1
    )
