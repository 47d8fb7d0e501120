"""A session as a coach types it: one line an exercise, supersets and rounds as headings.

    Monday
    4 x 6 back squat RIR 2 rest 3 min
    superset, rest 90
    3 x 8-10 goblet squat RIR 2
    3 x 12 ball curl
    3 rounds:
    calf raise 15 + 30 s
    plank 40 s

What is a number, a rest, a reserve, a tempo is taken out of the line; what is left is the name. Which movement that
is, whoever knows the library says. Nothing is left out unsaid: what has no place here is in `left_out`.
"""

import math
import re
from dataclasses import dataclass, replace

from backsquat.core.sessions.typed import TypedExercise

TEXT_MOST = 4000  # characters
LINES_MOST = 60
_NUMBER = r"(\d{1,3}(?:[.,]\d+)?)"
_DAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_DAY = re.compile(
    r"^(" + "|".join(f"{day[:3]}(?:{day[3:]}|s|r|rs|nes)?" for day in _DAYS) + r")\b\.?\s*(?:[:\-–—]\s*|$)"
)
_BULLET = re.compile(r"^(?:[-–—•*·]\s+|\d{1,2}[.)]\s+)")
_LABEL = re.compile(r"^([a-h])(?:\s?[1-9](?:[.):]\s*|\s+)|[.):]\s+)")
_SUPERSET = re.compile(r"^(?:superset|super set|triset|tri-set|giant set|together)s?\b")
_ROUNDS = re.compile(r"^(?:circuit\b[\s:,]*)?(\d{1,2})\s*(?:rounds?|times round)\b(?:\s+of\b)?|^circuit\b")
_SECONDS = r"(?:s|sec|secs|seconds?|\"|'')"
_MINUTES = r"(?:min|mins|minutes?|')"
_AMOUNT = rf"(\d{{1,2}}:\d{{2}}|\d{{1,3}}(?:[.,]5)?)\s*({_SECONDS}|{_MINUTES})?"
_REST = (
    re.compile(rf"\b(?:rest|pause of|break)\s*:?\s*{_AMOUNT}(?![\d-])(?:\s*(?:rest|between))?"),
    re.compile(rf"(?<![\dx]){_AMOUNT}\s+(?:rest|break)\b"),
)
_RESERVE = re.compile(
    r"@?\s*\brir\s*:?\s*(\d)(?:\s*[-–—]\s*(\d))?|@?\b(\d)(?:\s*[-–—]\s*(\d))?\s*(?:rir\b|(?:reps? )?in reserve)"
)
_EFFORT = re.compile(
    r"(?:@\s*|\brpe\s*:?\s*@?)(10|[5-9](?:[.,]5)?)(?:\s*[-–—]\s*(?:10|[5-9](?:[.,]5)?))?(?![\d.,]*\s*(?:kg|lb|%))"
)
_TEMPO = re.compile(
    r"\b(?:tempo\s*:?\s*)?(\d{1,2}-\d{1,2}-(?:\d{1,2}|x)-\d{1,2})\b|\btempo\s*:?\s*(\d)(\d)(\d|x)(\d)\b"
)
_EACH = re.compile(r"(?:/|\b(?:each|per|a|every)\s+)(?:side|leg|arm)s?\b|\b(?:e/s|ea|both sides|left and right)\b\.?")
_LAST = re.compile(r"\b(?:last set )?to failure\b|\bamrap\b")
_SPARE = re.compile(r"\b(?:only )?if (?:there is |there's )?time\b|\bspare\b|\boptional\b")
_LOAD = re.compile(
    rf"@?\s*\b{_NUMBER}\s*(?:kg|kilos?|lbs?|pounds?)\b|@?\s*{_NUMBER}\s*(?:%|percent)(?:\s*(?:of )?(?:1rm|max))?"
)
_END_HOLD = re.compile(
    rf"\+\s*(?:hold\s*)?(\d{{1,3}})\s*{_SECONDS}(?![a-z])(?:\s*hold)?"
    rf"|,?\s*\bthen (?:hold )?(\d{{1,3}})\s*{_SECONDS}(?![a-z])"
)
_RANGE = r"(\d{1,3})(?:\s*(?:[-–—]|to)\s*(\d{1,3}))?"
_UNIT = rf"(?:\s*({_SECONDS}|{_MINUTES})(?![a-z]))?(?:\s*(?:reps?|holds?)\b)?"
_DOSES = (
    re.compile(rf"(?<![\d.])(\d{{1,2}})\s*[x×*]\s*{_RANGE}{_UNIT}"),
    re.compile(rf"\b(\d{{1,2}})\s*sets?\s*(?:of|x|×|,)?\s*{_RANGE}{_UNIT}"),
)
_SETS = re.compile(r"\b(\d{1,2})\s*sets?\b")
_ALONE = (
    re.compile(rf"\b{_RANGE}\s*({_SECONDS}|{_MINUTES})(?![a-z])(?:\s*hold)?"),
    re.compile(rf"\b{_RANGE}()\s*(?:reps?\b|x\b)"),
    re.compile(rf"(?:^|(?<=\s)){_RANGE}()(?=\s|$|,)"),
)
_AS = re.compile(r"\bas\s+(?:an?\s+)?([a-z][a-z ]{2,30}?)\s*$")
_PARTS = re.compile(r"\s\+\s(?!\s*(?:hold\s*)?\d{1,3}\s*(?:s|sec|secs|seconds?|\"|'')(?![a-z]))")


@dataclass
class _Group:
    number: int = 0
    circuit: bool = False
    sets: int | None = None
    rest_s: int = 0
    label: str = ""


def typed_session(text: str) -> tuple[TypedExercise, ...]:
    """The exercises of a text, in its order, with their day where a heading named one.

    A superset or circuit ends with an empty line, another heading or another letter; one exercise alone in it is no
    superset.
    """
    found: list[TypedExercise] = []
    day: int | None = None
    group, last = _Group(), 0
    for row, line in enumerate(text[:TEXT_MOST].splitlines()[:LINES_MOST], 1):
        words = " ".join(line.split()).lower()
        if not words:
            group = _Group()
            continue
        named = _DAY.match(words)
        if named:
            day, group = next(n for n, name in enumerate(_DAYS) if name[:3] == named[1][:3]), _Group()
            words = words[named.end() :]
        words = _BULLET.sub("", words)
        heading = _heading(words)
        if heading:
            last += 1
            group, words = replace(heading[0], number=last), heading[1]
        label = _LABEL.match(words)
        if label:
            if group.label != label[1]:
                last += 1
                group = _Group(last, label=label[1])
            words = words[label.end() :]
        elif group.label:
            group = _Group()
        parts = [part for part in _PARTS.split(words) if part.strip()]
        if len(parts) > 1 and not group.number:
            last += 1
            of_line = _Group(last)
        else:
            of_line = group
        found += [_exercise(row, line.strip(), part, day, of_line) for part in parts]
    return _numbered([_alone(one, found) for one in found])


def _numbered(found: list[TypedExercise]) -> tuple[TypedExercise, ...]:
    """Supersets counted from 1 within their day."""
    days: dict[int | None, list[int]] = {}
    for one in found:
        numbers = days.setdefault(one.weekday, [])
        if one.superset and one.superset not in numbers:
            numbers.append(one.superset)
    return tuple(
        replace(one, superset=days[one.weekday].index(one.superset) + 1) if one.superset else one for one in found
    )


def _heading(words: str) -> tuple[_Group, str] | None:
    """A superset or circuit that begins here, and what of the line comes after its heading."""
    rounds = _ROUNDS.match(words)
    begun = rounds or _SUPERSET.match(words)
    if begun is None:
        return None
    rest = words[begun.end() :]
    before, colon, after = rest.partition(":")
    said = before if colon or not _has_dose(rest) else ""
    left, rest_s = _rest(said)
    sets = int(rounds[1]) if rounds and rounds[1] else None
    if sets is None and (more := re.search(r"(\d{1,2})\s*(?:rounds?|sets?|times)", left)):
        sets = int(more[1])
    return _Group(circuit=bool(rounds), sets=sets, rest_s=rest_s), (after if said else rest).strip(" :,")


def _has_dose(words: str) -> bool:
    return any(dose.search(words) for dose in _DOSES)


def _alone(one: TypedExercise, everything: list[TypedExercise]) -> TypedExercise:
    """Without its group, where nobody else is in it: a superset of one is a lone exercise."""
    if one.superset and sum(other.superset == one.superset for other in everything) < 2:
        return replace(one, superset=0, circuit=False, rounds=0)
    return one


def _exercise(row: int, line: str, words: str, day: int | None, group: _Group) -> TypedExercise:
    left = words
    left, rest_s = _rest(left)
    left, tempo = _tempo(left)
    left, reserve = _reserve(left)
    left, each = _flag(_EACH, left)
    left, failure = _flag(_LAST, left)
    left, spare = _flag(_SPARE, left)
    left, end_hold_s = _end_hold(left)
    left, dose = _dose(left)
    left, loads = _taken_out(_LOAD, left)
    left, progression = _progression(left)
    sets, low, high, seconds = dose
    return TypedExercise(
        row,
        line,
        name=re.sub(r"\s+", " ", re.sub(r"[\s,;:.@+–—-]+$|^[\s,;:.@+–—-]+|\(\s*\)", "", left)),
        weekday=day,
        sets=sets if sets is not None else group.sets,
        low=low,
        high=high,
        seconds=seconds,
        end_hold_s=end_hold_s,
        reserve_reps=reserve,
        rest_s=rest_s or group.rest_s,
        tempo=tempo,
        progression=progression,
        each_side=each,
        to_failure=failure,
        spare=spare,
        superset=group.number,
        circuit=group.circuit,
        rounds=(group.sets or 0) if group.circuit else 0,
        left_out=loads,
    )


def _flag(pattern: re.Pattern[str], words: str) -> tuple[str, bool]:
    left = pattern.sub(" ", words)
    return left, left != words


def _taken_out(pattern: re.Pattern[str], words: str) -> tuple[str, tuple[str, ...]]:
    return pattern.sub(" ", words), tuple(one[0].strip(" @") for one in pattern.finditer(words))


def _rest(words: str) -> tuple[str, int]:
    """Rest in seconds: "rest 90", "2 min rest", "rest 2:30"; a bare number under 10 is minutes."""
    for pattern in _REST:
        if one := pattern.search(words):
            return _cut(words, one), _in_seconds(one[1], one[2], 10)
    return words, 0


def _in_seconds(amount: str, unit: str | None, minutes_under: int) -> int:
    if ":" in amount:
        minutes, seconds = amount.split(":")
        return 60 * int(minutes) + int(seconds)
    number = float(amount.replace(",", "."))
    by_minute = (unit is not None and re.fullmatch(_MINUTES, unit)) or (unit is None and number < minutes_under)
    return round(number * 60) if by_minute else round(number)


def _cut(words: str, one: re.Match[str]) -> str:
    return f"{words[: one.start()]} {words[one.end() :]}"


def _tempo(words: str) -> tuple[str, str]:
    one = _TEMPO.search(words)
    if one is None:
        return words, ""
    return _cut(words, one), (one[1] or "-".join(one.groups()[1:])).upper()


def _reserve(words: str) -> tuple[str, int | None]:
    """Reps in reserve; of two numbers the larger, an RPE as ten less it, half a rep as a whole one: the lighter reading."""
    if one := _RESERVE.search(words):
        return _cut(words, one), max(int(number) for number in one.groups() if number)
    if one := _EFFORT.search(words):
        return _cut(words, one), math.ceil(10 - float(one[1].replace(",", ".")))
    return words, None


def _end_hold(words: str) -> tuple[str, int]:
    one = _END_HOLD.search(words)
    return (_cut(words, one), int(one[1] or one[2])) if one else (words, 0)


def _dose(words: str) -> tuple[str, tuple[int | None, int | None, int | None, bool]]:
    """(what is left, (sets, least, most, whether they are seconds))"""
    for pattern in _DOSES:
        if one := pattern.search(words):
            return _cut(words, one), (int(one[1]), *_span(one[2], one[3], one[4]))
    sets = None
    if one := _SETS.search(words):
        words, sets = _cut(words, one), int(one[1])
    for pattern in _ALONE:
        if one := pattern.search(words):
            return _cut(words, one), (sets, *_span(one[1], one[2], one[3]))
    return words, (sets, None, None, False)


def _span(low: str, high: str | None, unit: str | None) -> tuple[int, int, bool]:
    times = 60 if unit and re.fullmatch(_MINUTES, unit) else 1
    return times * int(low), times * int(high or low), bool(unit)


def _progression(words: str) -> tuple[str, str]:
    one = _AS.search(words)
    return (words[: one.start()], one[1].strip()) if one else (words, "")
