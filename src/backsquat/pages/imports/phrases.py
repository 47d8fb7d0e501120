"""What is doubtful or wrong about a line of a list, in words."""

from collections.abc import Mapping
from itertools import groupby

from backsquat.formats.columns import SCREEN, TEST, ListKind
from backsquat.formats.fixtures import MatchLine
from backsquat.formats.lines import ListLine, Note
from backsquat.formats.past import PastLine
from backsquat.formats.values import SetRead
from backsquat.ui.phrases.names import in_text

KIND_WORDS = {
    "": "leave out",
    "name": "Name",
    "first": "First name",
    "last": "Last name",
    "born": "Born on",
    "mass": "Body mass",
    "position": "Position",
    "newcomer": "New to lifting (yes, no)",
    "consent": "Guardian's consent (yes, no)",
    "guardian": "Guardian's name",
    "tested": "Tested, weighed on",
    "day": "Day",
    "movement": "Movement",
    "set": "Set (82,5x5@8)",
    "sets": "How many sets",
    "load": "Load",
    "reps": "Reps",
    "reserve": "RIR",
    "important": "Counts (yes, no)",
    "away": "Home or away",
    "opponent": "Against",
    "competition": "Competition",
}
KINDS_WORDS = {
    ListKind.ATHLETES: "Athletes, body masses, tests, screens",
    ListKind.SETS: "Sets of past days",
    ListKind.MATCHES: "Matches",
}
NOTES = {
    "name_missing": "No name.",
    "name_close": "Somebody here is called {name}. The same? Then write it so. Otherwise somebody new is added.",
    "born_missing": "New here, and no day of birth: it is needed to know who is a minor.",
    "born_other": "Until now born on {day}.",
    "minor": "{years} years old, no guardian's consent: nothing with a weight until it is on file.",
    "twice": "Also in line {line}: what is said here is added to the same person.",
    "no_value": "A formula that was never worked out: open the workbook, save it, or type the value.",
    "day_unread": "“{text}” is no day this reads. 2003-03-12 or 12.3.2003 is.",
    "day_first": "Read as day, then month.",
    "month_first": "Read as month, then day, since there is no month over 12.",
    "mass_unread": "“{text}” is no body mass. 71, 71,5 kg or 158 lb is.",
    "from_pounds": "From pounds.",
    "set_unread": "“{text}” is no set. 82,5x5@8, 100 x 3 or 120 is.",
    "number_unread": "“{text}” is no number.",
    "value_unread": "“{text}” is no result of a screen: a number, or yes and no.",
    "not_here": "Nobody here is called {name}. Import the athletes first, or write the name as it stands here.",
    "day_missing": "No day.",
    "set_missing": "No set.",
    "reps_missing": "A load without reps.",
    "movement_missing": "No movement.",
    "movement_unknown": "“{text}” is no movement here. Write its name, or add it under Movements.",
    "movement_close": "“{text}” read as {name}.",
    "outside_season": "{day} is not in this season.",
    "asked": "{text}",
    "yes_unread": "“{text}” is neither yes nor no.",
    "one_number": "One number alone: taken as one rep at RIR 0.",
    "several_sets": "Several sets: one of them is kept, as a test.",
    "turned_round": "Read as reps, then load.",
    "half_effort": "Half a rep in reserve is not counted.",
    "not_taken": "{text}",
}


def note_words(note: Note) -> str:
    """A sentence about a line."""
    return NOTES[note.code].format(**note.facts)


def column_words(kind: str, movements: Mapping[str, str], screens: Mapping[str, str]) -> str:
    """What a column holds."""
    if kind.startswith(TEST):
        return movements.get(kind.removeprefix(TEST), kind)
    if kind.startswith(SCREEN):
        code, _, side = kind.removeprefix(SCREEN).partition(":")
        return f"{screens.get(code, code)}{', ' if side else ''}{side}"
    return KIND_WORDS[kind]


def stored_words(
    line: ListLine | PastLine | MatchLine, movements: Mapping[str, str], screens: Mapping[str, str]
) -> list[str]:
    """A line as it would be stored, piece by piece; the first is whose or what it is."""
    if isinstance(line, MatchLine):
        return _match_words(line)
    if isinstance(line, PastLine):
        return _past_words(line, movements)
    return _athlete_words(line, movements, screens)


def _match_words(line: MatchLine) -> list[str]:
    day = line.played_on.isoformat() if line.played_on else ""
    away, counts = "away" if line.away else "", "counts" if line.important else ""
    said = (line.opponent, line.competition, away, counts, "here already" if line.known else "")
    return [day, *(words for words in said if words)]


def _past_words(line: PastLine, movements: Mapping[str, str]) -> list[str]:
    sets = []
    for (code, one), same in groupby(line.sets):
        count = len(list(same))
        many = f"{count} times " if count > 1 else ""
        sets.append(f"{many}{in_text(movements.get(code, code))} {set_words(one)}")
    return [line.name, line.done_on.isoformat() if line.done_on else "", *sets]


def _athlete_words(line: ListLine, movements: Mapping[str, str], screens: Mapping[str, str]) -> list[str]:
    found = [line.name + (" (here already)" if line.athlete_id else "")]
    found += [line.born_on.isoformat()] if line.born_on else []
    found += [f"{line.mass_kg} kg"] if line.mass_kg else []
    found += [line.position] if line.position else []
    found += [] if line.newcomer is None else ["newcomer" if line.newcomer else "trained"]
    found += [] if line.consent is None else ["consent" if line.consent else "no consent"]
    found += [f"{in_text(movements.get(code, code))} {set_words(one)}" for code, one in line.tests]
    found += [f"{in_text(screens.get(code, code))} {side} {value:g}" for code, side, value in line.screens]
    return found if line.says else [*found, "nothing new"]


def set_words(found: SetRead) -> str:
    """82.5 kg × 5, RIR 2"""
    left = "" if found.reserve_reps is None else f", RIR {found.reserve_reps}"
    return f"{found.load:f} {found.unit.value} × {found.reps}{left}"
