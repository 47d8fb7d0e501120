"""The demo club's pictures: figures drawn from the linkage, marked as a coach would, some way off the true points."""

import datetime as dt
import random
from collections.abc import Callable
from dataclasses import dataclass, field

from backsquat.core.technique.body import Body, SegmentLength
from backsquat.core.technique.linkage import HeldPosture, Squat, squat_posture
from backsquat.core.technique.still import SPOTS, StillKind
from backsquat.devices.drawn import Shot, draw
from backsquat.formats.pictures import picture_of
from backsquat.work.context import WorkContext
from backsquat.work.squad.lengths import bodies_of, keep_lengths
from backsquat.work.technique.stills import StillFacts, add_still, mark_still, say_pictures

AGREED = {  # who agreed, and who said so
    "Liv Aasen": "K. Aasen, mother", "Hanne Roos": "Hanne Roos", "Marit Holm": "Marit Holm",
    "Rania Haddad": "Rania Haddad",
}  # fmt: skip
OFF_PX = 2.0  # how far the coach's clicks are off, one standard deviation


@dataclass(frozen=True)
class Look:
    """One picture to make: of whom, how many days ago, what is in it, and how the camera stood."""

    name: str
    ago: int
    kind: StillKind
    squat: Squat
    movement: str = ""
    shot: Shot = field(default_factory=Shot)
    note: str = ""
    marked: bool = True


LOOKS = (  # from wedge to flat over the autumn; beside it the squad's own ready stance
    Look(
        "Liv Aasen",
        70,
        StillKind.SQUAT,
        Squat(HeldPosture.NOTHING, wedge_mm=30, ankle_deg=29, depth_deg=-1),
        "deep_squat_hold",
    ),
    Look(
        "Liv Aasen",
        42,
        StillKind.SQUAT,
        Squat(HeldPosture.NOTHING, wedge_mm=20, ankle_deg=32, depth_deg=7),
        "deep_squat_hold",
        Shot(tilt_deg=3.0),
    ),
    Look(
        "Liv Aasen",
        4,
        StillKind.SQUAT,
        Squat(HeldPosture.NOTHING, wedge_mm=0, ankle_deg=36, depth_deg=8),
        "deep_squat_hold",
        Shot(faces_right=False),
    ),
    Look(
        "Liv Aasen",
        4,
        StillKind.READY,
        Squat(HeldPosture.NOTHING, ankle_deg=24, depth_deg=-42, shin_share=0.8),
        note="ready stance in the hall",
    ),
    Look(
        "Marit Holm", 28, StillKind.SQUAT, Squat(HeldPosture.BACK_HIGH, 85, 0, 36, 6), "back_squat", Shot(plate_cm=45.0)
    ),
    Look(
        "Rania Haddad", 21, StillKind.LANDING, Squat(HeldPosture.NOTHING, ankle_deg=28, depth_deg=-38, shin_share=0.7)
    ),
    Look("Hanne Roos", 55, StillKind.SQUAT, Squat(HeldPosture.GOBLET, 16, 10, 33, 2), "goblet_squat"),
    Look(
        "Hanne Roos",
        1,
        StillKind.SQUAT,
        Squat(HeldPosture.BACK_HIGH, 20, 0, 34, 5),
        "back_squat",
        Shot(plate_cm=45.0, tilt_deg=-2.0),
        "first with the bar; points not placed yet",
        False,
    ),
)


def look_from_the_side(on: Callable[[dt.date, int], WorkContext], today: dt.date, id_of: Callable[[str], int]) -> None:
    """Consent first, then pictures of some, all but one of them measured."""
    for name, by in AGREED.items():
        say_pictures(on(today - dt.timedelta(days=75), 17), id_of(name), True, by)
    keep_lengths(on(today - dt.timedelta(days=70), 17), id_of("Liv Aasen"), {SegmentLength.THIGH: 43.0})
    chance = random.Random(17)
    for look in LOOKS:
        athlete_id, day = id_of(look.name), today - dt.timedelta(days=look.ago)
        at = on(day, 17)
        body = bodies_of(at.db, [athlete_id], day)[athlete_id].body
        _take(at, athlete_id, look, body, chance)


def _take(context: WorkContext, athlete_id: int, look: Look, body: Body, chance: random.Random) -> None:
    drawn = draw(squat_posture(body, look.squat, context.rules).points, look.shot)
    made = picture_of(drawn.content)
    facts = StillFacts(
        look.kind,
        context.today,
        look.shot.faces_right,
        made.content,
        made.width,
        made.height,
        look.movement,
        int(look.squat.wedge_mm),
        look.squat.kg,
        look.note,
    )
    still = add_still(context, athlete_id, facts)
    if look.marked:
        near = {
            spot: (x + chance.gauss(0, OFF_PX), y + chance.gauss(0, OFF_PX))
            for spot, (x, y) in drawn.points.items()
            if spot in SPOTS[look.kind]
        }
        mark_still(context, still.id, near, look.shot.plate_cm)
