"""Open or paste a list: columns guessed, every line shown as it would be stored, cells mended in place."""

from collections.abc import Sequence
from dataclasses import replace

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.readiness.gate import age_years
from backsquat.formats.columns import ROWS, SCREEN, TEST, Known, ListKind, kind_of, kinds_of, laid_out
from backsquat.formats.library import read_library
from backsquat.formats.lines import Note
from backsquat.formats.table import CELL_MOST, COLUMNS_MOST, Table, table_in, table_of
from backsquat.pages.request import (
    actor,
    allow,
    context,
    database,
    forget_reader,
    number,
    reader,
    said_with_undo,
    squad_library,
    takes,
)
from backsquat.pages.take_in.lists import READ, STORE, AnyLine, known, many
from backsquat.pages.take_in.phrases import KINDS_WORDS, column_words, note_words, stored_words
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.library.open_library import open_library
from backsquat.work.library.screens import screens_of
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import lifts_of
from backsquat.work.squad.athletes import squad_athletes
from backsquat.work.squad.columns import remember_heads

blueprint = Blueprint("take_in", __name__, url_prefix="/take-in", template_folder="templates")
FILE_MOST_BYTES = 1_000_000
EDITED_MOST = 150  # lines with fields to mend; of a longer list those that need it, and the rest is read
LISTED_MOST = 3_000


@blueprint.get("/")
@allow(Act.KEEP_ATHLETES)
def index() -> ResponseReturnValue:
    """Where a list is opened or pasted."""
    return _open_page()


def _open_page(problem: str = "", status: int = 200) -> ResponseReturnValue:
    page = render_template(
        "take_in/open.html",
        context=context(),
        rows=ROWS,
        kinds=KINDS_WORDS,
        problem=problem,
        pasted=request.form.get("pasted", ""),
        kind=request.values.get("kind", ""),
    )
    return page, status


@blueprint.post("/")
@allow(Act.KEEP_ATHLETES)
@takes(FILE_MOST_BYTES)
def opened() -> ResponseReturnValue:
    """The list as it was understood."""
    file, pasted = request.files.get("file"), request.form.get("pasted", "")
    try:
        table = table_of(file.filename or "", file.read()) if file and file.filename else table_in(pasted)
    except ImpossibleInput as error:
        return _open_page(problem_words(error.problems[0]), 422)
    kind = _asked_kind() or _guessed(table)
    laid = laid_out(table, known(kind), kind)
    return _page(_List(kind, laid.kinds, laid.heads, laid.rows), cut=laid.cut)


def _asked_kind() -> ListKind | None:
    wanted = request.values.get("kind", "")
    return ListKind(wanted) if wanted in set(ListKind) else None


def _guessed(table: Table) -> ListKind:
    names = known(ListKind.ATHLETES)
    return kind_of(table, Known(names.movements, names.screens))


@blueprint.get("/everybody")
@allow(Act.KEEP_ATHLETES)
def everybody() -> ResponseReturnValue:
    """The squad as a list to write into: body masses, tests of the main lifts, the consent of minors."""
    here = context()
    athletes = squad_athletes(reader(), here.squad.id)
    minors = any(age_years(one.born_on, here.today) < here.rules.adult_age_years for one in athletes)
    tests = [f"{TEST}{code}" for code in lifts_of(reader(), here.squad.id, here.week)]
    kinds = ["name", *tests, "mass", "tested", *(["consent"] if minors else [])]
    rows = [(one.name, *[""] * (len(kinds) - 1)) for one in athletes]
    return _page(_List(ListKind.ATHLETES, kinds, [""] * len(kinds), rows, everybody=True))


class _List:
    """A list on its way: what it is of, its columns, their heads, its lines."""

    def __init__(
        self,
        kind: ListKind,
        kinds: list[str],
        heads: list[str],
        rows: Sequence[tuple[str, ...]],
        out: Sequence[int] = (),
        everybody: bool = False,
    ) -> None:
        self.kind, self.kinds, self.heads, self.rows = kind, kinds, heads, list(rows)
        self.out, self.everybody = set(out), everybody

    def kept(self) -> "_List":
        """Without the lines that are left out."""
        rows = [row for n, row in enumerate(self.rows) if n not in self.out]
        return _List(self.kind, self.kinds, self.heads, rows, everybody=self.everybody)

    def only(self, places: Sequence[int]) -> "_List":
        """These lines of it."""
        return _List(self.kind, self.kinds, self.heads, [self.rows[n] for n in places], everybody=self.everybody)

    def read(self) -> Sequence[AnyLine]:
        """Every line as it would be stored."""
        return READ[self.kind](self.kinds, self.rows)

    @property
    def text(self) -> str:
        """The cells as they travel with the page."""
        return "\n".join("\t".join(row) for row in self.rows)


@blueprint.post("/look")
@allow(Act.KEEP_ATHLETES)
@takes(FILE_MOST_BYTES)
def look() -> ResponseReturnValue:
    """The lines again, as they were mended; or what is good of them stored."""
    typed = _typed().kept()
    if request.form.get("act") != "store":
        return _page(typed)
    lines = typed.read()
    good = [n for n, line in enumerate(lines) if line.good]
    with database().writing() as session:
        done = STORE[typed.kind](session, [lines[n] for n in good])
        heads = {head: column for head, column in zip(typed.heads, typed.kinds, strict=True) if head}
        remember_heads(session, actor(), typed.kind.value, heads)
    forget_reader()
    refused = {good[place]: problems for place, problems in done.refused.items()}
    left = [n for n, line in enumerate(lines) if not line.good or n in refused]
    if done.change_id or not left:
        below = f" {many(len(left), 'line')} left, below." if left else ""
        said_with_undo(done.words + below, done.change_id)
    if not left:
        return redirect(url_for("squad.index"))
    wrong = {place: [problem_words(problem) for problem in refused[n]] for place, n in enumerate(left) if n in refused}
    return _page(typed.only(left), wrong, 200 if done.change_id else 422)


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


def _page(
    typed: _List, wrong: dict[int, list[str]] | None = None, status: int = 200, cut: int = 0
) -> ResponseReturnValue:
    lines = list(typed.read())
    for place, words in (wrong or {}).items():
        notes = tuple(Note("not_taken", facts={"text": text}) for text in words)
        lines[place] = replace(lines[place], problems=(*lines[place].problems, *notes))
    names = {movement.code: movement.name for movement in squad_library().in_use()}
    screens = {code: one.name for code, one in screens_of(reader(), context().squad.id).items()}
    edited = _edited(lines)
    page = render_template(
        "take_in/look.html",
        context=context(),
        typed=typed,
        lines=lines,
        edited=edited,
        others=[n for n in range(len(lines)) if n not in set(edited)],
        good=sum(line.good for line in lines),
        cut=cut,
        kinds=KINDS_WORDS,
        choices=[(kind, column_words(kind, names, screens)) for kind in _choices(typed)],
        note_words=note_words,
        cell_most=CELL_MOST,
        stored=lambda line: stored_words(line, names, screens),
    )
    return page, status


def _edited(lines: Sequence[AnyLine]) -> list[int]:
    """Which lines have fields: all of a short list, of a long one those with something to look at, the worst first."""
    if len(lines) <= EDITED_MOST:
        return list(range(len(lines)))
    wrong = [n for n, line in enumerate(lines) if line.problems]
    asked = [n for n, line in enumerate(lines) if line.doubts and not line.problems]
    return [*wrong, *asked][:EDITED_MOST]


def _choices(typed: _List) -> list[str]:
    """What a column can hold: with tests of what is loaded on a bar or in the hands, those that were guessed first."""
    plain = list(kinds_of(typed.kind))
    if typed.kind is ListKind.MATCHES:
        return plain
    loaded = [one.code for one in squad_library().in_use() if one.takes_load and CONVENTIONS[one.convention].loaded]
    tests = [kind for kind in typed.kinds if kind.startswith(TEST)] + [f"{TEST}{code}" for code in loaded]
    found = [*plain, *dict.fromkeys(tests)]
    return found + _screen_columns() if typed.kind is ListKind.ATHLETES else found


def _screen_columns() -> list[str]:
    screens = screens_of(reader(), context().squad.id)
    return [f"{SCREEN}{code}:{side}" for code, one in screens.items() if not one.retired for side in one.sides]


def _typed() -> _List:
    """The list as the page sends it: the whole of it as text, and the cells that were shown as fields."""
    form = request.form
    kind = _asked_kind() or ListKind.ATHLETES
    width = min(max(form.get("width", 0, type=number), 1), COLUMNS_MOST)
    rows = [_row(line.split("\t"), width) for line in form.get("table", "").splitlines()[: ROWS[kind]]]
    for name, value in form.items():
        place = name.removeprefix("c").split("-") if name.startswith("c") else []
        if len(place) == 2 and all(part.isdecimal() and len(part) < 6 for part in place):
            n, m = int(place[0]), int(place[1])
            if n < ROWS[kind] and m < width:
                rows += [_row([], width)] * (n + 1 - len(rows))
                rows[n] = (*rows[n][:m], " ".join(value.split())[:CELL_MOST], *rows[n][m + 1 :])
    out = [n for n, row in enumerate(rows) if not any(row) or form.get(f"out{n}")]
    typed = _List(kind, [""] * width, [form.get(f"h{n}", "")[:60] for n in range(width)], rows, out)
    typed.everybody = form.get("everybody") == "1"
    known_kinds = set(_choices(typed)) | {f"{TEST}{one.code}" for one in squad_library().in_use()}
    chosen = [column if (column := form.get(f"k{n}", "")) in known_kinds else "" for n in range(width)]
    typed.kinds = [column if column not in chosen[:n] else "" for n, column in enumerate(chosen)]
    return typed


def _row(cells: Sequence[str], width: int) -> tuple[str, ...]:
    plain = [" ".join(cell.split())[:CELL_MOST] for cell in cells[:width]]
    return (*plain, *[""] * (width - len(plain)))
