"""The one reader of decimals that people type: point or comma, no exponents, a bounded length."""

from decimal import Decimal

WHOLE_MOST, PARTS_MOST = 9, 30  # digits before and after the point


def read_decimal(text: str) -> Decimal:
    """The number a text says; ValueError for anything else, at once and however long it is."""
    typed = text.strip().replace(",", ".")
    digits = typed.removeprefix("-") if typed.startswith("-") else typed.removeprefix("+")
    whole, _, parts = digits.partition(".")
    plain = typed.isascii() and (whole + parts).isdigit()
    if not plain or len(whole) > WHOLE_MOST or len(parts) > PARTS_MOST:
        raise ValueError("no plain decimal")
    return Decimal(typed)
