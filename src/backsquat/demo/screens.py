"""The demo club's screens: seeded values round each athlete's story, full battery first, a short one later."""

import random
from collections.abc import Iterator

from backsquat.core.readiness.screens import SIDES
from backsquat.demo.people import DemoPerson
from backsquat.work.readiness.screens import Value

SOUND = {  # what an athlete who lifts shows; numbers vary a little around these
    "brace": 1, "standing_hinge": 1, "toe_rock": 1, "knee_to_wall": 11.5, "feet_straight": 6, "lying_squat": 1,
    "standing_squat": 1,
    "squat_wedge": 0, "knees_track": 1, "pelvis": 0, "side_shift": 0, "deep_squat_hold": 40,
    "wall_distance": 15, "overhead_wall": 0, "trunk_landing": 32, "trunk_pickup": 38, "hip_extension": 1,
    "balance": 34, "one_leg_hinge": 0, "reach_ahead": 64, "reach_inside": 96, "reach_outside": 92, "side_squat": 42,
    "bridge_hold": 85, "jump": 33,
}  # fmt: skip
SPREAD = {
    "knee_to_wall": 1.2, "feet_straight": 2, "deep_squat_hold": 8, "trunk_landing": 4, "trunk_pickup": 4, "balance": 6,
    "reach_ahead": 2, "reach_inside": 3, "reach_outside": 3, "side_squat": 2, "bridge_hold": 12, "jump": 2.5,
}  # fmt: skip
LATER = ("knee_to_wall", "deep_squat_hold", "balance", "jump", "pelvis", "side_shift")
STORIES = {
    "Liv Aasen": {  # half-way on the road: shape is there with a wedge, load and sessions are not
        "pelvis": 1, "squat_wedge": 20, "deep_squat_hold": 22, "counterbalanced_squat": 12, "balance": 24,
        "one_leg_hinge": 1, "bridge_hold": 62, "jump": 27,
    },
    "Hanne Roos": {"counterbalanced_squat": 18, "pelvis": 1, "deep_squat_hold": 31, "jump": 29},
    "Rania Haddad": {"trunk_pickup": 52, "trunk_landing": 47},
    "Mirre Castellan": {"side_shift": 1},
    "Noor Visser": {"overhead_wall": 1},
    "Marit Holm": {"overhead_wall": 1},
}  # fmt: skip
ONE_SIDED = {  # (screen, weaker side, by how much)
    "Petra Skov": ("knee_to_wall", "left", -3.1), "Beatriz Solheim": ("side_squat", "right", 9),
    "Jorunn Petit": ("balance", "left", -13), "Liv Aasen": ("knee_to_wall", "right", -2.4),
}  # fmt: skip


def values(person: DemoPerson, screens: dict[str, bool], chance: random.Random, later: bool) -> Iterator[Value]:
    """The person's values; `screens` says which are two-sided."""
    story = STORIES.get(person.name, {})
    mass_kg = float(person.mass_kg)
    known = dict(SOUND) | {"counterbalanced_squat": round(mass_kg * 0.3)} | story
    if person.name not in ("Liv Aasen", "Hanne Roos") and not person.newcomer:
        known["witnessed_test"] = 1
    side_screen, weak, by = ONE_SIDED.get(person.name, ("", "", 0.0))
    for code, value in known.items():
        if later and code not in LATER:
            continue
        spread = SPREAD.get(code, 0)
        middle = value + (chance.gauss(0, spread) if spread and code not in story else 0)
        for side in SIDES if screens[code] else ("",):
            shown = middle + (chance.gauss(0, spread / 4) if spread else 0)
            if code == side_screen and side == weak:
                shown += by
            yield Value(code, side, max(0.0, float(round(shown, 1 if spread < 2 else 0)) if spread else float(shown)))
