"""The session: the ordered work of one day, in time; what is to be said of it, and what would bring it in."""

from typing import Any

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere, Refused
from backsquat.core.movements.manner import DIRECTIONS, Lean, Range, Stance, Style, manner_from
from backsquat.core.sessions.moves import Move, MoveKind
from backsquat.core.sessions.order import Advice
from backsquat.core.sessions.session import Form
from backsquat.pages.request import (
    acting,
    allow,
    context,
    database,
    forget_reader,
    number,
    reader,
    said_with_undo,
    squad_library,
    wants_piece,
)
from backsquat.pages.session.drawing import strips
from backsquat.storage.models import Block, BlockSession
from backsquat.ui.phrases.changes import change_words
from backsquat.ui.phrases.days import WEEKDAYS
from backsquat.ui.phrases.exercises import name_of
from backsquat.ui.phrases.problems import problem_words, refusal_words
from backsquat.ui.phrases.sessions import (
    FIXES,
    RANGES,
    STYLES,
    advice_words,
    clock_words,
    item_dose,
    manner_words,
    minutes_words,
    proposal_words,
)
from backsquat.work.journal import last_change, last_of_plan
from backsquat.work.log.reaches import WHEEL
from backsquat.work.plan.arrangement import SessionFacts, arrange, change_manner, change_session, repeat_session
from backsquat.work.plan.cells import standing_of
from backsquat.work.plan.exercises import give_manner
from backsquat.work.plan.exposure_rows import rows_at
from backsquat.work.plan.progression_settings import athlete_settings, setting_of
from backsquat.work.plan.timed import TimedSession, WorkLine, exercises_in, held_session, timed
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_in_week, exercise_of, next_planned, squad_blocks, week_of
from backsquat.work.squad.athletes import athlete_of, squad_athletes

blueprint = Blueprint("session", __name__, url_prefix="/session", template_folder="templates")


@blueprint.get("/")
@allow(Act.READ_PLAN)
def index() -> ResponseReturnValue:
    """The session of the chosen week that comes next, or the one asked for."""
    return _page()


def _page(session_id: int | None = None, problem: str = "", status: int = 200) -> ResponseReturnValue:
    here = context()
    wanted = session_id or request.values.get("session", type=number)
    block = held_session(reader(), here.squad.id, wanted)[1] if wanted else None
    blocks = squad_blocks(reader(), here.squad.id)
    in_week = block_in_week(blocks, here.week)
    if in_week is None:
        return render_template("session/none.html", context=here, ahead=next_planned(blocks, here.week))
    block = block if block and block.id == in_week.id else in_week
    week = week_of(block, here.week)
    held_here = [held for held in block.sessions if exercises_in(block, held, week)]
    chosen = next((held for held in held_here if held.id == wanted), None) or _next(held_here, week)
    if chosen is None:
        return render_template("session/none.html", context=here, ahead=next_planned(blocks, here.week))
    athlete_id = request.values.get("athlete", type=number)
    athlete = athlete_of(reader(), here.squad.id, athlete_id) if athlete_id else None
    found = timed(reader(), block, chosen, week, here.today, here.rules, athlete)
    template = "session/_session.html" if wants_piece("session") else "session/session.html"
    return render_template(template, **_head(block, held_here), **_shown(found), problem=problem), status


def _next(held_here: list[BlockSession], week: int) -> BlockSession | None:
    today = context().today
    coming = (held for held in held_here if held.day_in(week) >= today and not held.left_out_of(week))
    return next(coming, held_here[0] if held_here else None)


def _head(block: Block, held_here: list[BlockSession]) -> dict[str, Any]:
    here = context()
    change, again = last_of_plan(reader(), here.squad.id, block.id)
    waiting, published = standing_of(reader(), block)
    return {
        "context": here,
        "block": block,
        "sessions": held_here,
        "session_name": lambda held: _first_name(block, held),
        "weekdays": WEEKDAYS,
        "change": change,
        "again": again,
        "named": lambda one: change_words(one.what, one.facts, squad_library()),
        "waiting": waiting,
        "published": published,
        "athletes": squad_athletes(reader(), here.squad.id),
    }


def _first_name(block: Block, held: BlockSession) -> str:
    """A session without a name is called by its first work."""
    first = next((exercise for exercise in block.exercises if exercise.session is held), None)
    return name_of(squad_library(), first.movement, first.ladder) if first else block.name


def _shown(found: TimedSession) -> dict[str, Any]:
    table = found.table
    return {
        "timed": found,
        "past": found.day < context().today,
        "table": table,
        "strips": strips(found),
        "form": Form,
        "line_name": _name,
        "dose": item_dose,
        "clock": clock_words,
        "minutes": minutes_words,
        "manner": lambda line: manner_words(line.item.manner),
        "advice": [(one, *advice_words(one), _fix(one)) for one in found.advice],
        "proposals": [(one, *proposal_words(one)) for one in found.proposals],
        "drill_name": lambda drill: squad_library().movements[drill.movement].name,
        "athlete_names": {athlete.id: athlete.name for athlete in squad_athletes(reader(), context().squad.id)},
    }


def _name(line: WorkLine) -> str:
    """The name of what is done: the exercise's, or for one athlete the own level."""
    exercise = line.exercise
    if line.stands_in or (exercise.ladder and line.load is None and len(line.cells) == 1):
        return line.item.movement.name
    return name_of(squad_library(), exercise.movement, exercise.ladder)


def _fix(advice: Advice) -> str:
    """What the button of a finding says; empty where no single move fixes it."""
    if advice.move is None:
        return ""
    facts = dict(advice.finding.facts)
    if "to" in facts:
        facts["day"] = WEEKDAYS[int(facts["to"])]
    return FIXES.get(advice.move.what.value, FIXES["before"]).format(**facts)


def _answer(session_id: int, change: Any, words: str) -> ResponseReturnValue:
    """The session as it is now: as a piece to htmx, by redirect with an undo otherwise."""
    if request.headers.get("HX-Request"):
        forget_reader()
        return _page(session_id)
    if change is not None:
        said_with_undo(words, change)
    return redirect(url_for("session.index", session=session_id, athlete=request.form.get("athlete") or None))


@blueprint.post("/<int:session_id>/move")
@allow(Act.PLAN)
def move(session_id: int) -> ResponseReturnValue:
    """One move: earlier, into a superset, out of it, a circuit, another rest, fewer sets."""
    what = request.form.get("what", "")
    if what not in set(MoveKind):
        raise NotThere("move")
    others = tuple(request.form.getlist("others", type=number))
    into = squad_library().movements.get(request.form.get("into", ""))
    key, to = (request.form.get(name, 0, type=number) for name in ("key", "to"))
    asked = Move(MoveKind(what), key, to, others, into)
    try:
        with database().writing() as db:
            change = arrange(acting(db), session_id, asked)
            change_id = change.id if change else None
    except ImpossibleInput as error:
        return _page(session_id, problem_words(error.problems[0]), 422)
    except Refused as error:
        return _page(session_id, " ".join(refusal_words(error)), 422)
    return _answer(session_id, change_id, "Changed. The floor has it so once you publish.")


@blueprint.post("/<int:session_id>/facts")
@allow(Act.PLAN)
def facts(session_id: int) -> ResponseReturnValue:
    """Its name, its minutes, what its supersets are for, whether the hips lead."""
    try:
        with database().writing() as db:
            change = change_session(acting(db), session_id, _facts())
            change_id = change.id if change else None
    except ImpossibleInput as error:
        return _page(session_id, problem_words(error.problems[0]), 422)
    return _answer(session_id, change_id, "Session changed.")


@blueprint.post("/<int:session_id>/again")
@allow(Act.PLAN)
def again(session_id: int) -> ResponseReturnValue:
    """The same session on another day of the week as well."""
    try:
        with database().writing() as db:
            day = request.form.get("day", -1, type=number)
            change_id = repeat_session(acting(db), session_id, day).id
    except ImpossibleInput as error:
        return _page(session_id, problem_words(error.problems[0]), 422)
    words = f"Put on {WEEKDAYS[day]} too, as a draft."
    forget_reader()
    _, block = held_session(reader(), context().squad.id, session_id)
    climbing = rows_at(block, [exercise for exercise in block.exercises if exercise.session_id == session_id])
    if climbing and change_id is not None:  # they go on from day to day now: the first day's loads are looked at too
        said_with_undo(f"{words} This is what it does to lifts that go on from day to day.", change_id)
        return redirect(url_for("block.difference", block_id=block.id, exercise=climbing, lift=climbing[0]))
    return _answer(session_id, change_id, words)


def _facts() -> SessionFacts:
    form = request.form
    minutes = form.get("minutes", 0, type=number)
    return SessionFacts(form.get("name", ""), minutes, form.get("supersets", ""), form.get("hips_first") == "1")


@blueprint.route("/exercises/<int:exercise_id>", methods=["GET", "POST"])
@allow(Act.PLAN)
def manner(exercise_id: int) -> ResponseReturnValue:
    """How an exercise's movement is done: stance, lean, range, turn-out, wedge, tempo, style; and what each does."""
    exercise, _block = exercise_of(reader(), context().squad.id, exercise_id)
    problems: dict[str, str] = {}
    athlete_id = request.values.get("athlete", type=number)
    athlete = athlete_of(reader(), context().squad.id, athlete_id) if athlete_id else None
    own = athlete_settings(reader(), [exercise.id]).get((exercise.id, athlete_id or 0)) or setting_of(exercise)
    given: dict[str, Any] = own.manner(exercise.manner).to_plain()
    if request.method == "POST":
        names = ("stance", "lean", "range", "style", "tempo")
        given = {name: request.form.get(name, "").strip()[:20] for name in names}
        given["wedge_mm"] = request.form.get("wedge_mm", 0, type=number) or 0
        given["directions"] = [way for way in request.form.getlist("direction") if way]
        given["turned_out"] = request.form.get("turned_out") == "1"
        try:
            with database().writing() as db:
                if athlete:
                    give_manner(acting(db), exercise_id, athlete.id, given)
                    change = last_change(db, context().squad.id, "exercises", exercise.block_id)
                else:
                    change = change_manner(acting(db), exercise_id, given)
                change_id = change.id if change else None
        except ImpossibleInput as error:
            problems = {problem.field: problem_words(problem) for problem in error.problems}
        else:
            if change_id:
                said_with_undo("Changed. The loads to come follow, as a draft to be published.", change_id)
            return redirect(url_for("session.index", session=exercise.session_id, athlete=athlete_id))
    page = render_template(
        "session/manner.html",
        exercise=exercise,
        given=given,
        problems=problems,
        name=name_of(squad_library(), exercise.movement, exercise.ladder),
        movement=squad_library().get(exercise.movement),
        choices={"stance": Stance, "lean": Lean, "range": Range, "style": Style},
        words={**{one.value: RANGES[one] for one in RANGES}, **{one.value: STYLES[one] for one in STYLES}},
        directions=DIRECTIONS if exercise.movement == WHEEL else (),
        effects=manner_from({} if problems else given),
        athlete=athlete,
        athletes=squad_athletes(reader(), context().squad.id),
        context=context(),
    )
    return page, 422 if problems else 200
