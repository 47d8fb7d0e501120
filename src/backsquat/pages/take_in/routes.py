"""Open or paste a list of athletes: columns guessed, every line shown as it would be stored, cells mended in place."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import replace
from typing import Any
from uuid import uuid4

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.formats.library import read_library
from backsquat.formats.lines import KINDS, TEST, Line, Note, laid_out, read_lines
from backsquat.formats.table import CELL_MOST, COLUMNS_MOST, ROWS_MOST, table_in, table_of
from backsquat.formats.values import SetRead
from backsquat.pages.request import (
    actor,
    allow,
    clock,
    context,
    database,
    forget_reader,
    number,
    reader,
    said_with_undo,
    squad_library,
    squad_rules,
)
from backsquat.pages.take_in.phrases import column_words, note_words
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.library.open_library import open_library
from backsquat.work.policy import Act
from backsquat.work.record.record import SetFacts
from backsquat.work.record.take_in import Incoming, take_in
from backsquat.work.squad.athletes import squad_athletes

blueprint = Blueprint("take_in", __name__, url_prefix="/take-in", template_folder="templates")


@blueprint.get("/")
@allow(Act.KEEP_ATHLETES)
def index() -> ResponseReturnValue:
    """Where a list is opened or pasted."""
    return render_template("take_in/open.html", context=context(), rows=ROWS_MOST, problem="")


@blueprint.post("/")
@allow(Act.KEEP_ATHLETES)
def opened() -> ResponseReturnValue:
    """The list as it was understood."""
    file, pasted = request.files.get("file"), request.form.get("pasted", "")
    try:
        table = table_of(file.filename or "", file.read()) if file and file.filename else table_in(pasted)
    except ImpossibleInput as error:
        words = problem_words(error.problems[0])
        page = render_template("take_in/open.html", context=context(), rows=ROWS_MOST, problem=words, pasted=pasted)
        return page, 422
    kinds, rows = laid_out(table, _movement_names())
    return _page(kinds, rows, cut=table.cut)


@blueprint.post("/look")
@allow(Act.KEEP_ATHLETES)
def look() -> ResponseReturnValue:
    """The lines again, as they were mended; or what is good of them stored."""
    kinds, rows = _typed()
    if request.form.get("act") != "store":
        return _page(kinds, rows)
    lines = _read(kinds, rows)
    good = [n for n, line in enumerate(lines) if line.good]
    today = clock().today()
    with database().writing() as session:
        done = take_in(session, actor(), [_incoming(lines[n], today) for n in good], squad_rules())
        change_id = done.change.id if done.change else None
    forget_reader()
    refused = {good[place]: problems for place, problems in done.left.items()}
    left = [n for n, line in enumerate(lines) if not line.good or n in refused]
    if change_id:
        words = f"{_many(done.new, 'athlete')} added, {done.changed} changed, {_many(done.tests, 'test')} kept."
        said_with_undo(words + (f" {_many(len(left), 'line')} left, below." if left else ""), change_id)
    if not left:
        return redirect(url_for("squad.index"))
    wrong = {place: [problem_words(problem) for problem in refused[n]] for place, n in enumerate(left) if n in refused}
    return _page(kinds, [rows[n] for n in left], wrong, 200 if change_id else 422)


@blueprint.post("/library")
@allow(Act.PLAN)
def library() -> ResponseReturnValue:
    """Movements, screens and templates another squad handed out."""
    file = request.files.get("file")
    try:
        with database().writing() as session:
            done = open_library(session, actor(), read_library(file.read() if file else b""))
    except ImpossibleInput as error:
        flash(problem_words(error.problems[0]))
        return redirect(url_for("hand_out.index"))
    forget_reader()
    here = f" {len(done.known)} here already." if done.known else ""
    words = f"Added: {', '.join(done.added)}." if done.added else "Nothing added."
    said_with_undo(words + here, done.change)
    return redirect(url_for("hand_out.index"))


def _many(count: int, what: str) -> str:
    return f"{count} {what}{'' if count == 1 else 's'}"


def _page(
    kinds: Sequence[str],
    rows: Sequence[Sequence[str]],
    wrong: dict[int, list[str]] | None = None,
    status: int = 200,
    cut: int = 0,
) -> ResponseReturnValue:
    lines = _read(kinds, rows)
    for place, words in (wrong or {}).items():
        notes = tuple(Note("not_taken", facts={"text": text}) for text in words)
        lines[place] = replace(lines[place], problems=(*lines[place].problems, *notes))
    movements = {movement.code: movement.name for movement in squad_library().in_use()}
    choices = [*KINDS, *(f"{TEST}{code}" for code in _tested(kinds))]
    page = render_template(
        "take_in/look.html",
        context=context(),
        kinds=kinds,
        rows=rows,
        lines=lines,
        good=sum(line.good for line in lines),
        cut=cut,
        choices=[(kind, column_words(kind, movements)) for kind in choices],
        note_words=note_words,
        cell_most=CELL_MOST,
        set_words=_set_words,
        movement_names=movements,
    )
    return page, status


def _tested(kinds: Sequence[str]) -> list[str]:
    """Movements a column can hold tests of: what is loaded on a bar or in the hands; those that were guessed first."""
    guessed = [kind.removeprefix(TEST) for kind in kinds if kind.startswith(TEST)]
    loaded = [one.code for one in squad_library().in_use() if one.takes_load and CONVENTIONS[one.convention].loaded]
    return list(dict.fromkeys([*guessed, *loaded]))


def _set_words(found: SetRead) -> str:
    left = "" if found.reserve_reps is None else f", {found.reserve_reps} left"
    return f"{found.load:f} {found.unit.value} × {found.reps}{left}"


def _movement_names() -> dict[str, str]:
    """Name or alias in small letters → code."""
    found: dict[str, str] = {}
    for movement in squad_library().in_use():
        for name in (movement.name, *movement.aliases):
            found.setdefault(name.casefold(), movement.code)
    return found


def _typed() -> tuple[list[str], list[tuple[str, ...]]]:
    """Columns and cells as the page sends them."""
    form = request.form
    width = min(max(form.get("width", 0, type=number), 1), COLUMNS_MOST)
    height = min(max(form.get("height", 0, type=number), 0), ROWS_MOST)
    known = {*KINDS, *(f"{TEST}{movement.code}" for movement in squad_library().in_use())}
    kinds = [kind if (kind := form.get(f"k{n}", "")) in known else "" for n in range(width)]
    kinds = [kind if kind not in kinds[:n] else "" for n, kind in enumerate(kinds)]
    rows = [tuple(" ".join(form.get(f"c{n}-{m}", "").split())[:CELL_MOST] for m in range(width)) for n in range(height)]
    return kinds, [row for n, row in enumerate(rows) if any(row) and not form.get(f"out{n}")]


def _read(kinds: Sequence[str], rows: Sequence[Sequence[str]]) -> list[Line]:
    known = {athlete.id: athlete for athlete in squad_athletes(reader(), context().squad.id)}
    lines = read_lines(rows, kinds, {athlete.name: id for id, athlete in known.items()}, clock().today())
    for n, line in enumerate(lines):
        was = known[line.athlete_id].born_on if line.athlete_id else None
        if was and line.born_on and was != line.born_on:
            lines[n] = replace(line, doubts=(*line.doubts, Note("born_other", facts={"day": was.isoformat()})))
    return lines


def _incoming(line: Line, today: dt.date) -> Incoming:
    about: dict[str, Any] = {name: getattr(line, name) for name in ("name", "athlete_id", "born_on", "mass_kg")}
    about |= {name: getattr(line, name) for name in ("position", "newcomer", "consent", "guardian")}
    day = line.tested_on or today
    tests = tuple((code, _facts(found, day)) for code, found in line.tests)
    return Incoming(**about, tests=tests)


def _facts(found: SetRead, day: dt.date) -> SetFacts:
    return SetFacts(str(uuid4()), found.load, found.unit, found.reps, found.reps, found.reserve_reps, day)
