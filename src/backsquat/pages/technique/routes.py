"""Set-ups of one athlete from the side: two side by side, sliders on one of them."""

import datetime as dt
from dataclasses import asdict
from json import dumps

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.movements.movement import SetUp as SetUpField
from backsquat.core.rules import Rules
from backsquat.core.technique import body as shares
from backsquat.core.technique.body import Body, SegmentLength, ankle_of
from backsquat.core.technique.difference import differences, fixes, hinge_differences, split_differences
from backsquat.core.technique.distances import Distance, starting_distances
from backsquat.core.technique.hinge import Hinge, HingePosture, hinge_posture
from backsquat.core.technique.linkage import ELBOWS, HOLDS, HeldPosture, Posture, Squat, StandingPosture, squat_posture
from backsquat.core.technique.split import Split, SplitPosture, split_posture
from backsquat.pages.request import acting, allow, context, database, reader, said_with_undo, squad_library, wants_piece
from backsquat.pages.technique.asked import (
    HOLDS_OF,
    OF_BODY,
    PINNED,
    SLIDERS,
    Lift,
    SetUp,
    body_in,
    in_address,
    set_up_of,
)
from backsquat.pages.technique.phrases import (
    HELD,
    IGNORED,
    LENGTHS,
    LIFTS,
    ROWS,
    SLIDER,
    SPLIT_LIMIT,
    change_words,
    fix_words,
    heading,
    stands_words,
)
from backsquat.storage.models import Athlete
from backsquat.ui.drawing.linkage import MIDDLE, MIDDLE_SPLIT, PX, PX_OVERHEAD, PX_WIDE, Side, draw_linkage
from backsquat.ui.phrases.names import in_text
from backsquat.work.log.sets import last_load
from backsquat.work.policy import Act
from backsquat.work.readiness.screens import newest_results
from backsquat.work.squad.athletes import athlete_of
from backsquat.work.squad.lengths import bodies_of, keep_lengths
from backsquat.work.squad.set_ups import note_set_up, set_ups

blueprint = Blueprint("technique", __name__, url_prefix="/technique", template_folder="templates")
MOVEMENTS = {  # which movement a way of holding the load is
    HeldPosture.BACK_HIGH: "back_squat", HeldPosture.BACK_LOW: "back_squat", HeldPosture.FRONT: "front_squat",
    HeldPosture.OVERHEAD: "overhead_squat", HeldPosture.GOBLET: "goblet_squat", HeldPosture.BESIDE: "dumbbell_squat",
    HeldPosture.NOTHING: "deep_squat_hold",
}  # fmt: skip
LOAD_KG, WEDGE_MM = 20.0, 20.0  # where nothing is known
LOADS = {HeldPosture.GOBLET: "bell", HeldPosture.BESIDE: "bell", HeldPosture.NOTHING: "none"}
AnyPosture = Posture | HingePosture | SplitPosture


def athlete_here(athlete_id: int) -> Athlete:
    """An athlete of this squad."""
    return athlete_of(reader(), context().squad.id, athlete_id)


@blueprint.get("/<int:athlete_id>")
@allow(Act.SEE)
def set_up(athlete_id: int) -> ResponseReturnValue:
    """Two set-ups side by side; `was_…` is the pinned one, what the sliders say the other."""
    return _page(athlete_here(athlete_id), request.args.get("lift", ""))


def _page(athlete: Athlete, wanted: str) -> ResponseReturnValue:
    here, lift = context(), Lift(wanted) if wanted in set(Lift) else Lift.SQUAT
    known = bodies_of(reader(), [athlete.id], here.today)[athlete.id]
    body = body_in(request.args, known.body)
    was_start, now_start, ankle = _starts(athlete, lift, known.body)
    now = set_up_of(lift, request.args, now_start)
    was = now if "pin" in request.args else set_up_of(lift, request.args, was_start, PINNED)
    postures = _posture(body, was, here.rules), _posture(body, now, here.rules)
    piece = wants_piece("said") or wants_piece("sides")
    return render_template(
        f"technique/_{request.headers['HX-Target']}.html" if piece else "technique/set_up.html",
        context=here,
        athlete=athlete,
        lift=lift,
        lifts=LIFTS,
        known=known,
        body=body,
        ankle=ankle,
        now=now,
        was=was,
        pinned=in_address(was, lift, PINNED),
        headings=(heading(lift, was), heading(lift, now)),
        pictures=[
            draw_linkage(_side(posture, one, lift, key), key)
            for key, posture, one in (("was", postures[0], was), ("now", postures[1], now))
        ],
        postures=postures,
        stands=[stands_words(posture) for posture in postures],
        rows=_rows(lift, postures),
        said=_said(body, now, postures, here.rules),
        ignored=IGNORED[lift],
        sliders=SLIDERS[lift],
        slider_words=SLIDER,
        of_body=OF_BODY,
        holds=[(one.value, HELD[one]) for one in HOLDS_OF[lift]],
        length_words=LENGTHS,
        movement=_movement(now.held) if isinstance(now, Squat) else "",
        data=_data(body, here.rules) if lift is Lift.SQUAT else "",
        Lift=Lift,
    )


def _starts(athlete: Athlete, lift: Lift, body: Body) -> tuple[SetUp, SetUp, str]:
    """The two set-ups to begin with, and where the ankle's bend is from."""
    rules = context().rules
    if lift is Lift.HINGE:
        load = _load(athlete.id, "romanian_deadlift")
        return Hinge(load, close=False), Hinge(load), ""
    if lift is Lift.SPLIT:
        cm = {mark.what: float(mark.cm) for mark in starting_distances(body)}
        short = Split(HeldPosture.BESIDE, LOAD_KG, cm[Distance.SPLIT_SHORT], 0.0, -5.0, 15.0)
        return short, Split(HeldPosture.BESIDE, LOAD_KG, cm[Distance.SPLIT_LONG], 20.0, -5.0, 5.0), ""
    held = request.args.get("held", "")
    squat = HeldPosture(held) if held in set(HeldPosture) else HeldPosture.BACK_HIGH
    results = newest_results(reader(), [athlete.id], context().today).get(athlete.id, {})
    walls = [one.value for side in ("left", "right") if (one := results.get(("knee_to_wall", side)))]
    ankle = ankle_of(body, walls, rules)
    flat = Squat(squat, _load(athlete.id, MOVEMENTS[squat]), 0.0, float(round(ankle)))
    wedge = _noted_wedge(athlete.id, MOVEMENTS[squat]) or WEDGE_MM
    raised = Squat(squat, flat.load_kg, wedge, flat.ankle_deg)
    return flat, raised, f"knee to wall {min(walls):g} cm" if walls else "not measured"


def _load(athlete_id: int, movement: str) -> float:
    entry = last_load(reader(), athlete_id, movement, context().today + dt.timedelta(days=1))
    return min(float(entry.load_kg), 250.0) if entry else LOAD_KG


def _noted_wedge(athlete_id: int, movement: str) -> float | None:
    """The wedge in the athlete's own set-up of a movement, mm."""
    note = set_ups(reader(), [athlete_id]).get((athlete_id, movement), {}).get(SetUpField.WEDGE.value)
    digits = "".join(part for part in (note.value if note else "").split(" ")[0] if part.isdecimal())
    return min(float(digits), 60.0) if digits and len(digits) < 4 else None


def _posture(body: Body, set_up: SetUp, rules: Rules) -> AnyPosture:
    if isinstance(set_up, Squat):
        return squat_posture(body, set_up, rules)
    return hinge_posture(body, set_up) if isinstance(set_up, Hinge) else split_posture(body, set_up, rules)


def _side(posture: AnyPosture, set_up: SetUp, lift: Lift, key: str) -> Side:
    held = getattr(set_up, "held", None)
    load = LOADS.get(held, "plates") if held else "plates"
    load = "none" if not set_up.load_kg and load != "plates" else load
    name = f"{'Beside it' if key == 'was' else 'Looked at'}: {heading(lift, set_up)}, {stands_words(posture)}"
    path = posture.path if isinstance(posture, HingePosture) else ()
    off = isinstance(posture, Posture) and posture.standing is not StandingPosture.STANDS
    arms = {part: getattr(posture, f"{part}_arm_cm") for part in ("hip", "knee") if hasattr(posture, f"{part}_arm_cm")}
    place = (_px(held), MIDDLE, "line") if lift is Lift.SQUAT else (PX_WIDE, MIDDLE, "middle")
    if lift is Lift.SPLIT:
        place = PX_WIDE, MIDDLE_SPLIT, "middle"
    return Side(posture.points, load, name, *place, path, off, arms)


def _px(held: HeldPosture | None) -> float:
    return PX_OVERHEAD if held is HeldPosture.OVERHEAD else PX


def _rows(lift: Lift, postures: tuple[AnyPosture, AnyPosture]) -> list[tuple[str, str, str, list[float]]]:
    """Name, label, unit and both values of what the table shows."""
    times = {"front_share": 100}
    return [
        (name, label, unit, [round(getattr(one, name) * times.get(name, 1), decimals) + 0.0 for one in postures])
        for name, label, unit, decimals in ROWS[lift]
    ]


def _said(body: Body, now: SetUp, postures: tuple[AnyPosture, AnyPosture], rules: Rules) -> list[str]:
    was, after = postures
    if isinstance(was, Posture) and isinstance(after, Posture) and isinstance(now, Squat):
        lines = [change_words(change) for change in differences(was, after)]
        if after.standing is not StandingPosture.STANDS:
            lines.append(f"{stands_words(after).capitalize()}.")
        if after.spare_ankle:
            lines.append("The ankle has more than it needs: the shin stays more upright.")
        return lines + [fix_words(fix) for fix in fixes(body, now, rules)]
    if isinstance(was, HingePosture) and isinstance(after, HingePosture):
        return [change_words(change) for change in hinge_differences(was, after)]
    assert isinstance(was, SplitPosture) and isinstance(after, SplitPosture)
    if after.limit:
        return [SPLIT_LIMIT[after.limit]]
    return [change_words(change) for change in split_differences(was, after)]


def _movement(held: HeldPosture) -> str:
    """The movement a wedge can be kept for; empty where there is none."""
    found = squad_library().movements.get(MOVEMENTS[held])
    return MOVEMENTS[held] if found and SetUpField.WEDGE in found.remembered else ""


def _data(body: Body, rules: Rules) -> str:
    """Everything the browser needs to move the figure by itself; the rule is `core/technique/linkage.py`."""
    names = (
        "ANKLE_BACK",
        "BALL",
        "HEAD_UP",
        "ARM",
        "ARMS_MASS",
        "FOOT_MASS",
        "SHANK_MASS",
        "THIGH_MASS",
        "UPPER_MASS",
        "SHANK_CENTRE",
        "THIGH_CENTRE",
        "UPPER_CENTRE",
        "BACK",
        "OVER_BACK_MASS",
        "OVER_BACK_CENTRE",
        "ANKLE_UP",
    )
    return dumps(
        {
            "height": body.height_cm,
            "mass": body.mass_kg,
            "lengths": {what.value: body.length(what) for what in SegmentLength},
            "shares": {name: getattr(shares, name) for name in names},
            "holds": {held.value: asdict(hold) for held, hold in HOLDS.items()},
            "elbows": {held.value: asdict(hold) for held, hold in ELBOWS.items()},
            "rules": {
                name: getattr(rules, name) for name in ("lean_most", "fold_least", "knee_bend_most", "heels_share")
            },
            "movements": {held.value: _movement(held) for held in HeldPosture},
            "px": {held.value: _px(held) for held in HeldPosture},
            "loads": {held.value: LOADS.get(held, "plates") for held in HeldPosture},
        }
    )


@blueprint.post("/<int:athlete_id>/keep")
@allow(Act.LOG)
def keep(athlete_id: int) -> ResponseReturnValue:
    """The wedge that was found, for this athlete and movement from today on."""
    athlete = athlete_here(athlete_id)
    movement, wedge = request.form.get("movement", ""), request.form.get("wedge_mm", "")[:8]
    digits = wedge.partition(".")[0]
    value = f"{int(digits)} mm" if digits.isdecimal() and int(digits) else "flat"
    with database().writing() as db:
        note_set_up(acting(db), athlete_id, movement, SetUpField.WEDGE.value, value)
    name = squad_library().get(movement).name
    said_with_undo(f"Kept for {athlete.name}, {in_text(name)}: {value}. The floor and the card show it.", None)
    return redirect(url_for("technique.set_up", athlete_id=athlete_id, week=context().week))


@blueprint.post("/<int:athlete_id>/lengths")
@allow(Act.SCREEN)
def lengths(athlete_id: int) -> ResponseReturnValue:
    """Lengths as they were measured; an empty field is by height again."""
    athlete_here(athlete_id)
    typed = {what: request.form.get(what.value, "").strip().replace(",", ".") for what in SegmentLength}
    read = {what: None if not text else _length(text) for what, text in typed.items()}
    with database().writing() as db:
        count = keep_lengths(acting(db), athlete_id, read)
    said_with_undo(f"{count} kept." if count else "Nothing new.", None)
    return redirect(url_for("technique.set_up", athlete_id=athlete_id, week=context().week))


def _length(text: str) -> float:
    """A length as typed; what is no number is outside every bound and told so."""
    try:
        return float(text)
    except ValueError:
        return -1.0
