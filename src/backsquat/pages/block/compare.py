"""Compare progressions, and try one on a made-up athlete."""

from typing import Any

from flask import render_template, request
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere, Problem
from backsquat.core.numbers import read_decimal
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.pages.block.head import block_head, blueprint, chosen_exercise
from backsquat.pages.block.phrases import state_words
from backsquat.pages.request import acting, allow, context, reader, squad_library
from backsquat.ui.drawing.progressions import ProgressionLine, draw_progressions, progression_sign
from backsquat.ui.phrases.decisions import sentence
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.plan.cells import athletes_with_load
from backsquat.work.plan.compare import LOADED, Trial, try_progression
from backsquat.work.plan.compare import compare as compare_progressions
from backsquat.work.plan.exercise_plan import room_of
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of
from backsquat.work.squad.athletes import squad_athletes

MEASURES = (  # code, title, unit, from nought
    ("load_kg", "Load", "kg", False), ("reps", "Reps a set", "reps", True),
    ("tonnage_kg", "Tonnage of the week", "kg", True), ("relative", "Load by planning max", "share", False),
    ("back_cost", "Lower-back index", "index", True),
)  # fmt: skip


@blueprint.get("/<int:block_id>/compare")
@allow(Act.PLAN)
def compare(block_id: int) -> ResponseReturnValue:
    """Two or three progressions on one athlete's numbers, and one of them on a made-up athlete."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    exercise = chosen_exercise(block)
    athletes = squad_athletes(reader(), here.squad.id)
    if not athletes:
        raise NotThere("athlete")
    planned = athletes_with_load(reader(), exercise)
    first = next((a for a in athletes if a.id in planned), athletes[0])
    who = next((a for a in athletes if str(a.id) == request.args.get("athlete", "")), first)
    wanted = [code for code in request.args.getlist("progression") if code in LOADED]
    chosen = wanted[:3]
    if not chosen:
        own = exercise.progression if exercise.progression in LOADED else "wave"
        chosen = [own, *(code for code in ("wave", "fixed", "window") if code != own)][:3]
    found = compare_progressions(acting(reader()), block, exercise, who, chosen)
    drawn = [one for one in found if one.measured]
    charts = [
        (title, unit, draw_progressions(f"{title}, {unit}, by week", _lines(drawn, code), from_nought=nought))
        for code, title, unit, nought in MEASURES
    ]
    trial, problems = _trial()
    tried = request.args.get("try", "")
    story = None
    if tried in LOADED and not problems:
        story = try_progression(acting(reader()), block, exercise, tried, trial)
    return render_template(
        "block/compare.html",
        exercise=exercise,
        athletes=athletes,
        athlete=who,
        chosen=chosen,
        found=found,
        charts=charts,
        too_many=len(wanted) > 3,
        loaded=LOADED,
        progressions=PROGRESSIONS,
        sign=progression_sign,
        why=state_words(found[0].why) if found and found[0].why else "",
        trial=trial,
        tried=tried,
        story=story,
        problems=problems,
        said=_said,
        unit=room_of(reader(), here.squad.id).unit,
        **block_head(block),
    ), 422 if problems else 200


def _lines(drawn: list[Any], code: str) -> list[ProgressionLine]:
    return [ProgressionLine(one.name, [getattr(week, code) for week in one.measured.weeks]) for one in drawn]


def _said(week: Any, following: Any, movement: str) -> str:
    """A simulated decision in the coach's words, with the number the next week really asked for."""
    if week.decision is None:
        return "Missed; the same again the week after." if week.load_kg else "Under the lightest load there is."
    effect: dict[str, Any] = {}
    if following and following.load_kg is not None:
        effect = {
            "next_load": f"{following.load_kg:g}",
            "next_reps": following.asked.reps,
            "next_sets": following.asked.sets,
            "next_deload": following.asked.kind == "deload",
        }
    return sentence(
        week.decision.code.value, week.decision.reason, week.decision.facts, effect, movement, squad_library()
    )


def _trial() -> tuple[Trial, dict[str, str]]:
    """The made-up athlete asked for, with what is wrong beside each field."""
    problems: dict[str, str] = {}

    def number(name: str, otherwise: float, low: float, high: float) -> float:
        text = request.args.get(name, "").strip().replace(",", ".")
        if not text:
            return otherwise
        try:
            value = float(read_decimal(text))
        except ValueError:
            problems[name] = problem_words(Problem(name, "not_a_number"))
            return otherwise
        if not low <= value <= high:
            facts: dict[str, str | float | int] = {"name": "Here", "low": low, "high": high}
            problems[name] = problem_words(Problem(name, "parameter_range", facts))
            return otherwise
        return value

    trial = Trial(
        number("max_kg", 100, 20, 400),
        number("gain", 0.6, -1, 3),
        int(number("seed", 1, 0, 10**6)),
        int(number("missed", 0, 0, 26)),
        int(number("sore", 0, 0, 26)),
    )
    return trial, problems
