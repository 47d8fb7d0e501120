"""Wording of the floor."""

from collections.abc import Sequence
from typing import assert_never

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.cell import State
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.readiness.verdict import OpenStop
from backsquat.core.strength.set_notes import SetNotes, set_notes_from
from backsquat.core.working import plain, signed
from backsquat.storage.models import Athlete, SessionAct, SetEntry
from backsquat.ui.phrases.days import day_words, daydate_words
from backsquat.ui.phrases.decisions import sentence
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.pain import pain_words
from backsquat.ui.phrases.sessions import end_words
from backsquat.ui.phrases.verdicts import short_obstacle
from backsquat.work.exports.post import TAKE_BACK_S, Addressee, Queued
from backsquat.work.floor.ahead import LastTime
from backsquat.work.floor.holds import Hold
from backsquat.work.floor.steering import Steered
from backsquat.work.floor.turn import KeptOff, NoWork, Turn

SCALE_WORDS = {  # name → words, what the lowest answer means, what the highest
    "sleep": ("Sleep", "badly", "well"),
    "soreness": ("Soreness", "none", "much"),
    "stress": ("Stress", "none", "much"),
    "back": ("Lower back sore", "not", "very"),
}


def no_load_words(state: State) -> str:
    """Why a cell asks for nothing although nothing stands in the way."""
    match state:
        case State.UNDER_BAR:
            return "target is under the lightest load here"
        case State.NEEDS_TEST:
            return "needs a test"
        case State.NOT_READY:
            return "ready for the bar since, replan"
        case State.LOCKED:
            return "limit lifted since, replan"
        case State.NO_LEVEL:
            return "not placed on this ladder yet"
        case State.NO_ROOM:
            return "this room cannot rig it"
        case State.LEFT_OUT:
            return "left out"
        case State.LOAD | State.LEVEL | State.WORK:
            return "replan"
        case _:
            assert_never(state)


def kept_off_words(one: KeptOff, readiness_checks: str = "barbell") -> str:
    """Why somebody does not lift here today."""
    if one.obstacle:
        return short_obstacle(one.obstacle, readiness_checks)
    if one.why is NoWork.OWN_DAY and one.day:
        return f"does it alone on {daydate_words(one.day)}"
    if one.why is NoWork.ELSEWHERE:
        return f"trains in {one.room_name}: publish the plan that follows"
    return no_load_words(one.cell.state)


def kept_off_groups(kept: Sequence[KeptOff], library: Library) -> list[tuple[str, list[str]]]:
    """What somebody is kept from, by the reason: (words, names of the work)."""
    found: dict[str, list[str]] = {}
    for one in kept:
        movement = library.movements.get(one.cell.movement or one.exercise.movement)
        found.setdefault(kept_off_words(one), []).append(movement.name if movement else "work")
    return list(found.items())


def hold_words(hold: Hold, planned: Load | None, library: Library, *, own: bool) -> str:
    """What waits for the coach before the planned number, and what is offered meanwhile.

    `own`: to the athlete, who is told what to lift, and not the question that is the coach's to answer.
    """
    if own:
        if not hold.load or not planned:
            return ""
        return f"{hold.load.total.text} today instead of {planned.total.text}, until your coach has answered."
    said = []
    if row := hold.decision:
        proposed = sentence(row.code, row.reason, row.facts, row.following, row.movement, library, why=False)
        said.append(f"Not answered since {day_words(row.done_on)}: {proposed}")
    if hold.missed:
        days = ", ".join(day_words(day) for day in hold.missed.weeks.values())
        said.append(f"Missed {days}, not answered yet.")
    if hold.load and planned:
        said.append(f"{hold.load.total.text} instead of {planned.total.text} until it is.")
    return " ".join(said)


def turn_notes(turn: Turn) -> list[str]:
    """Limits of range or side and an eased week, to be read before the set."""
    verdict = turn.verdict
    notes = [f"{limit.words} ({limit.set_by})" for limit in verdict.notes]
    if verdict.most_kg is not None and verdict.most_by:
        notes.append(f"at most {verdict.most_kg:g} kg ({verdict.most_by.set_by})")
    if verdict.ease:
        ease = verdict.ease
        notes.append(f"eased return: load × {ease.load_share:.2f}, sets × {ease.sets_share:g}")
    return notes


def asked_reserve_words(turn: Turn, left: int | None, *, to_find: bool) -> str:
    """RIR 2; nothing of seconds, of a level, and where the load is to be found first."""
    if turn.item.hold_s or to_find or turn.cell.state is State.LEVEL:
        return ""
    return "deload week, plenty in reserve" if turn.cell.kind is ExposureKind.DELOAD else f"RIR {left}"


def asked_words(
    turn: Turn, usual: SetEntry | LastTime | None, found_reps: int | None, left: int | None, *, to_find: bool
) -> str:
    """What is asked of a set in one line: RIR 2 · 16 in all, alternating · tempo 3-0-1-0 · to thigh level"""
    cell, item, movement = turn.cell, turn.item, turn.movement
    held = bool(item.hold_s)
    sided = movement.sides == 2 and not held
    convention = CONVENTIONS[movement.convention].words
    plain_load = movement.convention in ("barbell", "dumbbells")
    said = [
        f"last time {usual.load_amount:g} × {usual.reps}" if usual and turn.on_level and not found_reps else "",
        f"found: about {found_reps} reps in it" if found_reps else "",
        asked_reserve_words(turn, left, to_find=to_find),
        end_words(item),
        f"{2 * item.reps} in all, {movement.side_mode.value}" if sided else "",
        f"{cell.low}–{cell.high} reps" if cell.low else "",
        "" if held else f"tempo {item.manner.tempo or item.tempo}",
        "own level" if cell.state is State.LEVEL else "",
        f"to {movement.depth.words}",
        "" if turn.on_level or plain_load else convention,
    ]
    return " · ".join(word for word in said if word)


def steered_words(steered: Steered) -> str:
    """−6 % after the first set"""
    return f"{signed(100 * steered.moved_share)} % after the first set"


def reserve_words(entry: SetEntry) -> str:
    """RIR 2 · RIR 4 or more; nothing where nobody said."""
    if entry.reserve_reps is None:
        return ""
    return f"RIR {entry.reserve_reps}{' or more' if entry.reserve_at_least else ''}"


def band_words(notes: SetNotes) -> str:
    """Band last time: thin, helped 15 kg at the bottom and 5 at the top"""
    way = "helped" if (notes.band_bottom_kg or 0) < 0 else "resisted"
    bottom, top = abs(notes.band_bottom_kg or 0), abs(notes.band_top_kg or 0)
    return f"Band last time: {notes.band}, {way} {plain(bottom, 1)} kg at the bottom and {plain(top, 1)} at the top"


def set_notes_words(entry: SetEntry, movement: Movement, *, with_health: bool) -> str:
    """What else was told of a set, in a few words; pain only for whoever may read of it."""
    notes = set_notes_from(entry.notes)
    faults = [in_text(fault.look) for code in entry.faults if (fault := movement.fault(code))]
    held = [side for side, was in (("left", notes.left_supported), ("right", notes.right_supported)) if was]
    said = [
        f"{entry.reps_to_depth} of {entry.reps} to depth" if entry.reps_to_depth < entry.reps else "",
        reserve_words(entry),
        *faults,
        f"pain {entry.pain}, {entry.pain_region}" if entry.pain and with_health else "",
        f"hand on support, {' and '.join(held)}" if held else "hand on support" if entry.supported else "",
        f"support {plain(notes.support_cm)} cm" if notes.support_cm else "",
        f"held on the {notes.load_side}" if notes.load_side else "",
        f"felt in {notes.felt}" if notes.felt else "",
        f"the fix helped: {notes.helped}" if notes.helped else "",
        f"sore {notes.soreness}" if notes.soreness is not None else "",
        f"step {plain(notes.step_cm)} cm" if notes.step_cm else "",
        f"counterweight {plain(notes.counterweight_kg)} kg" if notes.counterweight_kg else "",
        f"band {notes.band}" if notes.band else "",
        "load given up on the way up" if notes.given_up else "",
        f"“{notes.note}”" if notes.note else "",
    ]
    return " · ".join(word for word in said if word)


def gone_words(key: str) -> str:
    """A rack that was shown here and is no more."""
    return f"{f'Rack {key}' if key.isdecimal() else 'That rack'} is closed, or nobody is on it any more."


def shelf_words(act: SessionAct, library: Library) -> str:
    """Skipped work on the shelf: from 18 Nov: calf raise, 2 sets (no time)"""
    movement = library.movements.get(str(act.facts.get("movement", "")))
    sets = act.facts.get("sets", 1)
    name = movement.name if movement else "work"
    return f"{name}, {sets} set{'s' if sets != 1 else ''} from {day_words(act.done_on)}: {act.facts.get('reason', '')}"


def sent_words(what: str, kept: int, found: Queued | None, nothing: Sequence[str], asked: Sequence[Addressee]) -> str:
    """What became of what was to be sent, each who gets nothing by name."""
    said = [f"{kept} {'address' if kept == 1 else 'addresses'} kept."] if kept else []
    if found is None:
        return " ".join(said) or "No address has changed."
    if not asked:
        return " ".join([*said, "Tick who it is for first."])
    count = len(found.waiting)
    if count:
        said.append(
            f"{count} {'goes' if count == 1 else 'go'} out in {TAKE_BACK_S} seconds; until then take it back here."
        )
    for names, why in ((found.has_it, "has it"), (found.no_address, "no address"), (nothing, "nothing to send")):
        said += [f"{', '.join(names)}: {why}{' already' if names is found.has_it else ''}."] if names else []
    return " ".join(said)


def stop_lines(stops: Sequence[tuple[OpenStop, Athlete]], library: Library) -> list[str]:
    """Each open stop as a line of a message."""
    names = {code: in_text(movement.name) for code, movement in library.movements.items()}
    return [
        f"{athlete.name}, since {day_words(stop.at)}: {pain_words(stop)}"
        + (f", in {names.get(stop.movement, stop.movement)}." if stop.movement else ".")
        for stop, athlete in stops
    ]
