"""What people write in a cell, read: days, masses, sets, yes and no. What was guessed is said as a doubt."""

import datetime as dt
import re
import unicodedata
from dataclasses import dataclass
from decimal import Decimal
from typing import Generic, TypeVar

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.mass import Unit, exact_mass
from backsquat.core.numbers import plain_day, read_decimal

MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
T = TypeVar("T")
YES, NO = (
    {"y", "yes", "x", "true", "1", "ja", "j", "oui", "si", "ok", "✓"},
    {"n", "no", "false", "0", "nein", "non", "-"},
)
# A comma is between sets where reps stand before it and a load after; else it is a decimal's.
BETWEEN_SETS = re.compile(r"[;+]|, |/ |(?:(?<=[x×*]\d)|(?<=[x×*]\d\d)),(?=\d+(?:[.,]\d+)? ?[x×*])")
SETS_MOST = 12
REPS_OF_LOAD = 30  # a second number over this is the load
FEW_KG, MANY_REPS = 12, 15  # so little for so many is rather so many for so little


class Unreadable(ValueError):
    """The code of what is wrong with a cell."""


@dataclass(frozen=True)
class Read(Generic[T]):
    """A value, and codes of what was guessed on the way."""

    value: T
    doubts: tuple[str, ...] = ()


@dataclass(frozen=True)
class SetRead:
    """A set as it was written: load as written, reps, what was left."""

    load: Decimal
    unit: Unit
    reps: int
    reserve_reps: int | None


def plain_name(text: str) -> str:
    """A name first name first, with one space between, not shouted."""
    name = " ".join(text.split())
    if name.count(",") == 1:
        last, first = (part.strip() for part in name.split(","))
        name = f"{first} {last}" if first and last else name.replace(",", "")
    return name.title() if len(name) > 3 and (name.isupper() or name.islower()) else name


def same_name(name: str) -> str:
    """A name whatever its accents, capitals and order of the parts: two that agree here are one person's."""
    folded = unicodedata.normalize("NFKD", plain_name(name).replace("ø", "o").replace("Ø", "O").replace("ß", "ss"))
    letters = "".join(sign for sign in folded if not unicodedata.combining(sign)).casefold()
    return " ".join(sorted(re.findall(r"[\w'-]+", letters)))


def read_day(text: str, today: dt.date) -> Read[dt.date]:
    """A day: 2003-03-12, 12.3.2003, 12/03/03, 12 March 2003. Day first, unless that cannot be."""
    found = re.fullmatch(r"(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?:[T ].*)?", text.strip())
    if found:
        year, month, day = (int(part) for part in found.groups())
        return Read(_day(year, month, day))
    named = re.fullmatch(r"(\d{1,2})\.? ?([A-Za-z]{3,9})\.? ?(\d{2,4})", text.strip())
    if named and named.group(2)[:3].lower() in MONTHS:
        return Read(
            _day(_year(named.group(3), today), MONTHS.index(named.group(2)[:3].lower()) + 1, int(named.group(1)))
        )
    found = re.fullmatch(r"(\d{1,2})[./ -](\d{1,2})[./ -](\d{4}|\d{2})", text.strip())
    if not found:
        raise Unreadable("day_unread")
    first, second, year = int(found.group(1)), int(found.group(2)), _year(found.group(3), today)
    if second > 12 >= first:
        return Read(_day(year, first, second), ("month_first",))
    both = first <= 12 and second <= 12 and first != second and "." not in text
    return Read(_day(year, second, first), ("day_first",) if both else ())


def _year(text: str, today: dt.date) -> int:
    year = int(text)
    return year if year > 99 else 2000 + year if 2000 + year <= today.year else 1900 + year


def _day(year: int, month: int, day: int) -> dt.date:
    try:
        return plain_day(f"{year:04}-{month:02}-{day:02}")
    except ValueError:
        raise Unreadable("day_unread") from None


def read_mass(text: str) -> Read[Decimal]:
    """A body mass in kg: 71, 71,5 kg, 158 lb."""
    found = re.fullmatch(r"([\d.,]+) ?(kg|kgs|lb|lbs)?\.?", text.strip().lower())
    if not found:
        raise Unreadable("mass_unread")
    amount = _decimal(found.group(1))
    if (found.group(2) or "").startswith("lb"):
        try:
            return Read(Decimal(f"{exact_mass('mass', amount, Unit.LB).kg:.1f}"), ("from_pounds",))
        except ImpossibleInput:  # finer than anybody weighs
            raise Unreadable("mass_unread") from None
    return Read(amount)


def read_set(text: str) -> Read[SetRead]:
    """A set: 82,5x5@8 · 100 kg x 3 · 3x5x100 · 180lb x 5 2 left · 120. Load before reps, unless that cannot be."""
    found = _group(text)
    return Read(found.value[0], found.doubts)


def read_sets(text: str) -> Read[tuple[SetRead, ...]]:
    """Several sets of a cell: 100x5, 105x5 · 3x5x100 · 80x8; 85x6@9. Many of the same are as many sets."""
    sets: list[SetRead] = []
    doubts: list[str] = []
    for part in BETWEEN_SETS.split(text):
        if part.strip():
            found = _group(part)
            sets += found.value
            doubts += [code for code in found.doubts if code != "several_sets"]
    if not 1 <= len(sets) <= SETS_MOST:
        raise Unreadable("set_unread")
    return Read(tuple(sets), tuple(dict.fromkeys(doubts)))


def _group(text: str) -> Read[list[SetRead]]:
    """A set, or so many of the same."""
    plain = text.strip().lower().replace("×", "x").replace("*", "x")
    plain, reserve, doubts = _effort(plain)
    unit = Unit.LB if re.search(r"\d ?lbs?\b", plain) else Unit.KG
    numbers = [_decimal(part.strip()) for part in re.sub(r"(kg|lb)s?\b|reps?\b", "", plain).split("x")]
    if any(number < 0 for number in numbers) or len(numbers) > 3:
        raise Unreadable("set_unread")
    if len(numbers) == 1:
        return Read([SetRead(numbers[0], unit, 1, 0 if reserve is None else reserve)], (*doubts, "one_number"))
    load, reps, count, more = _load_and_reps(numbers)
    if reps % 1 or not 1 <= reps <= REPS_OF_LOAD or count % 1 or not 1 <= count <= SETS_MOST:
        raise Unreadable("set_unread")
    return Read([SetRead(load, unit, int(reps), reserve)] * int(count), (*doubts, more) if more else doubts)


def read_value(text: str) -> Read[float]:
    """What a screen came to: a number, or yes and no."""
    said = text.strip().casefold()
    if said in YES - {"1"}:
        return Read(1.0)
    if said in NO - {"0"}:
        return Read(0.0)
    found = re.fullmatch(r"([\d.,]+) ?(cm|s|sec|kg|reps?|°|mm)?\.?", said)
    if not found:
        raise Unreadable("value_unread")
    return Read(float(_decimal(found.group(1))))


def read_whole(text: str) -> Read[int]:
    """A whole number that is not large."""
    if not re.fullmatch(r"\d{1,2}(?:[.,]0+)?", text.strip()):
        raise Unreadable("number_unread")
    return Read(int(float(text.replace(",", "."))))


def _effort(plain: str) -> tuple[str, int | None, tuple[str, ...]]:
    """What is said of the effort, taken out of the text: @8 of ten, rir 2, 2 left."""
    if found := re.search(r"@ ?(?:rpe ?)?(\d{1,2}(?:[.,]5)?)", plain):
        effort = float(found.group(1).replace(",", "."))
        if not 5 <= effort <= 10:
            raise Unreadable("set_unread")
        return _without(plain, found), int(10 - effort), ("half_effort",) if effort % 1 else ()
    found = re.search(r"\(?rir ?(\d)\)?", plain) or re.search(r"\(?(\d) ?(?:rir|left)\)?", plain)
    return (_without(plain, found), int(found.group(1)), ()) if found else (plain, None, ())


def _without(plain: str, found: re.Match[str]) -> str:
    return plain[: found.start()] + plain[found.end() :]


def _load_and_reps(numbers: list[Decimal]) -> tuple[Decimal, Decimal, Decimal, str]:
    """Load, reps and sets of two numbers, or of three with the sets first or last; and what was guessed."""
    if len(numbers) == 3:
        first, reps, last = numbers
        return (last, reps, first, "several_sets") if last >= reps else (first, last, reps, "several_sets")
    load, reps = numbers
    turned = reps > REPS_OF_LOAD or (load <= FEW_KG and reps > MANY_REPS)
    return (reps, load, Decimal(1), "turned_round") if turned else (load, reps, Decimal(1), "")


def read_yes(text: str) -> Read[bool]:
    """Yes or no."""
    said = text.strip().casefold()
    if said not in YES | NO:
        raise Unreadable("yes_unread")
    return Read(said in YES)


AWAY = frozenset({"away", "a", "auswärts", "auswaerts", "ude", "borte", "extérieur", "fuera", "gast"})
HOME = frozenset({"home", "h", "heim", "hjemme", "domicile", "casa", "at home"})


def read_away(text: str) -> Read[bool]:
    """Away or at home, in a few languages, or yes and no; a place by name says neither."""
    said = text.strip().casefold()
    if said in AWAY | HOME:
        return Read(said in AWAY)
    return Read(said in YES)


def read_words(text: str) -> Read[str]:
    """Words as they are."""
    return Read(" ".join(text.split()))


def _decimal(text: str) -> Decimal:
    plain = text.replace(" ", "")
    if re.fullmatch(r"\d{1,3}[.,]\d{3}", plain):  # 1.234 is no load anybody means
        raise Unreadable("number_unread")
    try:
        return read_decimal(plain)
    except ValueError:
        raise Unreadable("number_unread") from None
