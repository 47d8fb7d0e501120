"""Numbers from outside: the one reader of decimals that people type, and the check of what functions are given."""

import datetime as dt
import math
from decimal import Decimal

from backsquat.core.errors import ImpossibleInput, Problem

FIRST_YEAR, LAST_YEAR = 1900, 2199
WHOLE_MOST, PARTS_MOST = 9, 30  # digits before and after the point


def read_decimal(text: str) -> Decimal:
    """The number a text says; ValueError for anything else, at once and however long it is.

    With point or comma, without exponents, of a bounded length.
    """
    typed = text.strip().replace(",", ".")
    digits = typed.removeprefix("-") if typed.startswith("-") else typed.removeprefix("+")
    whole, _, parts = digits.partition(".")
    plain = typed.isascii() and (whole + parts).isdigit()
    if not plain or len(whole) > WHOLE_MOST or len(parts) > PARTS_MOST:
        raise ValueError("no plain decimal")
    return Decimal(typed)


def plain_day(text: str) -> dt.date:
    """The day an address or a form says as 2026-11-23; ValueError for anything else, and beyond FIRST and LAST_YEAR.

    Nearer the end of the calendar a week more is no day: seasons, rails and blocks could not be drawn.
    """
    day = dt.date.fromisoformat(text)
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise ValueError("no day of this program's calendar")
    return day


def sure(name: str, value: float, low: float = -math.inf, high: float = math.inf) -> float:
    """The value, where it is a number within these bounds; ImpossibleInput names it otherwise."""
    if low <= value <= high and -math.inf < value < math.inf:
        return value
    if not math.isfinite(value):
        raise ImpossibleInput(Problem(name, "not_a_number"))
    raise ImpossibleInput(Problem(name, "out_of_range", {"low": low, "high": high}))
