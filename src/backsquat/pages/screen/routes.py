"""The Screen pages: what is due, a battery for one athlete, one screen down the squad, the squad's own screens."""

import datetime as dt
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.numbers import plain_day, read_decimal
from backsquat.core.readiness.checklist import readiness_check_findings
from backsquat.core.readiness.screens import ResultKind, Screen, due, screen_findings
from backsquat.pages.request import (
    acting,
    allow,
    context,
    database,
    forget_reader,
    inside,
    reader,
    said_with_undo,
    squad_library,
    wants_piece,
)
from backsquat.pages.screen.phrases import (
    change_words,
    drills_of,
    evidence_words,
    finding_words,
    kinds,
    pass_words,
    result_words,
    value_words,
)
from backsquat.pages.seen import changed_since, seen_of
from backsquat.storage.models import Athlete
from backsquat.ui.phrases.problems import PROBLEMS, problem_words
from backsquat.ui.phrases.readiness_checks import READINESS_CHECK_LINES, READINESS_CHECK_NAMES, place_words
from backsquat.work.ladders.moves import suggested_levels
from backsquat.work.library.change_screens import restore_shipped, retire_screen, save_screen
from backsquat.work.library.screens import screens_of
from backsquat.work.policy import Act
from backsquat.work.readiness.load import readiness_of, readiness_one
from backsquat.work.readiness.screens import Value, known_of, record_result, series_of, squat_checks, squats_on_floor
from backsquat.work.squad.athletes import athlete_of, squad_athletes

blueprint = Blueprint("screen", __name__, url_prefix="/screen", template_folder="templates")
WORDS = {
    "finding_words": finding_words, "drills_of": drills_of, "value_words": value_words, "result_words": result_words,
    "change_words": change_words, "pass_words": pass_words, "readiness_check_words": READINESS_CHECK_LINES,
    "place_words": place_words,
}  # fmt: skip


def _battery() -> dict[str, Screen]:
    found = screens_of(reader(), context().squad.id)
    return {code: screen for code, screen in found.items() if not screen.retired}


def _day() -> dt.date:
    """The day the values are of: today, or an earlier one that was chosen."""
    try:
        day = plain_day(request.values.get("day", ""))
    except ValueError:
        return context().today
    return min(day, context().today)


@blueprint.get("/")
@allow(Act.SCREEN)
def index() -> ResponseReturnValue:
    """Who may squat, and what is due: for each athlete the screens never done or not within the interval."""
    return due_page()


def due_page(problem: str = "", status: int = 200) -> ResponseReturnValue:
    """The list, with what was ticked and typed where something about it was wrong."""
    here, screens = context(), _battery()
    athletes = squad_athletes(reader(), here.squad.id)
    ready = readiness_of(reader(), here.squad.id, athletes, here.today, here.rules)
    lines = []
    for athlete in athletes:
        mine = ready[athlete.id]
        waiting = due(list(screens.values()), mine.known, here.today, here.rules)
        newest = max((result.done_on for result in mine.known.values()), default=None)
        lines.append((athlete, mine, waiting, newest))
    lines.sort(key=lambda line: (line[3] is not None, -len(line[2]), line[0].name))
    page = render_template(
        "screen/due.html",
        context=here,
        lines=lines,
        screens=screens,
        readiness_check=ReadinessCheck.BARBELL,
        readiness_check_names=READINESS_CHECK_NAMES,
        readiness_check_findings=readiness_check_findings,
        library=squad_library(),
        problem=problem,
        ticked=set(request.form.getlist("athlete")),
        typed=request.form,
        **WORDS,
    )
    return page, status


@blueprint.get("/athlete/<int:athlete_id>")
@allow(Act.SCREEN)
def athlete(athlete_id: int) -> ResponseReturnValue:
    """The battery of one athlete, findings on the side."""
    here, person = context(), athlete_of(reader(), context().squad.id, athlete_id)
    return render_template(
        "screen/athlete.html",
        context=here,
        athlete=person,
        day=_day(),
        kind=ResultKind,
        athletes=squad_athletes(reader(), here.squad.id),
        **_known(person),
        **WORDS,
    )


def _known(athlete: Athlete) -> dict[str, Any]:
    """The series of one athlete and everything they say."""
    here, screens = context(), _battery()
    series = series_of(reader(), [athlete.id], screens, here.today)[athlete.id]
    ready = readiness_one(reader(), athlete, here.today, here.rules)
    known = known_of(series)
    checks = squat_checks(series, squats_on_floor(reader(), athlete.id, here.today))
    findings = screen_findings(list(screens.values()), known, checks, here.rules)
    readiness_check = ready.view(ReadinessCheck.BARBELL)
    library = squad_library()
    landing = [(library.ladders[code], *found) for code, found in suggested_levels(reader(), ready).items()]
    return {
        "screens": screens,
        "series": series,
        "findings": findings,
        "readiness_check": readiness_check,
        "ready": ready,
        "landing": landing,
        "waiting": due(list(screens.values()), known, here.today, here.rules),
        "name": lambda c: library.movements[c].name,
        "evidence": lambda finding: evidence_words(finding, known, screens),
    }


@blueprint.get("/squad/<code>")
@allow(Act.SCREEN)
def squad(code: str) -> ResponseReturnValue:
    """One screen down the squad, by keyboard."""
    here, screens = context(), _battery()
    screen = screens.get(code)
    if screen is None:
        raise NotThere("screen")
    athletes = squad_athletes(reader(), here.squad.id)
    series = series_of(reader(), [a.id for a in athletes], {code: screen}, here.today)
    return render_template(
        "screen/squad.html",
        context=here,
        screen=screen,
        screens=screens,
        athletes=athletes,
        series=series,
        day=_day(),
        kind=ResultKind,
        **WORDS,
    )


@blueprint.post("/athlete/<int:athlete_id>")
@allow(Act.SCREEN)
def record(athlete_id: int) -> ResponseReturnValue:
    """Keep what was typed: one field (as it is left), or a whole page of them without scripts."""
    person = athlete_of(reader(), context().squad.id, athlete_id)
    problems: dict[str, str] = {}
    for field in [name for name in request.form if name.startswith("v:")][:200]:
        try:
            _keep(person, field, request.form[field])
        except ImpossibleInput as error:
            problems[field] = problem_words(error.problems[0])
    if wants_piece() or request.headers.get("X-Autosave"):
        return _kept(person, problems)
    for field, words in problems.items():
        flash(f"{field.split(':')[1]}: {words}")
    if back := inside(request.form.get("back", ""), "/screen/"):
        return redirect(back)
    return redirect(url_for("screen.athlete", athlete_id=athlete_id, day=_day().isoformat()))


def _keep(person: Athlete, field: str, typed: str) -> None:
    """One field `v:screen:side`; an empty one takes the day's value back."""
    _, screen, side = [*field.split(":"), "", ""][:3]
    text = typed.strip().replace(",", ".")[:20]
    try:
        value = (
            {"yes": 1.0, "no": 0.0}.get(text) if text in ("yes", "no") else float(read_decimal(text)) if text else None
        )
    except ValueError:
        raise ImpossibleInput(Problem(field, "not_a_number")) from None
    note = request.form.get(f"n:{screen}:{side}", "")
    with database().writing() as db:
        record_result(acting(db), person.id, Value(screen, side, value, note), _day())


def _kept(person: Athlete, problems: dict[str, str]) -> ResponseReturnValue:
    """The answer to one field: its problem, or nothing; and the side panel where there is one."""
    if problems:
        return render_template("screen/_problem.html", words=next(iter(problems.values()))), 422
    if request.form.get("panel") != "findings":
        return "", 204
    forget_reader()
    return render_template("screen/_findings.html", context=context(), athlete=person, **_known(person), **WORDS)


@blueprint.get("/own")
@allow(Act.PLAN)
def own() -> ResponseReturnValue:
    """The screens themselves: the battery as shipped, with the squad's own."""
    return _own_page()


def _own_page(
    typed: dict[str, Any] | None = None, errors: dict[str, str] | None = None, status: int = 200
) -> ResponseReturnValue:
    wanted = request.values.get("edit", "")
    known = screens_of(reader(), context().squad.id)
    editing = known.get(wanted)
    if typed is None:
        typed = _as_typed(editing) if editing else {"kind": "yes/no", "error": "0", "source": "usual practice"}
    page = render_template(
        "screen/own.html",
        context=context(),
        known=known,
        editing=editing,
        seen=seen_of({"screen": editing}),
        typed=typed,
        errors=errors or {},
        kinds=kinds(),
        **WORDS,
    )
    return page, status


def _as_typed(screen: Screen) -> dict[str, Any]:
    plain = {name: getattr(screen, name) for name in ("name", "how", "two_sided", "less_is_better", "error", "source")}
    return plain | {
        "kind": screen.kind.value,
        "pass_at": "" if screen.pass_at is None else f"{screen.pass_at:g}",
        "retest_days": "" if screen.retest_days is None else str(screen.retest_days),
        "gap": "" if screen.gap is None else f"{screen.gap:g}",
        "drills": " ".join(screen.drills),
    }


@blueprint.post("/own")
@allow(Act.PLAN)
def save_own() -> ResponseReturnValue:
    form = request.form
    typed: dict[str, Any] = {
        name: form.get(name, "")[:400].strip() for name in ("name", "how", "kind", "source", "drills")
    }
    numbers = {
        name: form.get(name, "").replace(",", ".").strip() or None
        for name in ("pass_at", "gap", "error", "retest_days")
    }
    ticks = {name: name in form for name in ("two_sided", "less_is_better")}
    entry = typed | numbers | ticks | {"drills": typed["drills"].split(), "error": numbers["error"] or 0}
    entry["source"] = typed["source"] or "usual practice"
    here = screens_of(reader(), context().squad.id)
    if changed_since({"screen": here.get(form.get("edit", ""))}):
        return _own_page(typed | {k: v or "" for k, v in numbers.items()} | ticks, {"name": PROBLEMS["meanwhile"]}, 422)
    try:
        with database().writing() as db:
            screen = save_screen(acting(db), entry, form.get("edit") or None)
    except ImpossibleInput as error:
        words = {problem.field: problem_words(problem) for problem in error.problems}
        return _own_page(typed | {k: v or "" for k, v in numbers.items()} | ticks, words, 422)
    flash(f"{screen.name} kept for this squad.")
    return redirect(url_for("screen.own"))


@blueprint.post("/own/<code>/retire")
@allow(Act.PLAN)
def retire(code: str) -> ResponseReturnValue:
    with database().writing() as db:
        change = retire_screen(acting(db), code, request.form.get("retired") == "1")
    said_with_undo("Battery changed; what was recorded stays.", change.id)
    return redirect(url_for("screen.own"))


@blueprint.post("/own/<code>/restore")
@allow(Act.PLAN)
def restore(code: str) -> ResponseReturnValue:
    with database().writing() as db:
        change = restore_shipped(acting(db), code)
    said_with_undo("The shipped screen is back.", change.id)
    return redirect(url_for("screen.own"))
