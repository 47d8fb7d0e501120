"""What if: ideas kept in the address alone, tried on a copy, beside today's, and taken with one click."""

import datetime as dt
from collections.abc import Mapping, Sequence
from typing import Any

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.numbers import plain_day
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.season.calendar import WEEK
from backsquat.pages.block.check import finding_line
from backsquat.pages.block.head import blueprint, cell_words, exercise_name
from backsquat.pages.layout import milestone_name
from backsquat.pages.request import (
    acting,
    actor,
    allow,
    context,
    database,
    forget_reader,
    number,
    reader,
    said_with_undo,
)
from backsquat.storage.models import Exercise
from backsquat.ui.drawing.beside import WeekPair, draw_beside
from backsquat.ui.phrases.days import SHORT_DAYS, day_words, daydate_words
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.problems import problem_words, refusal_words
from backsquat.work.context import WorkContext
from backsquat.work.overview.ahead import Beside, ahead_of, beside
from backsquat.work.overview.what_if import IDEAS_MOST, Idea, WithMatch, WithoutWeek, WithProgression, take
from backsquat.work.plan.days import open_sessions
from backsquat.work.policy import Act
from backsquat.work.season.matches import MatchFacts
from backsquat.work.sessions.blocks import coming_blocks, exercise_of
from backsquat.work.squad.athletes import squad_athletes

FIELDS = ("without", "then", "match", "counts", "away", "exercise", "progression")


@blueprint.get("/what-if")
@allow(Act.PLAN)
def what_if() -> ResponseReturnValue:
    """The ideas in the address, with the one that is being typed if it can be done, beside what is planned today."""
    here, ideas = context(), _ideas(request.args)
    typed, problems = {name: request.args.get(name, "")[:40] for name in FIELDS}, dict[str, str]()
    found = None
    try:
        new = _typed(typed)
        found = _tried([*ideas, new]) if new else None
        ideas, typed = ([*ideas, new], {}) if new else (ideas, typed)
    except ImpossibleInput as error:
        problems = {problem.field: problem_words(problem) for problem in error.problems}
    problem = ""
    if found is None and ideas:
        try:
            found = _tried(ideas)
        except (ImpossibleInput, Refused) as error:  # the plan has changed since the address was made
            problem = _cannot(error)
    names = {athlete.id: athlete.name for athlete in squad_athletes(reader(), here.squad.id)}
    page = render_template(
        "block/what_if.html",
        context=here,
        ideas=[(_text(one), _words(one), [_text(other) for other in ideas if other is not one]) for one in ideas],
        found=found,
        picture=_picture(found) if found else "",
        typed=typed,
        problems=problems,
        problem=problem,
        weeks=_weeks(),
        exercises=[
            exercise for block in coming_blocks(acting(reader())) for exercise in block.exercises if not exercise.ladder
        ],
        progressions={code: one for code, one in PROGRESSIONS.items() if code != "ladder"},
        every_progression=PROGRESSIONS,
        exercise_name=exercise_name,
        short_days=SHORT_DAYS,
        ask_words=_ask_words,
        finding_words=finding_line,
        milestone_name=milestone_name,
        names=names,
        of_exercise=_of_exercise,
        full=len(ideas) >= IDEAS_MOST,
    )
    return page, 422 if problems or problem else 200


@blueprint.post("/what-if")
@allow(Act.PLAN)
def what_if_taken() -> ResponseReturnValue:
    """Do what was tried."""
    here, ideas = context(), _ideas(request.form)
    try:
        with database().writing() as db:
            change_id = take(acting(db), here, ideas, reader()).id
    except ImpossibleInput:
        return redirect(url_for("block.what_if", idea=[_text(one) for one in ideas]))
    forget_reader()
    said_with_undo("Taken. Days and matches count right away; loads are a draft until they are published.", change_id)
    return redirect(url_for("block.index"))


def _tried(ideas: Sequence[Idea]) -> Beside:
    here, who = context(), actor()
    today = ahead_of(reader(), here)
    with database().supposing() as db:
        take(WorkContext(db, who), here, ideas, reader())
        then = ahead_of(db, here)
    return beside(today, then)


def _cannot(error: ImpossibleInput | Refused) -> str:
    return problem_words(error.problems[0]) if isinstance(error, ImpossibleInput) else " ".join(refusal_words(error))


def _ideas(given: Any) -> list[Idea]:
    """The ideas of an address or a form; NotThere where one is none."""
    texts = given.getlist("idea")
    if len(texts) > IDEAS_MOST:
        raise NotThere("idea")
    return [_idea(text) for text in texts]


def _idea(text: str) -> Idea:
    kind, _, rest = text.partition(".")
    first, _, more = rest.partition(".")
    try:
        if kind == "without":
            return WithoutWeek(_monday(first), more != "stands")
        if kind == "match":
            return WithMatch(MatchFacts(plain_day(first), "c" in more, "a" in more))
        if kind == "progression" and more in PROGRESSIONS:
            return WithProgression(exercise_of(reader(), context().squad.id, number(first) or 0)[0].id, more)
    except ValueError:
        pass
    raise NotThere("idea")


def _monday(text: str) -> dt.date:
    day = plain_day(text)
    if day.weekday():
        raise ValueError(text)
    return day


def _text(idea: Idea) -> str:
    """An idea as it stands in an address."""
    if isinstance(idea, WithoutWeek):
        return f"without.{idea.week.isoformat()}.{'on' if idea.moves_on else 'stands'}"
    if isinstance(idea, WithMatch):
        facts = idea.facts
        return f"match.{facts.played_on.isoformat()}.{'c' * facts.important}{'a' * facts.away}"
    return f"progression.{idea.exercise_id}.{idea.progression}"


def _words(idea: Idea) -> str:
    if isinstance(idea, WithoutWeek):
        then = "its work is done a week later and the last of it falls out" if idea.moves_on else "the plan stands"
        return f"Week of {day_words(idea.week)} left out, {then}"
    if isinstance(idea, WithMatch):
        said = ["A match on " + daydate_words(idea.facts.played_on)]
        return ", ".join(said + ["that counts"] * idea.facts.important + ["away"] * idea.facts.away)
    exercise = _of_exercise(idea.exercise_id)
    return (
        f"{exercise_name(exercise)} on {SHORT_DAYS[exercise.weekday]} by {in_text(PROGRESSIONS[idea.progression].name)}"
    )


def _of_exercise(exercise_id: int) -> Exercise:
    return exercise_of(reader(), context().squad.id, exercise_id)[0]


def _typed(typed: Mapping[str, str]) -> Idea | None:
    """The idea that was put together now; None where none was. ImpossibleInput where it cannot be read."""
    if typed["without"]:
        return _read("without", f"without.{typed['without']}.{typed['then']}", "not_a_date")
    if typed["match"]:
        flags = "c" * bool(typed["counts"]) + "a" * bool(typed["away"])
        return _read("match", f"match.{typed['match']}.{flags}", "not_a_date")
    if typed["exercise"]:
        return _read("exercise", f"progression.{typed['exercise']}.{typed['progression']}", "missing")
    return None


def _read(field: str, text: str, code: str) -> Idea:
    try:
        return _idea(text)
    except NotThere:
        raise ImpossibleInput(Problem(field, code)) from None


def _weeks() -> list[tuple[str, str]]:
    """The weeks that can be left out: something of them is still to come."""
    return [
        (day.isoformat(), f"{day_words(day)}, week {week + 1} of {block.name}")
        for block in coming_blocks(acting(reader()))
        for week in open_sessions(acting(reader()), block)
        if (day := block.first_week + week * WEEK)
    ]


def _ask_words(one: Any) -> str:
    """What a cell asks for: load, sets and reps."""
    if one is None:
        return "nothing"
    said = cell_words(one)
    return f"{said} × {one.sets}" if one.load_amount is not None else said


def _picture(found: Beside) -> Any:
    weeks = [
        WeekPair(
            day_words(week),
            week,
            (was.sets if was else None, now.sets if now else None),
            (was.share if was else None, now.share if now else None),
        )
        for week, was, now in found.weeks
    ]
    return draw_beside("Sets and loads week by week, today and then", weeks)
