"""The defaults of a session: what its minutes are counted from, and how it is ordered.

They stand apart from `rules.py` for its length alone: `Rules` has them all.
"""

from dataclasses import dataclass

from backsquat.core.rule import OWN, USUAL, rule


@dataclass(frozen=True)
class SessionRules:
    """Time, order and manner of the work of one day (rules 2.5 and 2.8)."""

    warm_up_min: float = rule(4, "General warm-up before the drills", "min", USUAL, 0, 20)
    drill_min: float = rule(2, "A warm-up drill", "min", "usual practice (2 to 4 min)", 1, 6)
    drills_most: int = rule(3, "Warm-up drills of one athlete, at most", "drills", USUAL, 0, 6)
    drill_group_share: float = rule(
        0.5, "Share of the athletes who need a drill from which everybody does it", "share", USUAL, 0.1, 1
    )
    set_up_s: float = rule(15, "Getting into position for a set and out again", "s", USUAL, 0, 60)
    side_rest_s: float = rule(20, "Between one side and the other", "s", USUAL, 0, 90)
    change_over_s: float = rule(45, "From one item to the next, its rigging apart", "s", USUAL, 0, 300)
    ramp_rest_s: float = rule(60, "After a ramp set, while plates are put on", "s", USUAL, 15, 180)
    superset_rest_s: int = rule(
        90, "After a round of a superset, at least", "s", "usual practice (75 to 120 s)", 30, 240
    )
    circuit_rest_s: int = rule(60, "After a round of a circuit, at least", "s", USUAL, 0, 240)
    superset_change_s: float = rule(10, "From one item of a superset to the next", "s", USUAL, 0, 60)
    implement_change_s: float = rule(15, "The same, besides, where another implement is taken up", "s", USUAL, 0, 120)
    supersets: str = rule(
        "apart",
        "What stands in one superset: apart = nothing that competes; same = the same muscles, the second lighter",
        "name",
        "usual practice; coaches differ",
        choices=("apart", "same"),
    )
    superset_second_share: float = rule(
        0.85,
        "First load of the second of a same-muscles superset, share of what its window gives",
        "share",
        USUAL,
        0.5,
        1,
    )
    rest_heavy_reps: int = rule(6, "Reps up to which a set near failure wants a long rest", "reps", USUAL, 1, 12)
    rest_heavy_s: int = rule(120, "Least rest after such sets", "s", USUAL, 30, 300)
    rest_bar_reps: int = rule(8, "Reps up to which a squat or hinge with a bar is heavy", "reps", USUAL, 1, 15)
    rest_bar_s: int = rule(180, "Least rest after such a set, whatever the progression", "s", USUAL, 60, 420)
    rest_least_s: int = rule(45, "Least rest after other sets", "s", USUAL, 0, 180)
    rest_most_s: int = rule(300, "Rest from which it is said to be long", "s", USUAL, 120, 900)
    wobbly_after: int = rule(
        2, "Items before a wobbly single-leg lift from which it comes too late", "items", USUAL, 1, 6
    )
    pause_s: float = rule(2, "A pause at the bottom", "s", USUAL, 1, 6)
    slow_lowering_s: float = rule(5, "A slow lowering", "s", USUAL, 3, 10)
    one_and_a_half_time: float = rule(1.7, "A one-and-a-half rep, in the time of whole ones", "reps", USUAL, 1, 2.5)
    pause_share: float = rule(0.9, "First load with a pause, as a share of the usual", "share", USUAL, 0.5, 1)
    slow_lowering_share: float = rule(0.9, "The same with a slow lowering", "share", USUAL, 0.5, 1.2)
    one_and_a_half_share: float = rule(0.8, "The same with one-and-a-half reps", "share", USUAL, 0.5, 1)
    tension_share: float = rule(0.85, "The same under constant tension", "share", USUAL, 0.5, 1)
    deficit_share: float = rule(0.9, "The same from a deficit or with the front foot raised", "share", USUAL, 0.5, 1)
    half_share: float = rule(0.9, "The same over the half range, with a pause in it", "share", USUAL, 0.5, 1.2)
    stance_shift: float = rule(0.5, "How far stance or lean shift the emphasis, each", "of −2 to 2", OWN, 0, 1)
    trial_reserve: int = rule(4, "Highest RIR of a first set that finds the load", "reps", USUAL, 1, 6)
    rack_most: int = rule(5, "Athletes who share a rack, at most, when minutes are counted", "athletes", USUAL, 1, 10)
    shelf_days: int = rule(28, "Days for which work that was skipped is offered again", "days", USUAL, 0, 120)
    part_share: float = rule(
        0.5, "Share of the planned work below which a session was done in part", "share", USUAL, 0.1, 1
    )
    reserve_or_more: int = rule(
        4, "RIR from which a set is only said to have had so many or more", "reps", "Zourdos et al. 2021", 2, 6
    )
    off_reserve: int = rule(
        2, "RIR a load leaves off what was asked, from which the sheet says it", "reps", USUAL, 1, 6
    )
    plenty_reserve: float = rule(3, "RIR from which no set is taken as missed too often", "reps", USUAL, 1, 6)
    outcome_test_days: int = rule(
        56, "Days before a block in which a jump or a sprint still counts as its start", "days", USUAL, 7, 180
    )
