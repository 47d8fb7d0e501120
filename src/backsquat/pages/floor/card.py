"""The card of what comes now: the load, what is asked, what is to be read first, the forms."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.loads.bands import next_band
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.rigs import rigs_for
from backsquat.core.loads.rounding import grains
from backsquat.core.movements.manner import DIRECTIONS, rep_s, tempo_seconds
from backsquat.core.movements.movement import BARS
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.readiness.flags import SCALES
from backsquat.core.sessions.running import ActKind
from backsquat.core.sessions.session import Form
from backsquat.core.strength.find_load import find_load
from backsquat.core.strength.reach import reach_targets
from backsquat.core.strength.set_notes import set_notes_from
from backsquat.pages.drawing import bar_picture
from backsquat.pages.floor.forms import SetForm, typed_of
from backsquat.pages.floor.phrases import SCALE_WORDS, asked_words, band_words, hold_words, turn_notes
from backsquat.pages.request import context, own_athlete, reader, squad_library
from backsquat.pages.sensors import sensor
from backsquat.storage.models import SetEntry
from backsquat.ui.phrases.decisions import WOULD_CHANGE, sentence
from backsquat.ui.phrases.sessions import manner_words, reach_words
from backsquat.ui.phrases.set_up import SETUP_WORDS
from backsquat.work.decisions.waiting import answer_to
from backsquat.work.floor.ahead import LastTime, last_times
from backsquat.work.floor.floor import Floor
from backsquat.work.floor.racks import RunningList
from backsquat.work.floor.speed import by_speed, drop_of
from backsquat.work.floor.steering import Steered, steered_load
from backsquat.work.floor.turn import Turn
from backsquat.work.health.check_ins import check_ins
from backsquat.work.log.reaches import WHEEL, MeasuredReach, newest_reaches
from backsquat.work.plan.cells import working_of
from backsquat.work.plan.chances import Chances, SetChance
from backsquat.work.plan.timed import ramp_sets

NOTHING_BEFORE = LastTime(Decimal(0), 0)  # where nothing is remembered of a movement
LOADS_AROUND = 8  # achievable loads offered below and above the planned one


@dataclass(frozen=True)
class Offered:
    """The load that is offered: its amount, the load with its plates, and where it comes from."""

    amount: Decimal | None
    load: Load | None = None
    steered: Steered | None = None
    usual: SetEntry | LastTime | None = None  # of last time, for work without a planned load
    found_reps: int | None = None  # the first set has found it: reps it promises
    start: Decimal | None = None  # to begin with, where it is still to be found

    @property
    def to_find(self) -> bool:
        """Whether the first set is to find the load."""
        return self.load is None and self.usual is None and self.found_reps is None


def offered(up: Turn, usual: SetEntry | LastTime | None) -> Offered:
    """What to put on: the planned load, the steered one, or for bells and machines what the first set found.

    `usual`: the set of last time, asked for where there is no planned load.
    """
    if not up.on_level:
        steered = steered_load(up)
        if steered:
            return Offered(steered.load.total.amount, steered.load, steered)
        return Offered(up.load.total.amount if up.load else up.cell.load_amount, up.load)
    found = _found(up)
    if found:
        return Offered(found[0], usual=usual, found_reps=found[1])
    if up.entries:  # nobody said what the first left: the same again, until somebody does
        return Offered(up.entries[0].load_amount, usual=usual or up.entries[0])
    if usual is None:
        return Offered(up.cell.start_amount, start=up.cell.start_amount)
    return Offered(usual.load_amount, usual=usual)


def _found(up: Turn) -> tuple[Decimal, int] | None:
    """The load the first set of today has found, with the reps it promises."""
    first, room = (up.entries[0] if up.entries else None), up.room
    convention = CONVENTIONS[up.movement.convention]
    rig = next(iter(rigs_for(up.movement, room)), None) if room else None
    if first is None or rig is None or room is None or first.hold_s or convention.helps or first.reserve_reps is None:
        return None
    loads = {load.kg: load for load in loads_on(room, rig).loads}
    window = (up.cell.low, up.cell.high) if up.cell.low else (up.item.reps, up.item.reps)
    trial = (first.load_kg, first.reps_to_depth, first.reserve_reps)
    if first.load_kg <= 0 or first.reps_to_depth < 1:
        return None
    found = find_load(trial, window, up.cell.reserve_reps, list(loads), context().rules, first.carried_kg or 0.0)
    return (loads[found.load_kg].total.amount, found.reps) if found else None


def likely_of(up: Turn, load: Load | None, chances: Chances | None, day: dt.date) -> SetChance | None:
    """What the load on the bar is expected to leave; None where nothing is loaded or known, or it is no work."""
    if load is None or chances is None or up.cell.kind is not ExposureKind.WORK or up.on_level:
        return None
    share = up.item.manner.load_share(chances.rules)
    return chances.on(up.athlete.id, day, load.kg, up.cell.sets, up.cell.reps, manner_share=share)


def turn_card(
    turn: Turn, mine: RunningList, last: LastTime | None, chances: Chances | None, reach: MeasuredReach | None
) -> dict[str, Any]:
    """The card of one turn, for the page and for a device that takes it along; nothing is read here."""
    here, movement, item = context(), turn.movement, turn.item
    offer = offered(turn, last if turn.on_level else None)
    chance = likely_of(turn, offer.load, chances, here.today)
    left = chance.left if chance else turn.cell.reserve_reps
    group = next(group for group in mine.session.groups if item in group.items)
    hold_note = hold_words(turn.hold, turn.planned, squad_library(), own=own_athlete() is not None) if turn.hold else ""
    return _remembered(turn, last, reach) | {
        "turn": turn,
        "cell": turn.cell,
        "item": item,
        "movement": movement,
        "mine": mine,
        "group": group,
        "round_word": {Form.SINGLE: "", Form.CIRCUIT: "round "}.get(group.form, "set "),
        "offer": offer,
        "planned": offer.amount,
        "find": offer.to_find and (movement.takes_load or CONVENTIONS[movement.convention].loaded),
        "left": left,
        "asked": asked_words(turn, offer.usual, offer.found_reps, left, to_find=offer.to_find),
        "hold_note": hold_note,
        "notes": turn_notes(turn),
        "manner": manner_words(item.manner),
        "pace": pace(turn),
        "hold_s": item.hold_s or None,
        "reps": item.reps,
        "sided": movement.sides == 2 and not item.hold_s,
        "ramp": ramp_sets(turn.load, movement, turn.room) if turn.room and turn.load and not turn.entries else (),
        "ramped": {act.facts.get("n") for act in turn.acts if act.what is ActKind.RAMP},
        "tried": any(act.what is ActKind.TRIAL for act in turn.acts),
        "bar_svg": bar_picture(turn.room, offer.load) if offer.load and turn.room else None,
        "setup_words": SETUP_WORDS,
        "loads": loads_around(turn),
    }


def _remembered(turn: Turn, last: LastTime | None, reach: MeasuredReach | None) -> dict[str, Any]:
    """What is to be read of last time: felt wrongly, a fault, a note, the band, how far to lunge this time."""
    movement, directions = turn.movement, directions_of(turn)
    targets = reach_targets(reach.reach, reach.faults, context().rules) if reach else {}
    return {
        "directions": directions,
        "all_directions": DIRECTIONS,
        "reached": targets,
        "last": last or NOTHING_BEFORE,
        "last_words": [words for words in (reach_words(directions, targets), band_note(turn, last)) if words],
        "felt_wrong": next((f for f in movement.felt if last and f.where == last.felt and not f.right), None),
        "fault": squad_library().fault(movement.code, last.fault) if last else None,
    }


def card(floor: Floor, form: SetForm | None, correcting: SetEntry | None) -> dict[str, Any]:
    """What the card of the lifter needs on the page, where a set may be corrected and a decision answered too."""
    up = floor.up
    if up is None or floor.mine is None:
        return {}
    here, day, who, code = context(), floor.chosen.day, up.athlete.id, up.movement.code
    last = last_times(reader(), [who], day, code).get((who, code))
    loaded = up.cell.kind is ExposureKind.WORK and not up.on_level
    chances = Chances.of(reader(), [up.athlete], code, here.today, here.rules) if loaded else None
    reach = newest_reaches(reader(), [who]).get(who) if code == WHEEL else None
    found = turn_card(up, floor.mine, last, chances, reach)
    offer: Offered = found["offer"]
    if not offer.steered and floor.bar and up.room:  # its plates as the sets before on this rack leave them
        found["bar_svg"] = bar_picture(up.room, floor.bar)
    if correcting:
        found |= {"reached": set_notes_from(correcting.notes).reach, "last_words": []}
    form = form or _form(up, offer, correcting)
    form.offer(up.movement, up.room.bands if up.room else ())
    step = floor.mine.running.now
    return found | {
        "step": step if step and step.item.key == up.exercise.id else None,
        "why": working_of(reader(), up.cell.id).steps if up.cell.load_amount else (),
        "quick": SetForm(here.today, formdata=None).offer(up.movement),
        "set_form": form,
        "ticked": _ticked(form, correcting),
        "reach_faults": set_notes_from(correcting.notes).reach_faults if correcting else {},
        "correcting": correcting,
        "watched": _watched(up),
        "day_by_speed": by_speed(up, here.rules),
        "scales": SCALES,
        "scale_words": SCALE_WORDS,
        "checked": check_ins(reader(), [who], day, day).get(who),
        **decision_of(up),
    }


def _watched(up: Turn) -> dict[str, Any] | None:
    """What a sensor on the bar would watch; None where there is no sensor or no bar."""
    if sensor("bar") is None or up.load is None or up.movement.implement not in BARS:
        return None
    drop, ends = drop_of(up, context().rules)
    return {"drop": drop, "ends": ends, "load_kg": up.load.kg}


def _form(up: Turn, offer: Offered, correcting: SetEntry | None) -> SetForm:
    """The full form, filled in as the set was asked, or as it was logged."""
    data = typed_of(correcting) if correcting else asked_of(up, offer)
    return SetForm(context().today, formdata=None, data=data)


def asked_of(up: Turn, offer: Offered) -> dict[str, Any]:
    """A set as it was asked, to be typed over; what was left is for who did it to say."""
    sided = up.movement.sides == 2 and not up.item.hold_s
    return {
        "load": offer.amount,
        "hold_s": up.item.hold_s or None,
        "reps": up.item.reps,
        "left_reps": up.item.reps if sided and up.half_done != "right" else None,
        "right_reps": up.item.reps if sided and up.half_done != "left" else None,
        "short_reps": 0,
        "pain_character": "dull",
    }


def _ticked(form: SetForm, correcting: SetEntry | None) -> list[str]:
    if form.errors or form.asked:
        return form.faults
    return list(correcting.faults or [correcting.fault]) if correcting else []


def band_note(up: Turn, last: LastTime | None) -> str:
    """The band of last time, and the next one where that was enough: the top of the dose, and no fault."""
    if last is None or not last.notes.band:
        return ""
    helps, work = (last.notes.band_bottom_kg or 0) < 0, up.movement.work
    enough = last.clean and not work.seconds and last.reps >= work.high
    following = next_band(up.room.bands, last.notes.band, helps=helps) if enough and up.room else None
    return band_words(last.notes) + (f". It was enough: {following.name} is next" if following else "")


def directions_of(turn: Turn) -> Sequence[str]:
    """The directions of a wheel in their order; none of any other movement."""
    return (turn.item.manner.directions or DIRECTIONS) if turn.movement.code == WHEEL else ()


def pace(up: Turn) -> dict[str, Any]:
    """The tempo in seconds for the pacer, and how often; by the clock only the seconds."""
    tempo = tempo_seconds(up.item.manner.tempo or up.item.tempo) or (2.0, 0.0, 1.0, 0.0)
    rep = rep_s(up.item.tempo, up.item.manner, context().rules)
    return {"tempo": "-".join(f"{part:g}" for part in tempo), "rep_s": rep, "hold_s": up.item.hold_s}


def loads_around(up: Turn) -> list[str]:
    """Loads of the room around the planned one, or all bells and pins there are, for the form's list."""
    if up.room is None:
        return []
    load = up.load
    if load is None:
        rig = next(iter(rigs_for(up.movement, up.room)), None)
        return [item.total.text for item in loads_on(up.room, rig).loads] if rig else []
    loads = loads_on(up.room, load.rig)
    here = loads.grains.index(grains(load.kg)) if grains(load.kg) in loads.grains else 0
    around = loads.loads[max(0, here - LOADS_AROUND) : here + LOADS_AROUND + 1]
    return [item.total.text for item in around]


def decision_of(turn: Turn) -> dict[str, Any]:
    """The decision on a turn in words, with what was answered."""
    row = turn.decision
    if row is None:
        return {"decision": None}
    return {
        "decision": row,
        "sentence": sentence(row.code, row.reason, row.facts, row.following, row.movement, squad_library(), why=False),
        "would_change": WOULD_CHANGE[row.would_change],
        "answer": answer_to(reader(), row.id),
    }
