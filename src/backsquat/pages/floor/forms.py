"""The form of a set: how it went, side by side, with everything else that can be told of it."""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import Any
from uuid import uuid4

from flask import request
from werkzeug.datastructures import MultiDict
from wtforms import BooleanField, HiddenField, SelectField

from backsquat.core.errors import Problem
from backsquat.core.loads.bands import along_range
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.mass import Unit
from backsquat.core.loads.room import Band
from backsquat.core.movements.manner import DIRECTIONS
from backsquat.core.movements.movement import Movement
from backsquat.core.numbers import read_decimal
from backsquat.core.strength.record import problems as set_problems
from backsquat.core.strength.set_notes import NOTE_MOST, SPEED_MOST_MS, Reach, SetNotes, set_notes_from
from backsquat.core.strength.speed import read_speeds
from backsquat.pages.fields import AmountField, Needed, PainForm, TextField, WholeField, options
from backsquat.storage.models import SetEntry
from backsquat.work.record.record import SetFacts

FAULTS_MOST = 8
TOLD = ("felt", "helped", "soreness", "note", "load_side", "left_supported", "right_supported", "given_up")
HEIGHTS = ("support_cm", "step_cm", "counterweight_kg")


class SetForm(PainForm):
    """A set as it went. How many were short of depth is asked, since that is what a coach counts."""

    load = AmountField("Load", validators=[Needed()])
    reps = WholeField("Reps")
    left_reps = WholeField("Left")
    right_reps = WholeField("Right")
    hold_s = WholeField("Seconds held")
    supported = BooleanField("A hand held on")
    side = SelectField(
        "Side", default="", choices=options([("", "both the same"), ("left", "left"), ("right", "right")])
    )
    reserve_reps = WholeField("RIR")
    short_reps = WholeField("Short of depth")
    felt = SelectField("Felt in", default="", validate_choice=False)
    helped = SelectField("Did it help?", default="", choices=options([("", "not said"), ("yes", "yes"), ("no", "no")]))
    soreness = WholeField("Muscle soreness, 0 to 10")
    note = TextField("To be read next time", most=NOTE_MOST)
    load_side = SelectField(
        "Weight held",
        default="",
        choices=options([("", "as usual"), ("left", "on the left"), ("right", "on the right")]),
    )
    left_supported = BooleanField("left with a hand")
    right_supported = BooleanField("right with a hand")
    band = SelectField("Band", default="", validate_choice=False)
    given_up = BooleanField("Load given up on the way up")
    support_cm = AmountField("Held on to, cm high")
    step_cm = AmountField("Step or box, cm")
    counterweight_kg = AmountField("Counterweight, kg")
    speeds = HiddenField()  # of a sensor on the bar, rep by rep: 0.71 0.68
    painful = HiddenField()  # set by the pain form: it never logs a set as if nothing had hurt
    client_id = HiddenField(validators=[Needed()])
    or_more = BooleanField("or more")  # of the reps left
    seen = WholeField("Sets seen")  # how many were logged when this page was made

    def __init__(self, today: dt.date, **kwargs: Any) -> None:
        super().__init__(today, **kwargs)
        given = kwargs.get("formdata")
        self.sent: MultiDict[str, str] = given if isinstance(given, MultiDict) else request.form

    @classmethod
    def of_device(cls, today: dt.date, sent: "MultiDict[str, str]") -> "SetForm":
        """A set as a device kept it. The token was checked with what it came in."""
        return cls(today, formdata=sent, meta={"csrf": False})

    def unreadable(self) -> list[Problem]:
        """What could not be read or cannot have been, as it is said beside the fields."""
        said = {name: str(found[0]) for name, found in self.errors.items() if found}
        return [Problem(name or "", "as_said", {"words": words}) for name, words in said.items()]

    def device_facts(self, unit: Unit, lifted_at: dt.datetime | None, tapped_ms: int) -> SetFacts:
        """The set of a device: nobody can be asked any more, and it was lifted earlier."""
        return replace(self.facts(unit), confirmed=None, happened_at=lifted_at, device_at=device_clock(tapped_ms))

    def offer(self, movement: Movement, bands: Sequence[Band] = ()) -> "SetForm":
        """Make it the form of a movement: its faults, where it is felt, its sides, the bands of the room."""
        self.movement = movement
        self.felt.choices = options([("", "not asked"), *((felt.where, felt.where) for felt in movement.felt)])
        self.band.choices = options(band_choices(bands))
        if self.client_id.data is None:
            self.client_id.data = str(uuid4())
        return self

    @property
    def faults(self) -> list[str]:
        """The faults that were ticked, of those the movement has."""
        known = {fault.code for fault in self.movement.faults}
        return [code for code in self.sent.getlist("fault")[:FAULTS_MOST] if code in known]

    @property
    def both(self) -> tuple[int, int] | None:
        """The reps of both sides, where both were done."""
        left, right = self.left_reps.data, self.right_reps.data
        return (left, right) if left and right else None

    @property
    def counted(self) -> int | None:
        """The reps that count: of both sides the fewer; of one side its own."""
        if self.both:
            return min(self.both)
        sided: int | None = self.left_reps.data or self.right_reps.data
        return sided or self.reps.data

    @property
    def which(self) -> str:
        """The side, where only one was done."""
        if self.both or not (self.left_reps.data or self.right_reps.data):
            return self.side.data or ""
        return "left" if self.left_reps.data else "right"

    def problems(self) -> Iterable[Problem]:
        """What is impossible about it."""
        load, reps, short = self.load.data, self.counted, self.short_reps.data or 0
        if reps is None and not (self.reps.errors or self.left_reps.errors or self.right_reps.errors):
            yield Problem("left_reps" if self.movement.sides == 2 else "reps", "missing")
        found = set_problems(
            load_kg=None if load is None else float(load),
            reps=reps,
            reps_to_depth=None if reps is None else reps - short,
            reserve_reps=self.reserve_reps.data,
            done_on=None,
            today=self.today,
            pain=self.pain.data or 0,
            hold_s=self.hold_s.data,
            may_be_unloaded=not CONVENTIONS[self.movement.convention].loaded,
            helped=CONVENTIONS[self.movement.convention].helps,
        )
        for problem in found:
            yield Problem(
                "short_reps" if problem.field == "reps_to_depth" else problem.field, problem.code, problem.facts
            )
        yield from self.notes().problems()
        if self.speeds.data and not self._speeds():
            yield Problem("speeds", "speed_range", {"most": SPEED_MOST_MS})
        if self.painful.data and not self.pain.data and not self.pain.errors:
            yield Problem("pain", "pain_needs_level")
        if self.painful.data and not self.pain_region.data:
            yield Problem("pain_region", "pain_needs_region")
        yield from self.pain_problems()

    def notes(self) -> SetNotes:
        """What else was told of it."""
        plain: dict[str, Any] = {name: getattr(self, name).data for name in TOLD}
        plain |= {name: float(value) for name in HEIGHTS if (value := getattr(self, name).data) is not None}
        kept = {name: value for name, value in plain.items() if value not in (None, "", False)}
        if kept.get("felt") not in {felt.where for felt in self.movement.felt}:
            kept.pop("felt", None)
        kept |= _band(self.band.data or "")
        return SetNotes(**kept, reach=self.reach(), reach_faults=self._reach_faults(), speeds_ms=self._speeds())

    def _reach_faults(self) -> dict[str, str]:
        """The fault seen in each direction; what the movement does not know is left out."""
        said = {way: self.sent.get(f"reach_fault_{n}", "") for n, way in enumerate(DIRECTIONS)}
        return {way: code for way, code in said.items() if self.movement.fault(code)}

    def _speeds(self) -> tuple[float, ...]:
        try:
            return read_speeds(self.speeds.data or "")
        except ValueError:
            return ()

    def reach(self) -> Reach:
        """How far a lunge went in each direction, left and right; what cannot be read is out of range, and said so."""
        found: Reach = {}
        for n, way in enumerate(DIRECTIONS):
            pair = tuple(_centimetres(self.sent.get(f"reach_{n}_{side}", "")) for side in ("left", "right"))
            if any(cm is not None for cm in pair):
                found[way] = (pair[0], pair[1])
        return found

    def facts(self, unit: Unit) -> SetFacts:
        """The set as it was typed."""
        reps, both = self.counted or 0, self.both
        return SetFacts(
            client_id=str(self.client_id.data)[:64],
            load=self.load.data or Decimal(0),
            unit=unit,
            reps=reps,
            reps_to_depth=reps - (self.short_reps.data or 0),
            reserve_reps=self.reserve_reps.data,
            reserve_at_least=bool(self.or_more.data),
            done_on=self.today,
            hold_s=self.hold_s.data,
            side=self.which,
            supported=bool(self.supported.data),
            faults=tuple(self.faults),
            pain=self.pain.data or 0,
            pain_region=self.pain_region.data or "",
            pain_character=self.pain_character.data or "",
            seen=self.seen.data,
            confirmed=self.confirmed,
            left_reps=both[0] if both else None,
            right_reps=both[1] if both else None,
            notes=self.notes(),
        )


def device_clock(tapped_ms: int) -> dt.datetime | None:
    """What a device's clock said; None beyond any calendar."""
    try:
        return dt.datetime.fromtimestamp(tapped_ms / 1000, dt.UTC).replace(tzinfo=None)
    except (ValueError, OverflowError, OSError):
        return None


def _centimetres(text: str) -> float | None:
    if not text.strip():
        return None
    try:
        return float(read_decimal(text.strip()))
    except ValueError:
        return -1.0


NOT_TYPED = ("reach", "reach_faults", "band_bottom_kg", "band_top_kg")


def band_value(notes: SetNotes) -> str:
    """A band that was told of as the form's choice."""
    return f"{notes.band}|{notes.band_bottom_kg or 0:g}|{notes.band_top_kg or 0:g}" if notes.band else ""


def band_choices(bands: Sequence[Band]) -> list[tuple[str, str]]:
    """Every band of a room both ways: thin, helps 15 kg at the bottom, 5 at the top. The value says all of it."""
    found = [("", "none")]
    for band in bands:
        for helps, words in ((True, "helps"), (False, "resists")):
            along = along_range(0.0, band, helps=helps)
            value = f"{band.name}|{along.bottom_kg:g}|{along.top_kg:g}"
            at = f"{abs(along.bottom_kg):g} kg at the bottom, {abs(along.top_kg):g} at the top"
            found.append((value, f"{band.name}, {words} {at}"))
    return found


def _band(value: str) -> dict[str, Any]:
    name, *pulls = value.rsplit("|", 2)
    if not name or len(pulls) != 2:
        return {}
    try:
        bottom_kg, top_kg = (float(read_decimal(pull)) for pull in pulls)
    except ValueError:
        return {}
    return {"band": name[:30], "band_bottom_kg": bottom_kg, "band_top_kg": top_kg}


def typed_of(entry: SetEntry) -> dict[str, Any]:
    """A logged set as the form shows it, to be corrected."""
    return {
        **{name: value for name, value in entry.notes.items() if name not in NOT_TYPED},
        "band": band_value(set_notes_from(entry.notes)),
        "load": entry.load_amount,
        "hold_s": entry.hold_s,
        "supported": entry.supported,
        "side": entry.side,
        "reps": entry.reps,
        "left_reps": entry.left_reps if entry.left_reps is not None else entry.reps if entry.side == "left" else None,
        "right_reps": (
            entry.right_reps if entry.right_reps is not None else entry.reps if entry.side == "right" else None
        ),
        "reserve_reps": entry.reserve_reps,
        "short_reps": entry.reps - entry.reps_to_depth,
        "pain": entry.pain or None,
        "pain_region": entry.pain_region,
        "pain_character": entry.pain_character or "dull",
    }
