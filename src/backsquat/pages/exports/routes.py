"""What leaves the application: files in open formats, and the address of a calendar."""

import datetime as dt
from collections.abc import Sequence
from itertools import groupby

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.sansio.blueprints import BlueprintSetupState
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.core.numbers import plain_day
from backsquat.formats.archive import Archive, packed
from backsquat.formats.calendar import Entry, as_calendar
from backsquat.formats.library import library_text
from backsquat.formats.written import Written, as_csv, as_workbook
from backsquat.pages.exports.columns import LOG, SHEET, Reader, written
from backsquat.pages.exports.phrases import cell_words
from backsquat.pages.papers import sent
from backsquat.pages.request import (
    acting,
    allow,
    allow_anyone,
    clock,
    context,
    database,
    number,
    reader,
    said_with_undo,
    squad_library,
    trusted_with_health,
)
from backsquat.work.context import library_of
from backsquat.work.exports.archive import export_squad
from backsquat.work.exports.calendar import (
    CalendarDay,
    addresses_of,
    calendar_days,
    end_address,
    give_address,
    squad_by_address,
)
from backsquat.work.exports.log import log_lines
from backsquat.work.exports.plan import PlanLine, plan_lines
from backsquat.work.library.own_entries import own_entries
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of, squad_blocks
from backsquat.work.squad.athletes import squad_athletes

blueprint = Blueprint("exports", __name__, url_prefix="/export", template_folder="templates")
KINDS = {"csv": "text/csv; charset=utf-8", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}


@blueprint.get("/")
@allow(Act.KEEP_PEOPLE)
def index() -> ResponseReturnValue:
    """Everything that can be taken along, in one place."""
    return _page()


def _page(address: str = "") -> str:
    here = context()
    return render_template(
        "exports/index.html",
        context=here,
        athletes=squad_athletes(reader(), here.squad.id),
        blocks=list(reversed(squad_blocks(reader(), here.squad.id))),
        addresses=addresses_of(acting(reader())),
        address=address,
    )


@blueprint.get("/log.<kind>")
@allow(Act.PLAN)
def log(kind: str) -> ResponseReturnValue:
    """Sets that stand. `first`, `last`: days, the season's without; `athlete`: only theirs."""
    here = context()
    first, last = _day("first", here.season.first_week), _day("last", here.today)
    lines = log_lines(acting(reader()), first, last, request.args.get("athlete", type=number))
    return _table([written("log", LOG, lines, _reader())], kind, f"log-{first}-{last}")


def _day(name: str, otherwise: dt.date) -> dt.date:
    try:
        return plain_day(request.args.get(name, ""))
    except ValueError:
        return otherwise


@blueprint.get("/sheet/<int:block_id>.<kind>")
@allow(Act.READ_PLAN)
def sheet(block_id: int, kind: str) -> ResponseReturnValue:
    """A block as it stands on its sheet; as a workbook with a table of weeks an exercise before the lines."""
    block = block_of(reader(), context().squad.id, block_id)
    lines = plan_lines(acting(reader()), block)
    long = written("all lines", SHEET, lines, _reader())
    tables = [*_by_exercise(lines), long] if kind == "xlsx" else [long]
    return _table(tables, kind, f"sheet-{block.first_week}")


def _reader() -> Reader:
    return Reader(squad_library(), trusted_with_health())


def _by_exercise(lines: Sequence[PlanLine]) -> list[Written]:
    found = []
    for _, of_exercise in groupby(lines, key=lambda line: line.exercise_id):
        rows = list(of_exercise)
        weeks = sorted({line.week for line in rows})
        said = {(line.athlete, line.week): cell_words(line) for line in rows}
        names = list(dict.fromkeys(line.athlete for line in rows))
        table = [[name, *(said.get((name, week), "") for week in weeks)] for name in names]
        days = {line.week: line.day for line in rows}
        heads = ["athlete", *(f"week {week}, {days[week]}" for week in weeks)]
        found.append(Written(f"{rows[0].order} {_reader().name(rows[0].movement)}", heads, table))
    return found


def _table(tables: Sequence[Written], kind: str, name: str) -> Response:
    if kind not in KINDS:
        raise NotThere("file")
    content = as_workbook(tables) if kind == "xlsx" else as_csv(tables[-1])
    return sent(content, f"{name}.{kind}", KINDS[kind])


@blueprint.get("/library.json")
@allow(Act.PLAN)
def library() -> ResponseReturnValue:
    """The squad's own movements, screens and templates as they are kept, to be opened by another squad."""
    entries = own_entries(reader(), context().squad.id)
    return sent(library_text(entries).encode(), "library.json", "application/json")


@blueprint.post("/squad.zip")
@allow(Act.EXPORT)
def archive() -> ResponseReturnValue:
    """The whole squad; a post, since it leaves a line in the audit log."""
    with database().writing() as db:
        found = export_squad(acting(db))
    content = packed(Archive(found.revision, found.tables), found.schema, clock().now().isoformat(timespec="seconds"))
    return sent(content, f"squad-{clock().today()}.zip", "application/zip")


@blueprint.post("/calendar")
@allow(Act.KEEP_PEOPLE)
def calendar_given() -> ResponseReturnValue:
    """A new secret address, shown once."""
    with database().writing() as db:
        token = give_address(acting(db))
    return _page(url_for("exports.calendar", token=token, week=None, _external=True))


@blueprint.post("/calendar/<int:address_id>/end")
@allow(Act.KEEP_PEOPLE)
def calendar_ended(address_id: int) -> ResponseReturnValue:
    """Nobody reads from it any more."""
    with database().writing() as db:
        end_address(acting(db), address_id)
    said_with_undo("The address opens nothing any more.", None)
    return redirect(url_for("exports.index"))


@blueprint.get("/calendar/<token>.ics")
@allow_anyone
def calendar(token: str) -> ResponseReturnValue:
    """Sessions and matches for a calendar program, which has nothing but the address. Nobody's name is in it."""
    squad = squad_by_address(reader(), token)
    known = library_of(reader(), squad.id)
    names = {code: movement.name for code, movement in known.movements.items()}
    names |= {code: ladder.name for code, ladder in known.ladders.items()}
    entries = [_entry(day, names) for day in calendar_days(reader(), squad.id)]
    name = f"{squad.club}, {squad.name}"
    place = request.host.partition(":")[0]
    return sent(as_calendar(name, entries, clock().now(), place), "calendar.ics", "text/calendar; charset=utf-8")


@blueprint.record_once
def _addresses_given_before(state: BlueprintSetupState) -> None:
    """Calendars hold the address they were given: those of before 1.0 go on."""
    state.app.add_url_rule("/hand-out/calendar/<token>.ics", "calendar_before", calendar)


def _entry(day: CalendarDay, names: dict[str, str]) -> Entry:
    if not day.movements:
        words = ", ".join(part for part in (day.block, day.session) if part)
        kind = "Match that counts" if day.important else "Match"
        return Entry(day.key, day.day, f"{kind}: {words}" if words else kind)
    what = "\n".join(names.get(code, code) for code in dict.fromkeys(day.movements))
    return Entry(day.key, day.day, day.session or day.block, f"{day.block}, {day.minutes} min\n{what}")
