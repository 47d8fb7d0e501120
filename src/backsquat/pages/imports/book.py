"""A workbook of several sheets on its way: it travels with the page, and its sheets are taken in one after the other."""

import json
from dataclasses import dataclass, replace

from flask import request

from backsquat.core.errors import ImpossibleInput
from backsquat.core.words import clean_words
from backsquat.formats.table import NAME_MOST, SHEETS_MOST, Table, table_again
from backsquat.pages.request import number


@dataclass(frozen=True)
class BookSheet:
    name: str
    table: Table
    taken: bool = False


@dataclass(frozen=True)
class Book:
    """A workbook on its way: its sheets travel with the page, and are taken in one after the other."""

    sheets: tuple[BookSheet, ...]
    at: int | None = None

    @property
    def text(self) -> str:
        """The cells as they travel with the page."""
        return json.dumps([[one.name, one.taken, one.table.rows, one.table.numbers] for one in self.sheets])

    def taken(self) -> "Book":
        """With the sheet that was open marked as taken in."""
        sheets = [replace(one, taken=one.taken or n == self.at) for n, one in enumerate(self.sheets)]
        return Book(tuple(sheets))


def book_sent() -> Book | None:
    """The workbook as the page sends it; None where there is none, or it is none of ours."""
    try:
        sent = json.loads(request.form.get("book", "") or "null")
        at = request.form.get("sheet", type=number)
        if not isinstance(sent, list) or not 1 < len(sent) <= SHEETS_MOST:
            return None
        sheets = []
        for name, taken, rows, numbers in sent:
            table = table_again(rows, numbers)
            sheets.append(BookSheet(clean_words(str(name))[:NAME_MOST], table, bool(taken)))
    except (ValueError, TypeError, RecursionError, ImpossibleInput):
        return None
    return Book(tuple(sheets), at if at is not None and 0 <= at < len(sheets) else None)
