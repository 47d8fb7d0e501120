"""What is doubtful or wrong about a line of a list, in words."""

from collections.abc import Mapping

from backsquat.formats.lines import Note

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
    "tested": "Tested on",
}
NOTES = {
    "name_missing": "No name.",
    "name_close": "Somebody here is called {name}. The same? Then write it so. Otherwise somebody new is added.",
    "born_missing": "New here, and no day of birth: it is needed to know who is a minor.",
    "born_other": "Until now born on {day}.",
    "twice": "Also in line {line}: what is said here is added to the same person.",
    "no_value": "A formula that was never worked out: open the workbook, save it, or type the value.",
    "day_unread": "“{text}” is no day this reads. 2003-03-12 or 12.3.2003 is.",
    "day_first": "Read as day, then month.",
    "month_first": "Read as month, then day, since there is no month over 12.",
    "mass_unread": "“{text}” is no body mass. 71, 71,5 kg or 158 lb is.",
    "from_pounds": "From pounds.",
    "set_unread": "“{text}” is no set. 82,5x5@8, 100 x 3 or 120 is.",
    "number_unread": "“{text}” is no number.",
    "yes_unread": "“{text}” is neither yes nor no.",
    "one_number": "One number alone: taken as one rep with nothing left.",
    "several_sets": "Several sets: one of them is kept, as a test.",
    "turned_round": "Read as reps, then load.",
    "half_effort": "Half a rep left is not counted.",
    "not_taken": "{text}",
}


def note_words(note: Note) -> str:
    """A sentence about a line."""
    return NOTES[note.code].format(**note.facts)


def column_words(kind: str, movements: Mapping[str, str]) -> str:
    """What a column holds."""
    return f"Test: {movements[kind.removeprefix('test:')]}" if kind.startswith("test:") else KIND_WORDS[kind]
