"""Where the numbers of a picture go: into the screens, by the coach's word; and what they say beside the log."""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import Refused
from backsquat.core.rules import Rules
from backsquat.core.technique.still import Depth, Measure, StillKind
from backsquat.storage.models import ScreenResult, SetEntry
from backsquat.work.context import WorkContext
from backsquat.work.library.screens import screens_of
from backsquat.work.readiness.screens import Value, record_results
from backsquat.work.technique.stills import Seen, stills_of

TRUNK_OF = {StillKind.SQUAT: "trunk_squat", StillKind.LANDING: "trunk_landing", StillKind.PICKUP: "trunk_pickup"}
SHAPE, WEDGE = "standing_squat", "squat_wedge"


def values_for_screens(seen: Seen, offered: Sequence[str]) -> list[Value]:
    """What a picture says for the battery; `offered` are the screens this squad has.

    The trunk's angle in degrees for a squat, landing or pick-up; for a bare squat that is deep beyond doubt also the
    wedge it was shown with. Whether the shape held, heels, knees and pelvis with it, is for whoever looked to say.
    """
    if seen.measured is None:
        return []
    kind, found = StillKind(seen.still.kind), []
    trunk = seen.measured.readings.get(Measure.TRUNK)
    if trunk and kind in TRUNK_OF:
        found.append(
            Value(TRUNK_OF[kind], "", float(round(max(trunk.value, 0.0))), f"from a picture, ± {trunk.off:.0f}")
        )
    if kind is StillKind.SQUAT and not seen.still.load_kg and seen.measured.depth is Depth.DEEP:
        found.append(Value(WEDGE, "", float(seen.still.wedge_mm), "from a picture"))
        found.append(Value(SHAPE, "", 1.0, "from a picture: deep; heels, knees and pelvis seen by eye"))
    return [value for value in found if value.screen in offered]


def standing_results(db: Session, athlete_id: int, day: dt.date) -> dict[str, float]:
    """What the battery has of a day already."""
    rows = db.execute(
        select(ScreenResult.screen, ScreenResult.value).where(
            ScreenResult.athlete_id == athlete_id,
            ScreenResult.done_on == day,
            ~ScreenResult.replaced,
            ScreenResult.value.is_not(None),
            ScreenResult.side == "",
        )
    )
    return {screen: value for screen, value in rows if value is not None}


def send_to_screens(context: WorkContext, seen: Seen, chosen: Sequence[str]) -> list[Value]:
    """Record the chosen ones of what a picture says as screens of its day; what was recorded."""
    offered = [code for code, screen in screens_of(context.db, context.squad_id).items() if not screen.retired]
    values = [value for value in values_for_screens(seen, offered) if value.screen in chosen]
    if not values:
        raise Refused("nothing_for_screens")
    record_results(context, seen.still.athlete_id, values, seen.still.taken_on)
    return values


@dataclass(frozen=True)
class DepthDoubt:
    """Sets of the same day and movement that were logged otherwise than a picture says."""

    sets: int
    reps: int
    to_depth: int


def depth_doubt(db: Session, seen: Seen) -> DepthDoubt | None:
    """Where a picture says short, and the day's sets of that movement were logged as to depth."""
    still = seen.still
    if not still.movement or seen.measured is None or seen.measured.depth is not Depth.SHORT:
        return None
    rows = db.execute(
        select(SetEntry.reps, SetEntry.reps_to_depth).where(
            SetEntry.athlete_id == still.athlete_id,
            SetEntry.movement == still.movement,
            SetEntry.done_on == still.taken_on,
            SetEntry.standing,
            SetEntry.reps > 0,
        )
    ).all()
    deep = [(reps, depth) for reps, depth in rows if depth]
    return DepthDoubt(len(deep), sum(reps for reps, _ in deep), sum(depth for _, depth in deep)) if deep else None


def verdicts_of(db: Session, athlete_id: int, rules: Rules) -> dict[tuple[dt.date, str], Depth]:
    """What pictures say of the depth of a day's movement, the newest of a day."""
    return {
        (one.still.taken_on, one.still.movement): one.measured.depth
        for one in reversed(stills_of(db, [athlete_id], rules).get(athlete_id, []))
        if one.still.movement and one.measured and one.measured.depth
    }


def due_again(seen: Mapping[int, Sequence[Seen]], rules: Rules) -> dict[int, dt.date]:
    """The day on which each athlete's next picture is due: a while after the newest."""
    return {
        athlete_id: rows[0].still.taken_on + dt.timedelta(days=rules.still_retest_days)
        for athlete_id, rows in seen.items()
        if rows
    }
