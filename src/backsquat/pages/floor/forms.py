from collections.abc import Iterable
from decimal import Decimal
from uuid import uuid4

from wtforms import BooleanField, HiddenField, SelectField

from backsquat.core.errors import Problem
from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import Movement
from backsquat.core.strength.record import problems as set_problems
from backsquat.pages.fields import AmountField, Needed, PainForm, WholeField, options
from backsquat.work.record.record import SetFacts


class SetForm(PainForm):
    """A set as it went. How many were short of depth is asked, since that is what a coach counts."""

    load = AmountField("Load", validators=[Needed()])
    reps = WholeField("Reps", validators=[Needed()])
    hold_s = WholeField("Seconds held")
    supported = BooleanField("A hand held on")
    side = SelectField(
        "Side", default="", choices=options([("", "both the same"), ("left", "left"), ("right", "right")])
    )
    reserve_reps = WholeField("Left in reserve")
    short_reps = WholeField("Short of depth")
    fault = SelectField("Form", choices=options([("", "sound")]), validate_choice=False)
    painful = HiddenField()  # set by the pain form: it never logs a set as if nothing had hurt
    client_id = HiddenField(validators=[Needed()])
    seen = WholeField("Sets seen")  # how many were logged when this page was made

    def offer(self, movement: Movement) -> "SetForm":
        self.movement = movement
        self.fault.choices = options([("", "sound"), *((fault.code, fault.look) for fault in movement.faults)])
        if self.client_id.data is None:
            self.client_id.data = str(uuid4())
        return self

    def problems(self) -> Iterable[Problem]:
        load, reps, short = self.load.data, self.reps.data, self.short_reps.data or 0
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
        if self.painful.data and not self.pain.data and not self.pain.errors:
            yield Problem("pain", "pain_needs_level")
        if self.painful.data and not self.pain_region.data:
            yield Problem("pain_region", "pain_needs_region")
        yield from self.pain_problems()

    def facts(self, unit: Unit) -> SetFacts:
        reps = self.reps.data or 0
        return SetFacts(
            client_id=str(self.client_id.data)[:64],
            load=self.load.data or Decimal(0),
            unit=unit,
            reps=reps,
            reps_to_depth=reps - (self.short_reps.data or 0),
            reserve_reps=self.reserve_reps.data,
            done_on=self.today,
            hold_s=self.hold_s.data,
            side=self.side.data or "",
            supported=bool(self.supported.data),
            fault=self.fault.data or "",
            pain=self.pain.data or 0,
            pain_region=self.pain_region.data or "",
            pain_character=self.pain_character.data or "",
            seen=self.seen.data,
            confirmed=self.confirmed,
        )
