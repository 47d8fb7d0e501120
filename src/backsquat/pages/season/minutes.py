"""Minutes played in a match, typed or opened as a list, and whose next session is to be easier for it."""

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.config import UPLOAD_MOST_BYTES
from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.formats.minutes import Minutes, minutes_in
from backsquat.formats.table import table_in, table_of
from backsquat.pages.request import acting, allow, context, database, reader, said_with_undo
from backsquat.pages.season.routes import blueprint
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.plan.played import after_match, ease_after
from backsquat.work.policy import Act
from backsquat.work.season.matches import match_of
from backsquat.work.season.minutes import keep_minutes, minutes_of
from backsquat.work.squad.athletes import squad_athletes


@blueprint.get("/season/matches/<int:match_id>/minutes")
@allow(Act.PLAN)
def minutes(match_id: int) -> ResponseReturnValue:
    """Everybody with the minutes that stand."""
    return _page(match_id, {}, {})


def _page(
    match_id: int, typed: dict[int, str], problems: dict[str, str], lost: tuple[str, ...] = (), status: int = 200
) -> ResponseReturnValue:
    here, match = context(), match_of(acting(reader()), match_id)
    stand = minutes_of(reader(), [match.id])[match.id]
    page = render_template(
        "season/minutes.html",
        context=here,
        match=match,
        athletes=sorted(squad_athletes(reader(), here.squad.id), key=lambda one: one.name),
        stand=stand,
        shown={one: str(value) for one, value in stand.items()} | typed,
        problems=problems,
        lost=lost,
        after=after_match(acting(reader()), match),
        most_bytes=UPLOAD_MOST_BYTES,
    )
    return page, status


@blueprint.post("/season/matches/<int:match_id>/minutes")
@allow(Act.PLAN)
def minutes_kept(match_id: int) -> ResponseReturnValue:
    """Keep what was typed; a list that was pasted or opened fills the fields first, to be looked at."""
    match_of(acting(reader()), match_id)
    fields = {
        one.id: request.form.get(f"minutes-{one.id}", "").strip()
        for one in squad_athletes(reader(), context().squad.id)
    }
    upload, pasted = request.files.get("file"), request.form.get("pasted", "").strip()
    try:
        if pasted or (upload and upload.filename):
            read = _read(pasted)
            shown = fields | {one: str(value) for one, value in read.known.items()}
            return _page(match_id, shown, {"list": f"{len(read.known)} read. Look, then save."}, read.lost)
        # What somebody else wrote down meanwhile stands: only what was changed here is typed.
        changed = {one: text for one, text in fields.items() if text != request.form.get(f"was-{one}", "")}
        typed = {one: _whole(one, text) for one, text in changed.items()}
        with database().writing() as db:
            change, count = keep_minutes(acting(db), match_id, typed)
    except ImpossibleInput as error:
        problems = {problem.field: problem_words(problem) for problem in error.problems}
        return _page(match_id, fields, problems, status=422)
    said_with_undo(f"Minutes of {count} kept." if count else "Nothing new.", change)
    return redirect(url_for("season.minutes", match_id=match_id))


def _read(pasted: str) -> Minutes:
    upload = request.files.get("file")
    names = {one.name.casefold(): one.id for one in squad_athletes(reader(), context().squad.id)}
    opened = upload is not None and bool(upload.filename)
    table = table_of(upload.filename or "", upload.read()) if opened and upload else table_in(pasted)
    return minutes_in(table, names)


def _whole(athlete_id: int, text: str) -> int | None:
    if not text:
        return None
    if not text.isdecimal() or len(text) > 4:
        raise ImpossibleInput(Problem(f"minutes-{athlete_id}", "not_whole"))
    return int(text)


@blueprint.post("/season/matches/<int:match_id>/ease")
@allow(Act.PLAN)
def ease(match_id: int) -> ResponseReturnValue:
    """The next session of those who were ticked made easier, as a draft."""
    ids = {int(one) for one in request.form.getlist("athlete") if one.isdecimal() and len(one) < 12}
    with database().writing() as db:
        change, count = ease_after(acting(db), match_id, ids)
    people = "1 athlete" if count == 1 else f"{count} athletes"
    said_with_undo(f"The next session of {people} is easier, as a draft.", change)
    return redirect(url_for("season.minutes", match_id=match_id))
