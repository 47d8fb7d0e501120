"""A jump mat beside the screens: the best of three fills the field."""

from uuid import uuid4

from flask import jsonify, request
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.core.strength.speed import jump_height_m
from backsquat.pages.request import allow, quiet
from backsquat.pages.screen.routes import blueprint
from backsquat.pages.sensors import sensor, watcher
from backsquat.work.policy import Act

JUMPS = 3


@blueprint.post("/mat")
@allow(Act.SCREEN)
def mat_watch() -> ResponseReturnValue:
    """Jumps count from now on."""
    mat, of = sensor("mat"), f"jump-{uuid4().hex[:12]}"
    if mat is None:
        raise NotThere("sensor")
    there = mat.watch(of, watcher(), take_over="take_over" in request.form)
    holder = None if there else mat.held_by(watcher())
    return jsonify(of=of, there=there, jumps=JUMPS, held_by=holder.name if holder else "")


@blueprint.get("/mat")
@allow(Act.SCREEN)
@quiet
def mat_seen() -> ResponseReturnValue:
    """How high they were, in cm; after the last of them the mat is told that it is over."""
    mat, of = sensor("mat"), request.args.get("of", "")
    flights = ((mat.seen(of, watcher()) if mat else None) or [])[:JUMPS]
    if mat and len(flights) >= JUMPS:
        mat.end(of, watcher())
    heights = [round(100 * jump_height_m(flight), 1) for flight in flights]
    return jsonify(there=bool(mat and mat.there), heights_cm=heights, best_cm=max(heights, default=None))
