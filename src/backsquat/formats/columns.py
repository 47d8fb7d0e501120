"""What the columns of a list hold, by their heads: guessed, or remembered from the last time."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import NamedTuple

from backsquat.formats.table import Table

HEAD_WITHIN = 15
TEST, SCREEN = "test:", "screen:"  # before the code of a movement; of a screen and its side
SIDES = {"left": "left", "l": "left", "links": "left", "right": "right", "r": "right", "rechts": "right"}


class ListKind(StrEnum):
    """What a list is of."""

    ATHLETES = "athletes"  # with body masses, tests, results of screens
    SETS = "sets"  # what was lifted on past days
    MATCHES = "matches"


ROWS = {ListKind.ATHLETES: 150, ListKind.SETS: 3_000, ListKind.MATCHES: 150}
NAMES = {
    "name": ("name", "athlete", "player", "spieler", "spielerin", "navn", "nom", "full name", "who"),
    "first": ("first name", "first", "given name", "vorname", "forename"),
    "last": ("last name", "last", "surname", "family name", "nachname"),
}
SHORT = {"squat": "back squat", "kniebeuge": "back squat", "knebøy": "back squat", "rdl": "romanian deadlift"}
BORN = ("geburtsdatum", "geboren", "født", "fødselsdato", "date de naissance")
DAYS = ("date", "day", "datum", "when", "on", "dato")
WORDS: dict[ListKind, dict[str, tuple[str, ...]]] = {  # column → what its head may say, in languages of the sport
    ListKind.ATHLETES: NAMES
    | {
        "born": ("born", "birthday", "date of birth", "dob", "birth date", "born on", "geburtstag", "birth", *BORN),
        "mass": ("body mass", "bodyweight", "body weight", "weight", "bw", "mass", "gewicht", "vekt", "vægt", "poids"),
        "position": ("position", "pos", "role", "posisjon", "poste"),
        "newcomer": ("newcomer", "beginner", "new to lifting", "novice"),
        "consent": ("consent", "guardian consent", "parent ok", "parental consent"),
        "guardian": ("guardian", "parent"),
        "tested": ("tested", "tested on", "test date", *DAYS),
    },
    ListKind.SETS: NAMES
    | {
        "day": ("done on", "session date", "training", *DAYS),
        "movement": ("movement", "exercise", "lift", "what", "uebung", "übung", "drill"),
        "set": ("result", "work", "load x reps", "set", "done"),
        "sets": ("sets", "serien", "number of sets"),
        "load": ("load", "weight", "kg", "kilos", "last", "gewicht"),
        "reps": ("reps", "repetitions", "wdh", "rep"),
        "reserve": ("rir", "left", "reps left", "reserve", "in reserve"),
    },
    ListKind.MATCHES: {
        "day": ("match day", "played on", "kick off", *DAYS),
        "important": ("important", "counts", "key match", "cup", "playoff"),
        "away": ("away", "home away", "home or away", "h a", "where", "venue", "place", "heim auswärts"),
        "opponent": ("opponent", "against", "versus", "vs", "gegner", "rival", "match", "summary"),
        "competition": ("competition", "league", "tournament", "round", "wettbewerb"),
    },
}


@dataclass(frozen=True)
class KnownWords:
    """What heads can name: movements and screens by name in small letters → code; heads remembered → column."""

    movements: Mapping[str, str] = field(default_factory=dict)
    screens: Mapping[str, str] = field(default_factory=dict)
    heads: Mapping[str, str] = field(default_factory=dict)


class LaidColumns(NamedTuple):
    """A list laid out: what each column holds, the lines under the heads, the heads in small letters."""

    kinds: list[str]
    rows: list[tuple[str, ...]]
    heads: list[str]
    cut: int = 0  # lines and columns too many
    numbers: tuple[int, ...] = ()  # of the lines as the file counts them


def plain_head(head: str) -> str:
    """A head in small letters without signs."""
    return " ".join(re.sub(r"[^\w ]", " ", head.casefold().replace("_", " ")).split())


def kinds_of(kind: ListKind) -> tuple[str, ...]:
    """What a column of such a list can hold besides tests and screens; empty: it is left out."""
    return (*WORDS[kind], "")


def guess(head: str, known: KnownWords, kind: ListKind = ListKind.ATHLETES) -> str:
    """What a column holds by its head; empty where that is not known."""
    plain = plain_head(head)
    if plain in known.heads:
        return known.heads[plain]
    for column, words in WORDS[kind].items():
        if plain in words:
            return column
    if kind is ListKind.MATCHES:
        return ""
    bare = re.sub(r"\b(1rm|rm|max|test|kg|lb|lbs|best|e1rm)\b", "", plain).strip()
    short = SHORT.get(bare, bare)
    if short in known.movements:
        return TEST + known.movements[short]
    if kind is ListKind.ATHLETES and (screen := _screen(plain, known.screens)):
        return screen
    for column, words in WORDS[kind].items():
        if any(plain.startswith(f"{word} ") for word in words):
            return column
    return ""


def _screen(plain: str, screens: Mapping[str, str]) -> str:
    """A screen and its side: knee to wall left, knee to wall l."""
    words = plain.split()
    side = SIDES.get(words[-1], "") if words else ""
    name = " ".join(words[:-1] if side else words)
    return f"{SCREEN}{screens[name]}:{side}" if name in screens else ""


def laid_out(table: Table, known: KnownWords, kind: ListKind = ListKind.ATHLETES) -> LaidColumns:
    """What the columns hold, and the lines under their heads; heads may stand some lines down."""
    tried = [[guess(cell, known, kind) for cell in row] for row in table.rows[:HEAD_WITHIN]]
    best = max(range(len(tried)), key=lambda n: len({column for column in tried[n] if column}))
    most = ROWS[kind]
    if not any(tried[best]):
        return _cut(table, [""] * len(table.rows[0]), 0, [""] * len(table.rows[0]), most)
    kinds, seen = [], set[str]()
    for column in tried[best]:
        kinds.append("" if column in seen else column)
        seen.add(column)
    return _cut(table, kinds, best + 1, [plain_head(cell) for cell in table.rows[best]], most)


def _cut(table: Table, kinds: list[str], first: int, heads: list[str], most: int) -> LaidColumns:
    rows = list(table.rows[first:])
    numbers = table.numbers[first:] or tuple(range(first + 1, first + 1 + len(rows)))
    return LaidColumns(kinds, rows[:most], heads, table.cut + max(0, len(rows) - most), numbers[:most])


def kind_of(table: Table, known: KnownWords) -> ListKind:
    """What a list is of, by its heads: the days of matches, sets with what was lifted, else athletes."""
    heads = table.rows[:HEAD_WITHIN]
    found = {kind: max((_named(row, known, kind) for row in heads), key=len) for kind in ListKind}
    sets = found[ListKind.SETS]
    if {"day", "movement"} <= sets or ({"day", "set"} <= sets and "born" not in found[ListKind.ATHLETES]):
        return ListKind.SETS
    nobody = not found[ListKind.ATHLETES] & set(NAMES)
    return ListKind.MATCHES if nobody and "day" in found[ListKind.MATCHES] else ListKind.ATHLETES


def _named(row: tuple[str, ...], known: KnownWords, kind: ListKind) -> set[str]:
    return {column for cell in row if (column := guess(cell, known, kind))}
