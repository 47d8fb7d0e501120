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
from backsquat.core.strength.find_load import find_load
from backsquat.core.strength.reach import reach_targets
from backsquat.core.strength.set_notes import Reach, SetNotes, set_notes_from
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
from backsquat.work.floor.ahead import LastTime
from backsquat.work.floor.floor import Floor
from backsquat.work.floor.speed import by_speed, drop_of
from backsquat.work.floor.steering import Steered, steered_load
from backsquat.work.floor.turn import Turn
from backsquat.work.health.check_ins import check_ins
from backsquat.work.log.reaches import WHEEL, newest_reaches
from backsquat.work.log.sets import last_fault, last_load, last_notes
from backsquat.work.plan.cells import working_of
from backsquat.work.plan.chances import Chances, SetChance
from backsquat.work.plan.timed import ramp_sets

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


def likely(up: Turn, load: Load | None) -> SetChance | None:
    """What the load on the bar is expected to leave; None where nothing is loaded or known, or it is no work."""
    here = context()
    asked = load is not None and up.cell.kind is ExposureKind.WORK and not up.on_level
    chances = Chances.of(reader(), [up.athlete], up.movement.code, here.today, here.rules) if asked else None
    return likely_of(up, load, chances, here.today)


def likely_of(up: Turn, load: Load | None, chances: Chances | None, day: dt.date) -> SetChance | None:
    """The same where the chances of the movement were read for many."""
    if load is None or chances is None or up.cell.kind is not ExposureKind.WORK or up.on_level:
        return None
    share = up.item.manner.load_share(chances.rules)
    return chances.on(up.athlete.id, day, load.kg, up.cell.sets, up.cell.reps, manner_share=share)


def card(floor: Floor, form: SetForm | None, correcting: SetEntry | None) -> dict[str, Any]:
    """What the card of the lifter needs."""
    up = floor.up
    if up is None:
        return {}
    remembered = last_notes(reader(), up.athlete.id, up.movement.code, floor.chosen.day)
    before = (
        last_load(reader(), up.athlete.id, up.movement.code, floor.chosen.day)
        if up.on_level or remembered.band
        else None
    )
    usual = before if up.on_level else None
    offer = offered(up, usual)
    shown = offer.load if offer.steered else floor.bar
    chance = likely(up, offer.load)
    left = chance.left if chance else up.cell.reserve_reps
    today = context().today
    quick = SetForm(today, formdata=None).offer(up.movement)
    form = form or _form(up, offer, correcting)
    form.offer(up.movement, up.room.bands if up.room else ())
    return {
        "offer": offer,
        "planned": offer.amount,
        "likely": chance,
        "left": left,
        "asked": asked_words(up, offer.usual, offer.found_reps, left, to_find=offer.to_find),
        "conventions": CONVENTIONS,
        "setup_words": SETUP_WORDS,
        "notes": [*turn_notes(up), *_reach_note(up, correcting), *band_note(up, remembered, before)],
        "hold_note": hold_words(up.hold, up.planned, squad_library(), own=own_athlete() is not None) if up.hold else "",
        "movement": up.movement,
        "why": working_of(reader(), up.cell.id).steps if up.cell.load_amount else (),
        "manner": manner_words(up.item.manner),
        "pace": pace(up),
        "hold_s": up.item.hold_s or None,
        "reps": up.item.reps,
        "ramp": ramp_sets(up.load, up.movement, up.room) if up.room and up.load and not up.entries else (),
        "ramped": {act.facts.get("n") for act in up.acts if act.what is ActKind.RAMP},
        "tried": any(act.what is ActKind.TRIAL for act in up.acts),
        "bar_svg": bar_picture(up.room, shown) if shown and up.room else None,
        "quick": quick,
        "set_form": form,
        "ticked": _ticked(form, correcting),
        "directions": directions_of(up),
        "reached": _reached(up, correcting),
        "all_directions": DIRECTIONS,
        "reach_faults": set_notes_from(correcting.notes).reach_faults if correcting else {},
        "correcting": correcting,
        "loads": _loads(up),
        "remembered": remembered,
        "felt_wrong": next((f for f in up.movement.felt if f.where == remembered.felt and not f.right), None),
        "fault": squad_library().fault(
            up.movement.code, last_fault(reader(), up.athlete.id, up.movement.code, floor.chosen.day)
        ),
        "watched": _watched(up),
        "day_by_speed": by_speed(up, context().rules),
        "scales": SCALES,
        "scale_words": SCALE_WORDS,
        "checked": check_ins(reader(), [up.athlete.id], floor.chosen.day, floor.chosen.day).get(up.athlete.id),
        **decision_of(up),
    }


def _watched(up: Turn) -> dict[str, Any] | None:
    """What a sensor on the bar would watch; None where there is no sensor or no bar."""
    if sensor("bar") is None or up.load is None or up.movement.implement not in BARS:
        return None
    drop, ends = drop_of(up, context().rules)
    return {"drop": drop, "ends": ends, "load_kg": up.load.kg}


def _form(up: Turn, offer: Offered, correcting: SetEntry | None) -> SetForm:
    """The full form, filled in as the set was asked, or as it was logged; what was left is for whoever did it to say."""
    if correcting:
        return SetForm(context().today, formdata=None, data=typed_of(correcting))
    sided = up.movement.sides == 2 and not up.item.hold_s
    data = {
        "load": offer.amount,
        "hold_s": up.item.hold_s or None,
        "reps": up.item.reps,
        "left_reps": up.item.reps if sided and up.half_done != "right" else None,
        "right_reps": up.item.reps if sided and up.half_done != "left" else None,
        "short_reps": 0,
        "pain_character": "dull",
    }
    return SetForm(context().today, formdata=None, data=data)


def _ticked(form: SetForm, correcting: SetEntry | None) -> list[str]:
    if form.errors or form.asked:
        return form.faults
    return list(correcting.faults or [correcting.fault]) if correcting else []


def _reached(up: Turn, correcting: SetEntry | None) -> Reach:
    """How far to lunge this time, to be typed over; of the set itself where it is corrected."""
    if up.movement.code != WHEEL:
        return {}
    if correcting:
        return set_notes_from(correcting.notes).reach
    found = newest_reaches(reader(), [up.athlete.id]).get(up.athlete.id)
    return reach_targets(found.reach, found.faults, context().rules) if found else {}


def band_note(up: Turn, remembered: SetNotes, last: SetEntry | LastTime | None) -> list[str]:
    """The band of last time, and the next one where that was enough: the top of the dose, and no fault."""
    if not remembered.band:
        return []
    helps, work = (remembered.band_bottom_kg or 0) < 0, up.movement.work
    enough = last is not None and not last.fault and not work.seconds and last.reps >= work.high
    following = next_band(up.room.bands, remembered.band, helps=helps) if enough and up.room else None
    return [band_words(remembered) + (f". It was enough: {following.name} is next" if following else "")]


def _reach_note(up: Turn, correcting: SetEntry | None) -> list[str]:
    words = reach_words(directions_of(up), {} if correcting else _reached(up, None))
    return [words] if words else []


def directions_of(turn: Turn) -> Sequence[str]:
    """The directions of a wheel in their order; none of any other movement."""
    return (turn.item.manner.directions or DIRECTIONS) if turn.movement.code == WHEEL else ()


def pace(up: Turn) -> dict[str, Any]:
    """The tempo in seconds for the pacer, and how often; by the clock only the seconds."""
    tempo = tempo_seconds(up.item.manner.tempo or up.item.tempo) or (2.0, 0.0, 1.0, 0.0)
    rep = rep_s(up.item.tempo, up.item.manner, context().rules)
    return {"tempo": "-".join(f"{part:g}" for part in tempo), "rep_s": rep, "hold_s": up.item.hold_s}


def _loads(up: Turn) -> list[str]:
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
