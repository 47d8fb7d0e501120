"""A table as somebody has it, as rows of text: any separator, old encodings, workbooks with formulas and merged cells."""

import csv
import datetime as dt
import io
import statistics
import zipfile
from dataclasses import dataclass, replace
from typing import Any

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.words import clean_words
from backsquat.formats.apart import read_apart
from backsquat.formats.calendar import days_in

ROWS_MOST, COLUMNS_MOST, CELL_MOST = 3_000, 20, 120
SHEETS_MOST, NAME_MOST = 20, 60
UNPACKED_MOST = 30_000_000  # bytes of a workbook once unpacked: a small file can hold a very large one
SEPARATORS = ("\t", ";", "|", ",")  # a comma last: it may be a decimal comma
BOUND_TO = ("utf-8-sig", "cp1252")
OTHERS = (".xls", ".ods", ".numbers", ".pdf", ".doc", ".docx")
NO_VALUE = "="  # a formula that was never worked out


@dataclass(frozen=True)
class Table:
    """Rows of as many cells each, empty ones left out; `cut`: how many rows or columns were too many."""

    rows: tuple[tuple[str, ...], ...]
    cut: int = 0
    numbers: tuple[int, ...] = ()  # of the rows as the file counts them, from 1


@dataclass(frozen=True)
class WorkbookSheet:
    """One sheet of a workbook; a file of text is one without a name."""

    name: str
    table: Table


def table_of(name: str, content: bytes) -> Table:
    """The fullest sheet of a file; ImpossibleInput where it is none of ours or nothing is in it."""
    return max((sheet.table for sheet in sheets_of(name, content)), key=_cells_in)


def _cells_in(table: Table) -> int:
    return sum(bool(cell) for row in table.rows for cell in row)


def sheets_of(name: str, content: bytes) -> tuple[WorkbookSheet, ...]:
    """Every sheet of a file in which something stands; ImpossibleInput where it is none of ours or nothing is in it."""
    if content[:4] == b"PK\x03\x04":
        found = [(title, rows) for title, rows in read_apart("workbook", "file", content) if any(map(any, rows))]
        if not found:
            raise ImpossibleInput(Problem("file", "file_empty"))
        return tuple(WorkbookSheet(clean_words(title)[:NAME_MOST], _checked(rows)) for title, rows in found)
    wide = content.startswith((b"\xff\xfe", b"\xfe\xff"))  # text in two bytes a sign
    if not wide and (name.lower().endswith(OTHERS) or b"\x00" in content[:2000]):
        raise ImpossibleInput(Problem("file", "file_kind"))
    return (WorkbookSheet("", table_in(_text(content))),)


def table_in(text: str) -> Table:
    """What was pasted, or a file of text; a calendar is a table of its days."""
    if text.lstrip().startswith("BEGIN:VCALENDAR"):
        return _checked(days_in(text))
    lines = [line for line in text.splitlines() if line.strip()]
    try:
        rows = list(csv.reader(io.StringIO("\n".join(text.splitlines())), delimiter=_separator(lines)))
    except csv.Error as error:  # a cell larger than a page of text
        raise ImpossibleInput(Problem("file", "file_damaged")) from error
    return _checked(rows)


def _text(content: bytes) -> str:
    if content.startswith((b"\xff\xfe", b"\xfe\xff")):
        return content.decode("utf-16", "replace")
    for encoding in BOUND_TO:
        try:
            return content.decode(encoding)
        except UnicodeDecodeError:
            continue
    return content.decode("latin-1")


def _separator(lines: list[str]) -> str:
    """The first of the usual ones that stands in most lines, and about as often in each."""
    for separator in SEPARATORS:
        counts = [line.count(separator) for line in lines[:50]]
        if counts and statistics.median(counts) >= 1:
            return separator
    return ","


def _checked(rows: list[list[str]]) -> Table:
    """Bounded, with what is empty left out: rows, and columns nobody wrote in."""
    cleaned = [[clean_words(" ".join(cell.split()))[:CELL_MOST] for cell in row] for row in rows]
    plain = [(number, row) for number, row in enumerate(cleaned, 1) if any(row)]
    if not plain:
        raise ImpossibleInput(Problem("file", "file_empty"))
    width = max(len(row) for _, row in plain)
    used = [n for n in range(width) if any(n < len(row) and row[n] for _, row in plain)]
    cut = max(0, len(plain) - ROWS_MOST - 15) + max(0, len(used) - COLUMNS_MOST)
    used = used[:COLUMNS_MOST]
    shaped = [(k, tuple(row[n] if n < len(row) else "" for n in used)) for k, row in plain[: ROWS_MOST + 15]]
    kept = [(number, row) for number, row in shaped if any(row)]
    return Table(tuple(row for _, row in kept), cut, tuple(number for number, _ in kept))


def table_again(rows: Any, numbers: Any) -> Table:
    """A table that has travelled with a page, bounded once more; ImpossibleInput where it is none."""
    if not isinstance(rows, list) or not all(isinstance(row, list) for row in rows):
        raise ImpossibleInput(Problem("file", "file_damaged"))
    table = _checked([[str(cell) for cell in row] for row in rows])
    counted = tuple(one for one in numbers if isinstance(one, int) and 0 < one < 10_000_000)
    return replace(table, numbers=counted) if len(counted) == len(table.rows) else table


def workbook_sheets(content: bytes) -> list[tuple[str, list[list[str]]]]:
    """The sheets of a workbook; of merged cells each has the value, of formulas what they came to."""
    values, formulas = _opened(content)
    found = []
    for sheet in values.worksheets[:SHEETS_MOST]:
        if sheet.max_row and sheet.max_column:
            rows = [list(row) for row in _cells(sheet)]
            _say_unknown(rows, formulas[sheet.title])
            _spread_merged(rows, sheet)
            found.append((sheet.title, [[_written(value) for value in row] for row in rows]))
    return found


def _opened(content: bytes) -> tuple[Any, Any]:
    """The workbook with what its formulas came to, and with the formulas themselves."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            if sum(part.file_size for part in packed.infolist()) > UNPACKED_MOST:
                raise ImpossibleInput(Problem("file", "file_large"))
        return load_workbook(io.BytesIO(content), data_only=True), load_workbook(io.BytesIO(content))
    except (InvalidFileException, zipfile.BadZipFile, KeyError, ValueError, TypeError, OSError, EOFError) as error:
        raise ImpossibleInput(Problem("file", "file_kind")) from error


def _say_unknown(rows: list[list[Any]], asked: Any) -> None:
    """Where a formula was saved without what it comes to, say so in its stead."""
    for row, written in zip(rows, _cells(asked), strict=False):
        for m, (value, formula) in enumerate(zip(row, written, strict=False)):
            if value is None and str(formula or "").startswith("="):
                row[m] = NO_VALUE


def _spread_merged(rows: list[list[Any]], sheet: Any) -> None:
    for merged in sheet.merged_cells.ranges:
        value = sheet.cell(merged.min_row, merged.min_col).value
        for n in range(merged.min_row - 1, min(merged.max_row, len(rows))):
            for m in range(merged.min_col - 1, min(merged.max_col, len(rows[n]))):
                rows[n][m] = value


def _cells(sheet: Any) -> Any:
    """No more of a sheet than it has, nor than is taken: a cell that is only looked at is made."""
    rows, columns = min(sheet.max_row, ROWS_MOST + 20), min(sheet.max_column, 60)
    return sheet.iter_rows(max_row=rows, max_col=columns, values_only=True)


def _written(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, dt.datetime):
        return value.date().isoformat()
    if isinstance(value, dt.date):
        return value.isoformat()
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.3f}".rstrip("0").rstrip(".")
    return str(value)
