"""Names: within a sentence, and which of a list somebody means who typed one."""

import difflib
from collections.abc import Collection, Hashable, Mapping
from typing import TypeVar

T = TypeVar("T", bound=Hashable)

OF_PLACES_AND_PEOPLE = frozenset(
    ("Romanian", "Nordic", "Copenhagen", "Spanish", "Bulgarian", "Cossack", "Jefferson", "Zercher")
)
NEAR_MOST = 3
MIGHT_MOST = 5


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


SHORT_FOR = {  # as coaches write them; each word of what was typed that stands here is read as this
    "rdl": "romanian deadlift", "sldl": "single-leg deadlift", "db": "dumb-bell", "dbs": "two dumb-bells", "bb": "barbell",
    "kb": "kettlebell", "sl": "single-leg", "bsq": "back squat", "fsq": "front squat", "dl": "deadlift",
    "rfess": "rear-foot-elevated split squat", "ghr": "glute-ham raise", "cmj": "jump",
}  # fmt: skip


def meant_by_words(typed: str, names: Mapping[str, T]) -> str | None:
    """The name that was typed as a coach types it: short forms, a plural, words in any order. None where more than one
    thing could be meant; two names of one thing are one.
    """
    words = _words(typed)
    same = [name for name in names if words == _words(name)]
    holding = same or [name for name in names if words and words <= _words(name)]
    return holding[0] if len({names[name] for name in holding}) == 1 else None


def might_mean(typed: str, names: Mapping[str, T]) -> list[str]:
    """A few things that might have been meant, one name each: those that share most words, then those written alike."""
    words, found = _words(typed), dict[T, str]()
    sharing = sorted(
        (name for name in names if words & _words(name)), key=lambda name: (-len(words & _words(name)), len(name))
    )
    for name in (*sharing, *near(typed, names)):
        found.setdefault(names[name], next(own for own, thing in names.items() if thing == names[name]))
    return list(found.values())[:MIGHT_MOST]


def _words(name: str) -> frozenset[str]:
    """The words of a name, without hyphens and plurals."""
    written = " ".join(SHORT_FOR.get(word, word) for word in name.casefold().split())
    plain = written.replace("-", " ").replace(",", " ")
    return frozenset(
        word.removesuffix("s") if len(word) > 3 and not word.endswith("ss") else word for word in plain.split()
    )


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
