"""Forms of the technique pages: what is said of a picture."""

from collections.abc import Iterable
from decimal import Decimal

from wtforms import SelectField

from backsquat.core.errors import Problem
from backsquat.core.technique.linkage import BOUNDS
from backsquat.core.technique.still import StillKind
from backsquat.pages.fields import AmountField, DayField, Needed, TextField, TodayForm, options
from backsquat.pages.technique.phrases import KINDS
from backsquat.work.technique.stills import NOTE_MOST


class StillForm(TodayForm):
    kind = SelectField("What it shows", choices=options((kind.value, words) for kind, words in KINDS.items()))
    taken_on = DayField("Taken on", validators=[Needed()])
    faces = SelectField("Faces", choices=options([("right", "to the right"), ("left", "to the left")]))
    wedge_mm = AmountField("Wedge, mm")
    load_kg = AmountField("Load, kg")
    movement = SelectField("Movement")
    note = TextField("Note", most=NOTE_MOST)

    def with_movements(self, movements: Iterable[tuple[str, str]]) -> "StillForm":
        """The same, with the movements of the squad to choose from."""
        self.movement.choices = options([("", "not said"), *movements])
        return self

    def problems(self) -> Iterable[Problem]:
        for field in (self.wedge_mm, self.load_kg):
            low, high = BOUNDS[field.name]
            if field.data is not None and not Decimal(low) <= field.data <= Decimal(high):
                yield Problem(field.name, "between", {"low": low, "high": high})

    @property
    def shows(self) -> StillKind:
        """What is in the picture."""
        return StillKind(self.kind.data)
