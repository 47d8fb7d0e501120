import datetime as dt
from collections.abc import Iterable

from wtforms import SelectField

from backsquat.core.errors import Problem
from backsquat.core.movements.library import Library
from backsquat.core.movements.movement import Family, Region
from backsquat.core.readiness.absence import AwayReason
from backsquat.core.readiness.limits import ActiveLimit as LimitFacts
from backsquat.core.readiness.limits import LimitKind, Scope
from backsquat.pages.fields import AmountField, DayField, Needed, TextField, TodayForm, options


def limit_targets(library: Library) -> list[tuple[str, str]]:
    """What a limit can be on, as `scope:code` with words."""
    return [
        *((f"{Scope.REGION}:{region.value}", f"everything loading the {region.value}") for region in Region),
        *((f"{Scope.FAMILY}:{family.value}", f"all of the family {family.value}") for family in Family),
        *((f"{Scope.MOVEMENT}:{movement.code}", movement.name) for movement in library.in_use()),
    ]


class LimitForm(TodayForm):
    target = SelectField("On")
    kind = SelectField(
        "What",
        choices=options(
            [
                (LimitKind.NOT_AT_ALL.value, "not at all"),
                (LimitKind.LOAD.value, "at most this load"),
                (LimitKind.RANGE.value, "only this range"),
                (LimitKind.SIDE.value, "a side"),
            ]
        ),
    )
    load_kg = AmountField("At most, kg")
    words = TextField("In words", most=120)
    from_on = DayField("From", validators=[Needed()])
    until_on = DayField("Until")
    set_by = TextField("Set by, with role", validators=[Needed()], most=80)

    def __init__(self, today: dt.date, library: Library, **kwargs: object) -> None:
        super().__init__(today, **kwargs)
        self.target.choices = options(limit_targets(library))

    def problems(self) -> Iterable[Problem]:
        if self.from_on.data and self.until_on.data and self.until_on.data < self.from_on.data:
            yield Problem("until_on", "until_before", {"first": self.from_on.data.isoformat()})

    def facts(self) -> LimitFacts:
        scope, _, what = str(self.target.data).partition(":")
        load = self.load_kg.data
        return LimitFacts(
            Scope(scope),
            what,
            LimitKind(self.kind.data),
            None if load is None else float(load),
            self.words.data or "",
            self.from_on.data,
            self.until_on.data,
            self.set_by.data,
        )


class AwayForm(TodayForm):
    first_on = DayField("Away from", validators=[Needed()])
    why = SelectField(
        "Because of", choices=options((why.value, why.value) for why in AwayReason if why is not AwayReason.PAIN)
    )

    def problems(self) -> Iterable[Problem]:
        if self.first_on.data and self.first_on.data > self.today:
            yield Problem("first_on", "in_future", {"today": self.today.isoformat()})


class BackForm(TodayForm):
    back_on = DayField("Back on", validators=[Needed()])
    cleared = TextField("Cleared by, with role", most=80)


class ClearForm(TodayForm):
    """A clearance, and the limit it comes with, if any."""

    by = TextField("Cleared by", validators=[Needed()], most=60)
    role = SelectField("Role", choices=options([("physio", "Physiotherapist"), ("doctor", "Doctor")]))
    on = DayField("On", validators=[Needed()])
    limits = TextField("What is allowed", most=200, validators=[Needed()])
    most_kg = AmountField("At most, kg")
    until_on = DayField("That limit until")

    def problems(self) -> Iterable[Problem]:
        if self.on.data and self.on.data > self.today:
            yield Problem("on", "in_future", {"today": self.today.isoformat()})
        if self.on.data and self.until_on.data and self.until_on.data < self.on.data:
            yield Problem("until_on", "until_before", {"first": self.on.data.isoformat()})
        if self.most_kg.data is not None and not 0 <= self.most_kg.data <= 400:
            yield Problem("most_kg", "out_of_range", {"low": 0, "high": 400})
