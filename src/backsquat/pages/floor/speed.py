"""A sensor on the bar, watched from the floor: a set begins, its reps so far, its end."""

from uuid import uuid4

from flask import jsonify, request
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.core.numbers import read_decimal
from backsquat.core.strength.speed import drop_share, ends_at
from backsquat.pages.floor.routes import blueprint
from backsquat.pages.request import actor, allow, clock, membership, quiet, reader, squad_library, squad_rules
from backsquat.pages.sensors import sensor, watcher
from backsquat.work.log.estimates import current_values
from backsquat.work.plan.cells import movement_of
from backsquat.work.policy import Act, only_own
from backsquat.work.sessions.blocks import cell_of


@blueprint.post("/cells/<int:cell_id>/watch")
@allow(Act.LOG_OWN)
def watch(cell_id: int) -> ResponseReturnValue:
    """A set of this cell is watched from now on. `load_kg` says what is on the bar; a real sensor need not know."""
    cell, exercise, _block = cell_of(reader(), membership().squad_id, cell_id)
    only_own(actor(), cell.athlete_id)
    bar = sensor("bar")
    if bar is None:
        raise NotThere("sensor")
    try:
        load_kg = float(read_decimal(request.form.get("load_kg", "0") or "0"))
    except ValueError:
        load_kg = 0.0
    of = f"{cell.id}-{uuid4().hex[:12]}"
    movement = movement_of(squad_library(), exercise, cell).code
    known = current_values(reader(), [cell.athlete_id], movement, clock().today(), squad_rules()).get(cell.athlete_id)
    me, load_kg = watcher(), min(max(load_kg, 0.0), 999.0)
    taken = "take_over" in request.form
    there = bar.watch(of, me, load_kg=load_kg, about_kg=known.max_kg if known else 0.0, take_over=taken)
    holder = None if there else bar.held_by(me)
    if holder is None:
        return jsonify(of=of, there=there)
    may_take = me.may_take_from(holder)
    return jsonify(of="", there=True, held_by=holder.name if may_take else "somebody else", may_take=may_take)


@blueprint.get("/watch")
@allow(Act.LOG_OWN)
@quiet
def watched() -> ResponseReturnValue:
    """The reps of a watched set so far; `over`: the rep at which it is over by its drop."""
    bar, of = sensor("bar"), request.args.get("of", "")
    only_own(actor(), _athlete_of(of))
    speeds = (bar.seen(of, watcher()) if bar else None) or []
    limit = request.args.get("drop", 0.2, type=float)
    over = ends_at(speeds, limit) if 0 < limit < 1 else None
    heard_s = bar.heard_s if bar else None
    return jsonify(
        there=bool(bar and bar.there),
        speeds=speeds,
        drop=round(drop_share(speeds), 3),
        over=over,
        heard_s=None if heard_s is None else round(heard_s),
    )


@blueprint.post("/watch/end")
@allow(Act.LOG_OWN)
def watch_ends() -> ResponseReturnValue:
    """The set is over."""
    bar, of = sensor("bar"), request.form.get("of", "")
    only_own(actor(), _athlete_of(of))
    if bar:
        bar.end(of, watcher())
    return "", 204


def _athlete_of(of: str) -> int:
    """Whose set is watched, by the name it was given here."""
    number = of.split("-")[0]
    if not number.isdecimal() or len(number) > 15:
        raise NotThere("set")
    return cell_of(reader(), membership().squad_id, int(number))[0].athlete_id
