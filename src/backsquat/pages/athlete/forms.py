"""Forms of an athlete: facts, a test set, a milestone."""

import datetime as dt
from collections.abc import Iterable
from typing import Any
from uuid import uuid4

from wtforms import BooleanField, HiddenField, SelectField

from backsquat.core.errors import Problem
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import Movement
from backsquat.core.pain import Character
from backsquat.core.season.milestone import MilestoneKind
from backsquat.core.strength.record import problems as set_problems
from backsquat.pages.fields import AmountField, DayField, Needed, PainForm, TextField, TodayForm, WholeField, options
from backsquat.storage.models import SetEntry
from backsquat.work.record.record import SetFacts
from backsquat.work.season.milestones import MILESTONE_RANGE
from backsquat.work.squad.athletes import NAME_MOST, AthleteFacts, fact_problems
from backsquat.work.squad.growth import HEIGHT_CM


class AthleteForm(TodayForm):
    name = TextField("Name", validators=[Needed()], most=NAME_MOST)
    born_on = DayField("Born on", validators=[Needed()])
    body_mass_kg = AmountField("Body mass, kg")
    height_cm = AmountField("Height, cm")
    position = TextField("Position", most=40)
    newcomer = BooleanField("New to lifting: plans start lower and rise in small steps")
    consent = BooleanField("Guardian's consent is on file (needed under 18)")
    guardian = TextField("Whose consent", most=80)

    def problems(self) -> Iterable[Problem]:
        yield from fact_problems(self.name.data or "", self.born_on.data, self.body_mass_kg.data, self.today)
        low, high = HEIGHT_CM
        if self.height_cm.data is not None and not low <= self.height_cm.data <= high:
            yield Problem("height_cm", "height_of", {"low": low, "high": high})

    def facts(self) -> AthleteFacts:
        return AthleteFacts(
            self.name.data,
            self.born_on.data,
            self.body_mass_kg.data,
            self.position.data or "",
            self.newcomer.data,
            self.consent.data,
            self.guardian.data or "",
        )


class TestSetForm(PainForm):
    """A test set; reps to depth left empty means all of them."""

    __test__ = False
    movement = SelectField("Movement")
    load = AmountField("Load", validators=[Needed()])
    reps = WholeField("Reps", validators=[Needed()])
    reserve_reps = WholeField("RIR", validators=[Needed()])
    reps_to_depth = WholeField("Reps to depth")
    done_on = DayField("Date", validators=[Needed()])
    client_id = HiddenField()

    def __init__(self, today: dt.date, movements: Iterable[Movement], **kwargs: object) -> None:
        super().__init__(today, **kwargs)
        self.known = {movement.code: movement for movement in movements}
        self.movement.choices = options((code, movement.name) for code, movement in self.known.items())
        self.client_id.data = self.client_id.data or str(uuid4())

    def problems(self) -> Iterable[Problem]:
        load = self.load.data
        yield from set_problems(
            load_kg=None if load is None else float(load),
            reps=self.reps.data,
            reps_to_depth=self.reps_to_depth.data,
            reserve_reps=self.reserve_reps.data,
            done_on=self.done_on.data,
            today=self.today,
            pain=self.pain.data or 0,
            may_be_unloaded=self.unloaded_too,
        )
        yield from self.pain_problems()

    def facts(self, unit: Unit) -> SetFacts:
        """The set as it was typed."""
        to_depth = self.reps_to_depth.data
        return SetFacts(
            client_id=str(self.client_id.data)[:64],
            load=self.load.data,
            unit=unit,
            reps=self.reps.data,
            reps_to_depth=self.reps.data if to_depth is None else to_depth,
            reserve_reps=self.reserve_reps.data,
            done_on=self.done_on.data,
            pain=self.pain.data or 0,
            pain_region=self.pain_region.data or "",
            pain_character=self.pain_character.data or "",
            confirmed=self.confirmed,
        )

    @property
    def unloaded_too(self) -> bool:
        movement = self.known.get(self.movement.data or "")
        return movement is not None and not CONVENTIONS[movement.convention].loaded


def as_form(entry: SetEntry) -> dict[str, Any]:
    """A test as it stands, for the form that corrects it."""
    names = ("movement", "reps", "reserve_reps", "reps_to_depth", "done_on", "pain_region")
    known = {name: getattr(entry, name) for name in names} | {"load": entry.load_amount, "pain": entry.pain or None}
    return known | {"pain_character": entry.pain_character or Character.DULL.value}


class MilestoneForm(TodayForm):
    movement = SelectField("Lift")
    kind = SelectField("Counted in", choices=options([("body_masses", "× body mass"), ("load", "kg")]))
    amount = AmountField("Amount", validators=[Needed()])
    due_on = DayField("By", validators=[Needed()])

    def __init__(self, today: dt.date, lifts: Iterable[tuple[str, str]], **kwargs: object) -> None:
        super().__init__(today, **kwargs)
        self.movement.choices = options(lifts)

    def problems(self) -> Iterable[Problem]:
        if self.amount.data is not None and self.kind.data in {kind.value for kind in MilestoneKind}:
            low, high = MILESTONE_RANGE[MilestoneKind(self.kind.data)]
            if not low <= self.amount.data <= high:
                yield Problem("amount", "milestone_range", {"low": low, "high": high})
        if self.due_on.data and self.due_on.data <= self.today:
            yield Problem("due_on", "due_in_past", {"today": self.today.isoformat()})
        elif self.due_on.data and self.due_on.data > self.today + dt.timedelta(days=3 * 365):
            yield Problem("due_on", "due_far")
