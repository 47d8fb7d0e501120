"""Readiness checks and ladders of an athlete: the checklist, the road to the bar, levels, moves, work outside a block."""

from decimal import Decimal
from uuid import uuid4

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere, Problem
from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import ReadinessCheck, Region
from backsquat.core.numbers import read_decimal
from backsquat.core.pain import STOPPING, Character
from backsquat.core.readiness.screens import SIDES
from backsquat.pages.drawing import ladder_picture
from backsquat.pages.request import acting, allow, context, database, reader, said_with_undo, squad_library
from backsquat.ui.phrases.changes import change_words
from backsquat.ui.phrases.decisions import NOT_MET
from backsquat.ui.phrases.flags import FLAGS
from backsquat.ui.phrases.problems import problem_words
from backsquat.ui.phrases.readiness_checks import (
    READINESS_CHECK_LINES,
    READINESS_CHECK_NAMES,
    READINESS_CHECK_SCOPES,
    WAYS,
    move_words,
    place_words,
)
from backsquat.work.ladders.moves import move_and_follow, place_by_screens
from backsquat.work.ladders.readiness_checks import clear_with_reason, end_override
from backsquat.work.ladders.standings import moves_of, road_plan, standings
from backsquat.work.plan.own_work import is_on_road, put_on_road, take_off_road
from backsquat.work.policy import Act
from backsquat.work.readiness.load import readiness_one
from backsquat.work.readiness.variant import blocked
from backsquat.work.record.outside import log_level_work
from backsquat.work.record.record import SetFacts
from backsquat.work.squad.athletes import athlete_of

blueprint = Blueprint("ladders", __name__, url_prefix="/ladders", template_folder="templates")
SETS_MOST = 8


@blueprint.get("/<int:athlete_id>")
@allow(Act.SEE)
def show(athlete_id: int) -> ResponseReturnValue:
    return _page(athlete_id)


def _page(athlete_id: int, errors: dict[str, str] | None = None, status: int = 200) -> ResponseReturnValue:
    here = context()
    athlete = athlete_of(reader(), here.squad.id, athlete_id)
    ready, library = readiness_one(reader(), athlete, here.today, here.rules), squad_library()
    view = ready.view(ReadinessCheck.BARBELL)
    page = render_template(
        "ladders/ladders.html",
        context=here,
        athlete=athlete,
        ready=ready,
        library=library,
        view=view,
        others=[
            ready.view(readiness_check)
            for readiness_check in (ReadinessCheck.PULL, ReadinessCheck.THRUST, ReadinessCheck.OVERHEAD)
        ],
        readiness_check_names=READINESS_CHECK_NAMES,
        readiness_check_scopes=READINESS_CHECK_SCOPES,
        road=road_plan(ready, view, here.rules),
        on_road=is_on_road(acting(reader()), athlete_id),
        readiness_check_words=READINESS_CHECK_LINES,
        standings=standings(reader(), ready, here.rules),
        moves=moves_of(reader(), athlete_id),
        ways=WAYS,
        picture=lambda ladder: ladder_picture(ladder, library, ready),
        place_words=place_words,
        move_words=move_words,
        not_met=NOT_MET,
        hindrances=blocked,
        errors=errors or {},
        typed=request.form if errors else {},
        client_id=str(uuid4()),
        regions=list(Region),
        characters=list(Character),
    )
    return page, status


@blueprint.post("/<int:athlete_id>/move")
@allow(Act.SCREEN)
def move(athlete_id: int) -> ResponseReturnValue:
    """Onto another level, with the reason."""
    form = request.form
    try:
        with database().writing() as db:
            way = form.get("way", "")
            moved, change = move_and_follow(
                acting(db),
                athlete_id,
                form.get("ladder", ""),
                form.get("movement", ""),
                way=way if way in ("harder", "easier") else "placed",
                reason=form.get("reason", ""),
            )
    except ImpossibleInput as error:
        return _page(athlete_id, {f"move-{form.get('ladder', '')}": problem_words(error.problems[0])}, 422)
    said_with_undo(f"{squad_library().get(moved.movement).name}: moved.", change.id)
    return redirect(url_for("ladders.show", athlete_id=athlete_id))


@blueprint.post("/<int:athlete_id>/road")
@allow(Act.PLAN)
def road(athlete_id: int) -> ResponseReturnValue:
    """Put somebody on the road to the bar beside the squad, or take them off it; as drafts, to be published."""
    put = take_off_road if "off" in request.form else put_on_road
    with database().writing() as db:
        change = put(acting(db), athlete_id)
        words, block_id = change_words(change.what, change.facts, squad_library()), change.subject_id
    flash(f"{words}. The sheet has it as a draft: publish it for the floor.")
    return redirect(url_for("block.show", block_id=block_id))


@blueprint.post("/<int:athlete_id>/place")
@allow(Act.SCREEN)
def place(athlete_id: int) -> ResponseReturnValue:
    """Onto every level the screens lead to, where the athlete stands on none yet."""
    with database().writing() as db:
        placed = place_by_screens(acting(db), athlete_id)
    flash(f"Placed on {placed} ladders." if placed else "Already placed, or nothing screened to place by.")
    return redirect(url_for("ladders.show", athlete_id=athlete_id))


@blueprint.post("/<int:athlete_id>/override")
@allow(Act.KEEP_ATHLETES)
def override(athlete_id: int) -> ResponseReturnValue:
    """Let the athlete past a readiness check by name and reason, or shut it again."""
    readiness_check = request.form.get("readiness_check", "")
    if readiness_check not in {item.value for item in ReadinessCheck}:
        raise NotThere("readiness_check")
    try:
        with database().writing() as db:
            if "end" in request.form:
                end_override(acting(db), athlete_id, ReadinessCheck(readiness_check))
            else:
                reason = request.form.get("reason", "")
                clear_with_reason(acting(db), athlete_id, ReadinessCheck(readiness_check), reason)
    except ImpossibleInput as error:
        return _page(athlete_id, {f"override-{readiness_check}": problem_words(error.problems[0])}, 422)
    flash("The override has ended." if "end" in request.form else "Cleared; your name and reason stay with it.")
    return redirect(url_for("ladders.show", athlete_id=athlete_id))


@blueprint.post("/<int:athlete_id>/work")
@allow(Act.SCREEN)
def work(athlete_id: int) -> ResponseReturnValue:
    """A day's work of a level, outside any block: the same for every set, corrected on the athlete's page."""
    form, errors = request.form, {}
    ladder = form.get("ladder", "")
    try:
        sets = _sets()
        with database().writing() as db:
            kept = log_level_work(acting(db), athlete_id, form.get("movement", ""), sets)
            flags = sorted({flag for one in kept for flag in one.entry.flags})
    except ImpossibleInput as error:
        errors[f"work-{ladder}"] = " ".join(dict.fromkeys(problem_words(problem) for problem in error.problems))
        return _page(athlete_id, errors, 422)
    marked = f" Marked: {', '.join(FLAGS[flag] for flag in flags)}." if flags else ""
    flash(f"{len(sets)} sets of {squad_library().get(form['movement']).name} logged.{marked}")
    return redirect(url_for("ladders.show", athlete_id=athlete_id))


def _numbers(found: list[Problem]) -> dict[str, int]:
    """The whole numbers of the form, nought for what is none; problems are put to those found."""
    numbers = {}
    for name in ("sets", "amount", "left", "pain"):
        text = request.form.get(name, "").strip()
        whole = text.isdecimal() and len(text) <= 4
        if not whole and (text or name in ("sets", "amount")):
            found.append(Problem(name, "not_whole"))
        numbers[name] = int(text) if whole else 0
    return numbers


def _load(found: list[Problem]) -> Decimal:
    try:
        load = read_decimal(request.form.get("load", "").strip() or "0")
        if load < 0:
            raise ValueError
    except ValueError:
        found.append(Problem("load", "not_a_number"))
        return Decimal(0)
    return load


def _sets() -> list[SetFacts]:
    """The sets the form says; every problem with them at once."""
    form, found = request.form, list[Problem]()
    numbers, load = _numbers(found), _load(found)
    if not 1 <= numbers["sets"] <= SETS_MOST:
        found.append(Problem("sets", "sets_range", {"most": SETS_MOST}))
    if numbers["pain"] and form.get("pain_region", "") not in set(Region):
        found.append(Problem("pain_region", "pain_needs_region"))
    elif not numbers["pain"] and (form.get("pain_region") or form.get("pain_character", "dull") in STOPPING):
        found.append(Problem("pain", "pain_needs_level"))  # an unrated bad pain must not pass as none
    if found:
        raise ImpossibleInput(*found)
    seconds = form.get("seconds") == "1"
    reps = 1 if seconds else numbers["amount"]
    unclean = form.get("unclean", "")
    client = form.get("client_id", "")[:40] or str(uuid4())
    return [
        SetFacts(
            f"{client}-{n}",
            load,
            Unit.KG,
            reps,
            reps,
            numbers["left"],
            context().today,
            fault=unclean,
            pain=numbers["pain"] if n == 1 else 0,
            pain_region=form.get("pain_region", ""),
            pain_character=form.get("pain_character", "dull"),
            hold_s=numbers["amount"] if seconds else None,
            supported="supported" in form,
            side=form.get("side") if form.get("side") in SIDES else "",  # type: ignore[arg-type]
        )
        for n in range(1, numbers["sets"] + 1)
    ]
