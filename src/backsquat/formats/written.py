"""Tables written out: CSV that no spreadsheet takes for a formula, and workbooks with numbers and days as such."""

import csv
import datetime as dt
import io
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from backsquat.version import PRODUCT

Value = str | int | float | Decimal | dt.date | dt.datetime | bool | None
TITLE_MOST, WIDE_MOST, WIDTH_ROWS = 31, 40, 200
UNPRINTABLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
DAY, MOMENT = "yyyy-mm-dd", "yyyy-mm-dd hh:mm"


@dataclass(frozen=True)
class Written:
    """A table to write: its title, its heads (with units), its rows of plain values."""

    title: str
    heads: Sequence[str]
    rows: Sequence[Sequence[Value]]


def harmless(text: str) -> str:
    """Text that no spreadsheet takes for a formula."""
    return f"'{text}" if text.startswith(("=", "+", "-", "@", "\t", "\r")) else text


def as_csv(table: Written) -> bytes:
    """Commas, points, days as 2026-11-23, UTF-8 with its mark, so that every spreadsheet opens it as it is meant."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow([harmless(head) for head in table.heads])
    rows.writerows([_text(value) for value in row] for row in table.rows)
    return text.getvalue().encode("utf-8-sig")


def _text(value: Value) -> str:
    if value is None:
        return ""
    if isinstance(value, str):
        return harmless(value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, dt.datetime):
        return value.isoformat(timespec="seconds")
    return f"{value:f}" if isinstance(value, Decimal) else str(value)


def as_workbook(tables: Iterable[Written]) -> bytes:
    """A workbook with a sheet a table: heads stay in sight, columns as wide as what stands in them."""
    book, titles = Workbook(write_only=True), set[str]()
    book.properties.creator = PRODUCT
    for table in tables:
        sheet = book.create_sheet(_title(table.title, titles))
        sheet.freeze_panes = "B2"
        for n, head in enumerate(table.heads):
            shown = [head, *(str(row[n]) for row in table.rows[:WIDTH_ROWS] if n < len(row))]
            sheet.column_dimensions[get_column_letter(n + 1)].width = min(WIDE_MOST, max(map(len, shown)) + 2)
        bold = [_cell(sheet, head) for head in table.heads]
        for cell in bold:
            cell.font = Font(bold=True)
        sheet.append(bold)
        for row in table.rows:
            sheet.append([_cell(sheet, value) for value in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _cell(sheet: Any, value: Value) -> Any:
    if isinstance(value, str):
        cell = WriteOnlyCell(sheet, UNPRINTABLE.sub("", value))
        cell.data_type = "s"  # also what begins like a formula is text
        return cell
    cell = WriteOnlyCell(sheet, value)  # type: ignore[arg-type]  # it takes decimals and days as well
    if isinstance(value, dt.datetime):
        cell.number_format = MOMENT
    elif isinstance(value, dt.date):
        cell.number_format = DAY
    return cell


def _title(words: str, taken: set[str]) -> str:
    """A sheet's name: short, without the signs a workbook does not take, none twice."""
    plain = re.sub(r"[\[\]:*?/\\']", " ", words).strip()[:TITLE_MOST] or "Sheet"
    tried = [plain, *(f"{plain[: TITLE_MOST - 4]} {n}" for n in range(2, 200))]
    title = next(name for name in tried if name.casefold() not in taken)
    taken.add(title.casefold())
    return title
