"""Pictures of one athlete: taken in, marked, read, sent on to the screens, erased."""

from dataclasses import replace
from typing import Any

from flask import Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.technique.still import SPOTS, Measure, Spot, StillKind, measure
from backsquat.devices.pose import NotFound, suggest
from backsquat.formats.pictures import BYTES_MOST, picture_of
from backsquat.pages.request import (
    acting,
    actor,
    allow,
    context,
    database,
    forget_reader,
    own_athlete,
    reader,
    said_with_undo,
    settings,
    squad_library,
    takes,
)
from backsquat.pages.technique.forms import StillForm
from backsquat.pages.technique.phrases import KINDS, SAYS, SPOT_HELP, lock_out_words, reading_words
from backsquat.pages.technique.phrases import SPOTS as SPOT_WORDS
from backsquat.pages.technique.routes import athlete_here, blueprint
from backsquat.storage.models import Athlete
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.problems import problem_words
from backsquat.ui.phrases.technique import STANDARDS, verdict_words
from backsquat.work.library.screens import screens_of
from backsquat.work.policy import Act
from backsquat.work.squad.athletes import athlete_of
from backsquat.work.squad.consents import agreed_to_pictures
from backsquat.work.technique.onward import (
    depth_doubt,
    due_again,
    send_to_screens,
    standing_results,
    values_for_screens,
)
from backsquat.work.technique.stills import (
    Seen,
    StillFacts,
    add_still,
    erase_still,
    log_looking,
    mark_still,
    pixels_of,
    placed,
    put_on_card,
    say_pictures,
    still_of,
    stills_of,
    taken_of,
)

PLATES_CM = (45.0, 40.0, 35.0, 32.5, 23.0)
SHOWN_MOST = 24


@blueprint.get("/<int:athlete_id>/stills")
@allow(Act.LOOK)
def stills(athlete_id: int) -> ResponseReturnValue:
    """Everything there is of one athlete, and the way to add one."""
    return _list(athlete_here(athlete_id))


def _list(athlete: Athlete, form: StillForm | None = None, status: int = 200) -> ResponseReturnValue:
    here = context()
    seen = stills_of(reader(), [athlete.id], here.rules).get(athlete.id, [])
    agreed = agreed_to_pictures(reader(), [athlete.id]).get(athlete.id)
    note_looking(athlete.id, any(not one.still.erased_at for one in seen) and agreed is not None)
    page = render_template(
        "technique/stills.html",
        context=here,
        athlete=athlete,
        agreed=agreed,
        seen=seen[:SHOWN_MOST],
        more=max(len(seen) - SHOWN_MOST, 0),
        due=due_again({athlete.id: seen}, here.rules).get(athlete.id),
        form=form or _form({"taken_on": here.today, "wedge_mm": _newest_wedge(seen)}),
        kinds=KINDS,
        says=says_of,
        verdicts=verdict_words,
    )
    return page, status


def _newest_wedge(seen: list[Seen]) -> int:
    return next((one.still.wedge_mm for one in seen), 0)


def _form(data: dict[str, Any] | None = None) -> StillForm:
    names = [(one.code, one.name) for one in squad_library().in_use()]
    extra = {} if request.method == "POST" else {"formdata": None}
    return StillForm(context().today, data=data, **extra).with_movements(names)


def note_looking(athlete_id: int, something: bool) -> None:
    """Who looked; not where there was nothing to see, and not the athlete."""
    if something and own_athlete() is None:
        with database().writing() as db:
            log_looking(acting(db), athlete_id)
        forget_reader()


def says_of(seen: Seen) -> list[tuple[Measure, str, str, str, str]]:
    """Measure, label, value, how far it may be off, unit."""
    if seen.measured is None:
        return []
    return [
        (what, SAYS[what][0], *reading_words(what, one), SAYS[what][1]) for what, one in seen.measured.readings.items()
    ]


@blueprint.post("/<int:athlete_id>/pictures-agreed")
@allow(Act.KEEP_ATHLETES)
def agreed(athlete_id: int) -> ResponseReturnValue:
    """Consent to pictures given; or withdrawn, which erases them."""
    athlete, withdrawn = athlete_here(athlete_id), "withdraw" in request.form
    try:
        with database().writing() as db:
            count = say_pictures(acting(db), athlete_id, not withdrawn, request.form.get("by", ""))
    except ImpossibleInput as error:
        said_with_undo(f"{problem_words(error.problems[0])} Whose consent is it?", None)
        return redirect(url_for("technique.stills", athlete_id=athlete_id))
    if withdrawn:
        said_with_undo(
            f"Withdrawn. {count} pictures of {athlete.name} are erased; what was read from them stays.", None
        )
    else:
        said_with_undo(f"{athlete.name} agrees to pictures.", None)
    return redirect(url_for("technique.stills", athlete_id=athlete_id))


@blueprint.post("/<int:athlete_id>/stills")
@allow(Act.SCREEN)
@takes(BYTES_MOST + 100_000)
def add(athlete_id: int) -> ResponseReturnValue:
    """One more picture: its pixels are made again, everything else in the file is left behind."""
    athlete, form = athlete_here(athlete_id), _form()
    upload = request.files.get("picture")

    def write() -> int:
        if upload is None or not upload.filename:
            raise ImpossibleInput(Problem("picture", "picture_missing"))
        made = picture_of(upload.read(BYTES_MOST + 1))
        facts = StillFacts(
            form.shows,
            form.taken_on.data,
            form.faces.data == "right",
            made.content,
            made.width,
            made.height,
            form.movement.data or "",
            int(form.wedge_mm.data or 0),
            float(form.load_kg.data or 0),
            form.note.data or "",
        )
        with database().writing() as db:
            return add_still(acting(db), athlete_id, facts).id

    kept = form.submitted(write)
    if kept is None:
        return _list(athlete, form, 422)
    return redirect(url_for("technique.still", still_id=kept))


@blueprint.get("/stills/<int:still_id>/picture")
@allow(Act.LOOK)
def picture(still_id: int) -> ResponseReturnValue:
    """The picture itself."""
    return Response(pixels_of(acting(reader()), still_id), mimetype="image/jpeg")


@blueprint.get("/mine/<int:still_id>/picture")
@allow(Act.SEE_OWN)
def own_picture(still_id: int) -> ResponseReturnValue:
    """The same for the athlete who is in it."""
    return Response(pixels_of(acting(reader()), still_id), mimetype="image/jpeg")


@blueprint.get("/mine")
@allow(Act.SEE_OWN)
def mine() -> ResponseReturnValue:
    """An athlete's own pictures and what they say."""
    here, athlete = context(), athlete_of(reader(), context().squad.id, own_athlete() or 0)
    seen = stills_of(reader(), [athlete.id], here.rules).get(athlete.id, [])
    agreed = agreed_to_pictures(reader(), [athlete.id]).get(athlete.id)
    return render_template(
        "technique/mine.html",
        context=here,
        athlete=athlete,
        seen=seen[:SHOWN_MOST],
        agreed=agreed,
        kinds=KINDS,
        says=says_of,
        verdicts=verdict_words,
    )


def seen_one(still_id: int) -> tuple[Athlete, Seen]:
    """A picture with what it says, and whose it is."""
    still = still_of(acting(reader()), still_id)
    rows = stills_of(reader(), [still.athlete_id], context().rules)[still.athlete_id]
    return athlete_here(still.athlete_id), next(one for one in rows if one.still.id == still_id)


@blueprint.get("/stills/<int:still_id>")
@allow(Act.LOOK)
def still(still_id: int) -> ResponseReturnValue:
    """The points of a picture, and what they say; `suggest` asks the finder for points to begin with."""
    athlete, seen = seen_one(still_id)
    note_looking(athlete.id, not seen.still.erased_at)
    points, finder = seen.points, seen.mark.suggested_by if seen.mark else ""
    trouble = ""
    if "suggest" in request.args and not seen.still.erased_at:
        points, finder, trouble = _suggested(seen)
        if points:
            plate = seen.mark.plate_cm if seen.mark else 0.0
            seen = replace(seen, measured=measure(taken_of(seen.still, points, plate), context().rules))
    return _marking(athlete, seen, points, finder, trouble)


def _suggested(seen: Seen) -> "tuple[Points, str, str]":
    """Points by the finder over those that were placed, its name, and what went wrong."""
    here = settings().finder
    if here is None:
        raise Refused("no_finder")
    try:
        found = suggest(*here, pixels_of(acting(reader()), seen.still.id), seen.still.faces_right)
    except NotFound as error:
        return seen.points, "", f"No suggestion: {error}. Place the points by hand."
    allowed = SPOTS[StillKind(seen.still.kind)]
    inside = {
        spot: (x, y)
        for spot, (x, y) in found.points.items()
        if spot in allowed and 0 <= x <= seen.still.width and 0 <= y <= seen.still.height
    }
    trouble = "" if inside else f"{found.finder}: found nothing here. Place the points by hand."
    return seen.points | inside, found.finder if inside else "", trouble


def _marking(
    athlete: Athlete,
    seen: Seen,
    points: "Points",
    finder: str,
    trouble: str,
    problems: dict[str, str] | None = None,
    status: int = 200,
) -> ResponseReturnValue:
    here, kind = context(), StillKind(seen.still.kind)
    offered = [code for code, screen in screens_of(reader(), here.squad.id).items() if not screen.retired]
    movement = squad_library().movements.get(seen.still.movement)
    page = render_template(
        "technique/still.html",
        context=here,
        athlete=athlete,
        seen=seen,
        still=seen.still,
        kind_words=KINDS[kind],
        movement=movement,
        spots=[(spot, SPOT_WORDS[spot], SPOT_HELP.get(spot, ""), points.get(spot)) for spot in SPOTS[kind]],
        finder=finder,
        finder_here=settings().finder is not None,
        trouble=trouble,
        problems=problems or {},
        plates=PLATES_CM,
        plate_cm=seen.mark.plate_cm if seen.mark else 0.0,
        **_readings(seen),
        values=[] if finder and "suggest" in request.args else values_for_screens(seen, offered),
        recorded=standing_results(reader(), athlete.id, seen.still.taken_on),
        screens=screens_of(reader(), here.squad.id),
        doubt=depth_doubt(reader(), seen),
        may_mark=not seen.still.erased_at,
    )
    return page, status


def _readings(seen: Seen) -> dict[str, Any]:
    measured = seen.measured
    judged = measured.judged if measured else None
    lock_out = measured.readings.get(Measure.LOCK_OUT) if measured else None
    return {
        "readings": says_of(seen),
        "verdict": judged.verdict if judged else None,
        "verdict_about": STANDARDS[judged.standard][0] if judged else "",
        "verdict_words": verdict_words(judged) if judged else "",
        "lock_out": lock_out_words(lock_out) if lock_out else "",
        "tilt": measured.tilt if measured else None,
        "missing": [SPOT_WORDS[spot] for spot in measured.missing] if measured else [],
    }


@blueprint.post("/stills/<int:still_id>/said")
@allow(Act.SCREEN)
def said(still_id: int) -> ResponseReturnValue:
    """What the points would say as they are now; nothing is kept."""
    _, seen = seen_one(still_id)
    try:
        points, plate = _typed()
        found = measure(taken_of(seen.still, points, plate), context().rules)
    except ImpossibleInput as error:
        return render_template("technique/_read.html", problem=problem_words(error.problems[0]), readings=[])
    now = Seen(seen.still, seen.mark, found, seen.taken_by, seen.marked_by)
    return render_template("technique/_read.html", **_readings(now))


@blueprint.post("/stills/<int:still_id>")
@allow(Act.SCREEN)
def mark(still_id: int) -> ResponseReturnValue:
    """Keep where the points are."""
    athlete, seen = seen_one(still_id)
    try:
        points, plate = _typed()
        with database().writing() as db:
            mark_still(acting(db), still_id, points, plate, request.form.get("finder", ""))
    except ImpossibleInput as error:
        problems = {problem.field: problem_words(problem) for problem in error.problems}
        return _marking(athlete, seen, _points()[0], request.form.get("finder", ""), "", problems, 422)
    said_with_undo("Points kept.", None)
    return redirect(url_for("technique.still", still_id=still_id))


Points = dict[Spot, tuple[float, float]]


def _typed() -> tuple[Points, float]:
    """Points and plate as the form has them: `hip` = "412.5 388". ImpossibleInput where one cannot be read."""
    found, wrong = _points()
    plate_cm = 0.0
    try:
        plate_cm = float(request.form.get("plate_cm", "").strip() or "0")
    except ValueError:
        wrong.append(Problem("plate_cm", "not_a_number"))
    if wrong:
        raise ImpossibleInput(*wrong)
    return found, plate_cm


def _points() -> tuple[Points, list[Problem]]:
    """The points that can be read, and what is wrong with the others."""
    found: Points = {}
    wrong = []
    for spot in Spot:
        text = request.form.get(spot.value, "").strip()
        try:
            found |= placed({spot.value: [float(part) for part in text.replace(",", ".").split()]}) if text else {}
        except ValueError:
            wrong.append(Problem(spot.value, "not_a_point"))
    return found, wrong


@blueprint.post("/stills/<int:still_id>/screens")
@allow(Act.SCREEN)
def to_screens(still_id: int) -> ResponseReturnValue:
    """What a picture says becomes screens of its day, by the coach's word."""
    _, seen = seen_one(still_id)
    with database().writing() as db:
        values = send_to_screens(acting(db), seen, request.form.getlist("screen"))
        names = [in_text(screens_of(db, actor().squad_id)[value.screen].name) for value in values]
    said_with_undo(f"Recorded: {', '.join(names)}. Screen shows it, and takes it back.", None)
    return redirect(url_for("technique.still", still_id=still_id))


@blueprint.post("/stills/<int:still_id>/card")
@allow(Act.SCREEN)
def card(still_id: int) -> ResponseReturnValue:
    """On the athlete's own card, or off it."""
    on = request.form.get("on") == "yes"
    with database().writing() as db:
        put_on_card(acting(db), still_id, on)
    said_with_undo("On the own card from now on." if on else "Not on the card any more.", None)
    return redirect(url_for("technique.still", still_id=still_id))


@blueprint.post("/stills/<int:still_id>/erase")
@allow(Act.KEEP_ATHLETES)
def erase(still_id: int) -> ResponseReturnValue:
    """The picture gone for good; said twice to be sure."""
    athlete, _ = seen_one(still_id)
    if request.form.get("sure") != "yes":
        raise Refused("say_sure")
    with database().writing() as db:
        erase_still(acting(db), still_id)
    said_with_undo("The picture is erased. What was read from it stays.", None)
    return redirect(url_for("technique.stills", athlete_id=athlete.id))
