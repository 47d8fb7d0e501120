"""Names: within a sentence, and which of a list somebody means who typed one."""

import difflib
from collections.abc import Collection

OF_PLACES_AND_PEOPLE = frozenset(
    ("Romanian", "Nordic", "Copenhagen", "Spanish", "Bulgarian", "Cossack", "Jefferson", "Zercher")
)
NEAR_MOST = 3


def in_text(name: str) -> str:
    """A name as it stands within a sentence: back squat, but Romanian deadlift, SSB squat, B-stance hinge."""
    first = name.split(maxsplit=1)[0].rstrip(",") if name.strip() else ""
    if first in OF_PLACES_AND_PEOPLE or first[1:] != first[1:].lower() or (first[:1].isupper() and first[1:2] == "-"):
        return name
    return name[:1].lower() + name[1:]


def meant(typed: str, names: Collection[str]) -> str | None:
    """The name that was typed, in whatever letters, or the only one that begins so."""
    wanted = " ".join(typed.split()).casefold()
    same = [name for name in names if name.casefold() == wanted]
    begun = [name for name in names if wanted and name.casefold().startswith(wanted)]
    return same[0] if same else begun[0] if len(begun) == 1 else None


def near(typed: str, names: Collection[str]) -> list[str]:
    """A few names that might have been meant: those that hold what was typed, then those written much alike."""
    wanted = " ".join(typed.split()).casefold()
    holding = sorted(
        (name for name in names if wanted and wanted in name.casefold()), key=lambda name: (len(name), name)
    )
    alike = difflib.get_close_matches(wanted, [name.casefold() for name in names], NEAR_MOST)
    found = [*holding, *(name for one in alike for name in names if name.casefold() == one)]
    return list(dict.fromkeys(found))[:NEAR_MOST]


COUNTED = frozenset(("weeks", "days", "reps", "sets", "sessions", "athletes", "steps", "resets"))


def unit_of(unit: str, amount: object) -> str:
    """A unit as it is said of an amount: 2 weeks, 1 week."""
    return unit.removesuffix("s") if str(amount) == "1" and unit in COUNTED else unit
