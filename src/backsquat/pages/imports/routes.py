"""Open or paste a list: columns guessed, every line shown as it would be stored, cells fixed in place."""

import re
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.readiness.checklist import age_years
from backsquat.formats.columns import ROWS, SCREEN, TEST, KnownWords, ListKind, kind_of, kinds_of, laid_out
from backsquat.formats.library import read_library
from backsquat.formats.lines import Note
from backsquat.formats.past import filled_down
from backsquat.formats.table import CELL_MOST, COLUMNS_MOST, Table, WorkbookSheet, sheets_of, table_in
from backsquat.pages.imports.book import Book, BookSheet, book_sent
from backsquat.pages.imports.lists import READ, STORE, AnyLine, Words, asked_words, known, many
from backsquat.pages.imports.phrases import KINDS_WORDS, column_words, note_words, stored_words
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
    takes,
)
from backsquat.ui.phrases.problems import problem_words
from backsquat.work.library.open_library import open_library
from backsquat.work.library.screens import screens_of
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import lifts_of
from backsquat.work.squad.athletes import squad_athletes
from backsquat.work.squad.columns import remember_heads

blueprint = Blueprint("imports", __name__, url_prefix="/import", template_folder="templates")
FILE_MOST_BYTES = 1_000_000
SENT_MOST_BYTES = 12_000_000  # a workbook's cells as they travel with the page
EDITED_MOST = 150  # lines with fields to fix; of a longer list those that need it, and the rest is read
LISTED_MOST = 3_000


@blueprint.get("/")
@allow(Act.KEEP_ATHLETES)
def index() -> ResponseReturnValue:
    """Where a list is opened or pasted."""
    return _open_page()


def _open_page(problem: str = "", status: int = 200) -> ResponseReturnValue:
    page = render_template(
        "imports/open.html",
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
    """The list as it was understood; of a workbook with several sheets which there are."""
    file, pasted = request.files.get("file"), request.form.get("pasted", "")
    try:
        sent = sheets_of(file.filename, file.read()) if file and file.filename else ()
        sheets = sent or (WorkbookSheet("", table_in(pasted)),)
    except ImpossibleInput as error:
        return _open_page(problem_words(error.problems[0]), 422)
    if len(sheets) > 1:
        return _sheets_page(Book(tuple(BookSheet(one.name, one.table) for one in sheets)))
    return _laid_page(sheets[0].table, _asked_kind(), None)


@blueprint.post("/sheet")
@allow(Act.KEEP_ATHLETES)
@takes(SENT_MOST_BYTES)
def sheet() -> ResponseReturnValue:
    """One sheet of a workbook, as the list it is; or the sheets again."""
    book = book_sent()
    if book is None:
        return _open_page(problem_words(Problem("file", "file_damaged")), 422)
    if book.at is None or "sheets" in request.form:
        return _sheets_page(book)
    return _laid_page(book.sheets[book.at].table, _asked_kind(), book)


def _laid_page(table: Table, kind: ListKind | None, book: Book | None) -> ResponseReturnValue:
    kind = kind or _guessed(table)
    laid = laid_out(table, known(kind), kind)
    rows = filled_down(laid.rows, laid.kinds) if kind is ListKind.SETS else laid.rows
    return _page(_List(kind, laid.kinds, laid.heads, rows, numbers=laid.numbers, book=book), cut=laid.cut)


def _sheets_page(book: Book) -> ResponseReturnValue:
    found = []
    for one in book.sheets:
        kind = _guessed(one.table)
        named = any(laid_out(one.table, known(kind), kind).kinds)
        found.append((one, kind if named else None, [cell for cell in one.table.rows[0] if cell][:6]))
    return render_template("imports/sheets.html", context=context(), sheets=found, book=book, kinds=KINDS_WORDS), 200


def _asked_kind() -> ListKind | None:
    wanted = request.values.get("kind", "")
    return ListKind(wanted) if wanted in set(ListKind) else None


def _guessed(table: Table) -> ListKind:
    names = known(ListKind.ATHLETES)
    return kind_of(table, KnownWords(names.movements, names.screens))


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
        numbers: Sequence[int] = (),
        words: Words | None = None,
        book: Book | None = None,
    ) -> None:
        self.kind, self.kinds, self.heads, self.rows = kind, kinds, heads, list(rows)
        self.out, self.everybody, self.words, self.book = set(out), everybody, words or Words(), book
        self.numbers = [*numbers, *range(len(numbers) + 1, len(self.rows) + 1)][: len(self.rows)]

    def kept(self) -> "_List":
        """Without the lines that are left out."""
        return self.only([n for n in range(len(self.rows)) if n not in self.out])

    def only(self, places: Sequence[int]) -> "_List":
        """These lines of it; what a line took from the one above stays its own."""
        rows = filled_down(self.rows, self.kinds) if self.kind is ListKind.SETS else self.rows
        mine, numbers = [rows[n] for n in places], [self.numbers[n] for n in places]
        about: dict[str, Any] = {"everybody": self.everybody, "words": self.words, "book": self.book}
        return _List(self.kind, self.kinds, self.heads, mine, numbers=numbers, **about)

    def read(self) -> Sequence[AnyLine]:
        """Every line as it would be stored."""
        return READ[self.kind](self.kinds, self.rows, self.words)

    @property
    def text(self) -> str:
        """The cells as they travel with the page."""
        return "\n".join("\t".join(row) for row in self.rows)


@blueprint.post("/look")
@allow(Act.KEEP_ATHLETES)
@takes(SENT_MOST_BYTES)
def look() -> ResponseReturnValue:
    """The lines again, as they were fixed; or what is good of them stored."""
    typed = _typed().kept()
    if request.form.get("act") != "store":
        return _page(typed)
    lines = typed.read()
    good = [n for n, line in enumerate(lines) if line.good]
    with database().writing() as db:
        done = STORE[typed.kind](db, [lines[n] for n in good])
        heads = {head: column for head, column in zip(typed.heads, typed.kinds, strict=True) if head}
        remember_heads(acting(db), typed.kind.value, heads)
        typed.words.remember(db)
    forget_reader()
    refused = {good[place]: problems for place, problems in done.refused.items()}
    left = [n for n, line in enumerate(lines) if not line.good or n in refused]
    if done.change_id or not left:
        below = f" {many(len(left), 'line')} left, below." if left else ""
        said_with_undo(done.words + below, done.change_id)
    if not left and typed.book:
        return _sheets_page(typed.book.taken())
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
        with database().writing() as db:
            done = open_library(acting(db), read_library(file.read() if file else b""))
    except ImpossibleInput as error:
        flash(problem_words(error.problems[0]))
        return redirect(url_for("exports.index"))
    forget_reader()
    here = f" {len(done.known)} here already." if done.known else ""
    words = f"Added: {', '.join(done.added)}." if done.added else "Nothing added."
    said_with_undo(words + here, done.change)
    return redirect(url_for("exports.index"))


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
        "imports/look.html",
        context=context(),
        typed=typed,
        lines=lines,
        edited=edited,
        others=[n for n in range(len(lines)) if n not in set(edited)],
        good=sum(line.good for line in lines),
        cut=cut,
        kinds=KINDS_WORDS,
        choices=[(kind, column_words(kind, names, screens)) for kind in _choices(typed)],
        note_words=lambda note: note_words(_as_counted(note, typed.numbers)),
        asked=asked_words(lines, typed.words),
        athletes=squad_athletes(reader(), context().squad.id) if typed.kind is ListKind.SETS else [],
        names=names,
        cell_most=CELL_MOST,
        stored=lambda line: stored_words(line, names, screens),
    )
    return page, status


def _as_counted(note: Note, numbers: Sequence[int]) -> Note:
    """A note that names another line names it as the file counts."""
    line = note.facts.get("line", "")
    if not line.isdecimal() or int(line) > len(numbers):
        return note
    return replace(note, facts={**note.facts, "line": str(numbers[int(line) - 1])})


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
    rows = _typed_rows(kind, width)
    out = [n for n, row in enumerate(rows) if not any(row) or form.get(f"out{n}")]
    numbers = [int(one) for one in form.get("numbers", "").split(",")[: len(rows)] if one.isdecimal() and len(one) < 7]
    heads = [form.get(f"h{n}", "")[:60] for n in range(width)]
    typed = _List(kind, [""] * width, heads, rows, out, numbers=numbers, words=_answered(), book=_book_open())
    typed.everybody = form.get("everybody") == "1"
    known_kinds = set(_choices(typed)) | {f"{TEST}{one.code}" for one in squad_library().in_use()}
    chosen = [column if (column := form.get(f"k{n}", "")) in known_kinds else "" for n in range(width)]
    typed.kinds = [column if column not in chosen[:n] else "" for n, column in enumerate(chosen)]
    return typed


def _typed_rows(kind: ListKind, width: int) -> list[tuple[str, ...]]:
    """The lines of the text, with the fields `c<line>-<column>` over them."""
    rows = [_row(line.split("\t"), width) for line in request.form.get("table", "").splitlines()[: ROWS[kind]]]
    for name, value in request.form.items():
        n, m = _place(name)
        if 0 <= n < ROWS[kind] and m < width:
            rows += [_row([], width)] * (n + 1 - len(rows))
            rows[n] = (*rows[n][:m], " ".join(value.split())[:CELL_MOST], *rows[n][m + 1 :])
    return rows


def _place(name: str) -> tuple[int, int]:
    """Line and column of a field of a cell; line -1 for any other field."""
    found = re.fullmatch(r"c(\d{1,5})-(\d{1,5})", name, re.ASCII)
    return (int(found[1]), int(found[2])) if found else (-1, 0)


def _book_open() -> Book | None:
    """The workbook of which this list is a sheet."""
    book = book_sent()
    return book if book and book.at is not None else None


def _answered() -> Words:
    """What was said of words that stand in many lines."""
    said, library = Words(), squad_library()
    here = {str(one.id): one.id for one in squad_athletes(reader(), context().squad.id)}
    for asked, means in zip(request.form.getlist("word"), request.form.getlist("means"), strict=False):
        of, _, word = asked[: CELL_MOST + 10].partition(":")
        if of == "movement" and means in library.movements:
            said.movements[word] = means
        if of == "name" and means in here:
            said.names[word] = here[means]
    return said


def _row(cells: Sequence[str], width: int) -> tuple[str, ...]:
    plain = [" ".join(cell.split())[:CELL_MOST] for cell in cells[:width]]
    return (*plain, *[""] * (width - len(plain)))
