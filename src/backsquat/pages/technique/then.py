"""Two dates of one athlete over each other, angles beside them, and the trend of an angle over the season."""

import datetime as dt
import math
from dataclasses import dataclass

from flask import render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.technique.distances import ON_THE_FLOOR, starting_distances
from backsquat.core.technique.still import Measure, Spot, StillKind
from backsquat.pages.request import allow, context, number, reader
from backsquat.pages.technique.phrases import DISTANCES, KINDS, SAYS, reading_words
from backsquat.pages.technique.routes import athlete_here, blueprint
from backsquat.pages.technique.stills import note_looking
from backsquat.ui.drawing.overlay import LaidOver, draw_overlay
from backsquat.ui.drawing.turning import Turning, TurnPoint, draw_turning
from backsquat.ui.phrases.technique import verdict_words
from backsquat.work.policy import Act
from backsquat.work.squad.athletes import squad_athletes
from backsquat.work.squad.consents import agreed_to_pictures
from backsquat.work.squad.lengths import bodies_of
from backsquat.work.technique.onward import due_again
from backsquat.work.technique.stills import Seen, stills_of

TRENDS = (Measure.TRUNK, Measure.SHIN, Measure.DEPTH, Measure.KNEE, Measure.REAR_HIP, Measure.LOCK_OUT)


@blueprint.get("/")
@allow(Act.SEE)
def index() -> ResponseReturnValue:
    """Everybody: when they were last seen from the side, what it said, when it is due again."""
    here = context()
    athletes = sorted(squad_athletes(reader(), here.squad.id), key=lambda one: one.name)
    ids = [one.id for one in athletes]
    seen, bodies = stills_of(reader(), ids, here.rules), bodies_of(reader(), ids, here.today)
    due, agreed = due_again(seen, here.rules), agreed_to_pictures(reader(), ids)
    lines = [(one, seen.get(one.id, []), due.get(one.id), one.id in agreed, bodies[one.id].assumed) for one in athletes]
    last = dt.date.max  # who was never seen comes after those whose next picture is due some day
    lines.sort(key=lambda line: (line[2] or last, line[0].name))
    return render_template(
        "technique/index.html", context=here, lines=lines, trunk=_trunk_words, verdicts=verdict_words, kinds=KINDS
    )


def _trunk_words(seen: Seen) -> str:
    reading = seen.measured.readings.get(Measure.TRUNK) if seen.measured else None
    return "{} ± {}°".format(*reading_words(Measure.TRUNK, reading)) if reading else ""


@dataclass(frozen=True)
class Picked:
    """Pictures to be seen together: of one kind the older and the newer, and one of another kind beside them."""

    kind: str
    same: list[Seen]
    sport: list[Seen]
    old: Seen | None
    new: Seen | None
    beside: Seen | None

    @property
    def three(self) -> list[Seen]:
        """Those there are, in the order of the table."""
        return [one for one in (self.old, self.new, self.beside) if one is not None]


def _picked(every: list[Seen]) -> Picked:
    """What was asked for; else the oldest and the newest of a kind, and the sport's own position."""
    kind = _kind(every)
    same = [one for one in every if one.still.kind == kind]
    sport = [one for one in every if one.still.kind != kind]
    new = _chosen(same, "new") or next(iter(same), None)
    olds = [one for one in same if one is not new]
    old = _chosen(olds, "old") or next(reversed(olds), None)
    ready = next((one for one in sport if one.still.kind == StillKind.READY.value), None)
    return Picked(kind, same, sport, old, new, _chosen(sport, "beside") or ready)


@blueprint.get("/<int:athlete_id>/then")
@allow(Act.LOOK)
def then(athlete_id: int) -> ResponseReturnValue:
    """`old` and `new`: the two pictures; `beside`: a third, of the sport's own position."""
    here, athlete = context(), athlete_here(athlete_id)
    agreed = athlete_id in agreed_to_pictures(reader(), [athlete_id])
    every = [one for one in stills_of(reader(), [athlete_id], here.rules).get(athlete_id, []) if one.measured]
    picked, what = _picked(every), _measure(_picked(every).same)
    seen = [one for one in picked.three if agreed and not one.still.erased_at]
    note_looking(athlete_id, bool(seen))
    return render_template(
        "technique/then.html",
        context=here,
        athlete=athlete,
        kind=picked.kind,
        kinds=KINDS,
        kinds_there=list(dict.fromkeys(one.still.kind for one in every)),
        same=picked.same,
        sport=picked.sport,
        old=picked.old,
        new=picked.new,
        beside=picked.beside,
        overlay=_overlay(picked.old, picked.new) if picked.old and picked.new and agreed else None,
        beside_svg=_overlay(picked.beside, None) if picked.beside in seen and picked.beside else None,
        table=_table(picked.three),
        what=what,
        trends=[one for one in TRENDS if any(seen.measured and one in seen.measured.readings for seen in picked.same)],
        says=SAYS,
        turning=_turning(picked.same, what),
        agreed=agreed,
        short=short_words,
        due=due_again({athlete_id: every}, here.rules).get(athlete_id),
    )


def _kind(every: list[Seen]) -> str:
    asked, there = request.args.get("kind", ""), [one.still.kind for one in every]
    return (
        asked if asked in there else StillKind.SQUAT.value if StillKind.SQUAT.value in there or not there else there[0]
    )


def _chosen(among: list[Seen], name: str) -> Seen | None:
    wanted = request.args.get(name, type=number)
    return next((one for one in among if one.still.id == wanted), None)


def _measure(same: list[Seen]) -> Measure:
    asked = request.args.get("what", "")
    there = {measure for one in same if one.measured for measure in one.measured.readings}
    return Measure(asked) if asked in {one.value for one in there} else Measure.TRUNK


def short_words(seen: Seen) -> str:
    """A picture in a few words."""
    still = seen.still
    wedge = f"{still.wedge_mm} mm" if still.wedge_mm else "flat"
    load = f", {still.load_kg:g} kg" if still.load_kg else ""
    return f"{still.taken_on.day} {still.taken_on:%b}, {wedge}{load}"


def _overlay(old: Seen, new: Seen | None) -> object:
    laid = [_laid(one) for one in (old, new) if one is not None and not one.still.erased_at]
    words = " over ".join(short_words(one) for one in (new, old) if one is not None)
    return draw_overlay([one for one in laid if one], words) if any(laid) else None


def _laid(seen: Seen) -> LaidOver | None:
    """A picture for the overlay: its ankle on the same place, its thigh of the same length, facing right."""
    points, measured = seen.points, seen.measured
    ankle, knee, hip = (points.get(spot) for spot in (Spot.ANKLE, Spot.KNEE, Spot.HIP))
    if not (ankle and knee and hip and measured):
        return None
    shank, thigh = math.dist(ankle, knee), math.dist(knee, hip)
    return LaidOver(
        url_for("technique.picture", still_id=seen.still.id),
        seen.still.width,
        seen.still.height,
        ankle,
        (shank + thigh) / 2,
        -measured.tilt.value if measured.tilt else 0.0,
        seen.still.faces_right,
        {spot.value: point for spot, point in points.items()},
    )


def _table(three: list[Seen]) -> list[tuple[str, str, list[tuple[str, str] | None]]]:
    """A row a measure that more than one has: label, unit, value and how far it may be off by picture."""
    rows = []
    for what in Measure:
        cells = [one.measured.readings.get(what) if one.measured else None for one in three]
        if any(cells):
            rows.append((SAYS[what][0], SAYS[what][1], [reading_words(what, one) if one else None for one in cells]))
    return rows


def _turning(same: list[Seen], what: Measure) -> object:
    points = [
        TurnPoint(one.still.taken_on, reading.value * share, reading.off * share, one.still.wedge_mm)
        for one in reversed(same)
        if one.measured and (reading := one.measured.readings.get(what))
        for share in (100.0 if what is Measure.DEPTH else 1.0,)
    ]
    return draw_turning(Turning(SAYS[what][0], SAYS[what][1], context().season, points)) if points else None


@blueprint.get("/<int:athlete_id>/distances")
@allow(Act.SEE)
def distances(athlete_id: int) -> ResponseReturnValue:
    """Where to start with stance, box, step and bench; on paper as marks for the floor."""
    here, athlete = context(), athlete_here(athlete_id)
    known = bodies_of(reader(), [athlete_id], here.today)[athlete_id]
    marks = starting_distances(known.body)
    return render_template(
        "technique/distances.html",
        context=here,
        athlete=athlete,
        known=known,
        marks=[(mark, *DISTANCES[mark.what]) for mark in marks],
        tape=[(mark.cm, DISTANCES[mark.what][0]) for mark in marks if mark.what in ON_THE_FLOOR],
    )
