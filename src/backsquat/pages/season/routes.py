"""Milestones of the squad: what everybody is to reach by when, and how it stands."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from flask import Blueprint, redirect, render_template, url_for
from flask.typing import ResponseReturnValue
from wtforms import SelectField

from backsquat.core.errors import Problem
from backsquat.core.readiness.checklist import age_years
from backsquat.core.readiness.screens import MOST
from backsquat.core.season.milestone import MilestoneKind
from backsquat.pages.fields import AmountField, DayField, Needed, TextField, TodayForm, options
from backsquat.pages.request import acting, allow, context, database, reader, said_with_undo, squad_library
from backsquat.storage.models import Athlete
from backsquat.ui.phrases.names import meant
from backsquat.work.library.screens import screens_of
from backsquat.work.policy import Act
from backsquat.work.season.matches import matches_ahead, next_day
from backsquat.work.season.milestones import MILESTONE_RANGE, SquadMilestone, drop_batch, goals, set_for_squad
from backsquat.work.sessions.blocks import lifts_of
from backsquat.work.squad.athletes import squad_athletes

blueprint = Blueprint("season", __name__, template_folder="templates")
KINDS = (
    ("body_masses", "× body mass"), ("load", "kg"), ("reps", "reps at a load"), ("level", "level earned"),
    ("seconds", "seconds held"), ("screen", "value of a screen or jump"), ("sessions", "sessions attended"),
)  # fmt: skip
EVERYBODY, POSITION = "everybody", "position "


class RuleForm(TodayForm):
    """One rule for everybody, a group, or one athlete."""

    who = SelectField("For")
    what = TextField("What")
    kind = SelectField("Counted in", choices=options(KINDS))
    amount = AmountField("Amount")
    load_kg = AmountField("With, kg")
    due_on = DayField("By", validators=[Needed()])

    def __init__(self, today: dt.date, known: "KnownMilestones", **kwargs: Any) -> None:
        super().__init__(today, **kwargs)
        self.known = known
        self.who.choices = options(known.groups)

    @property
    def code(self) -> str | None:
        """The movement's or the screen's code; None where nothing is called that."""
        names = self.known.screens if self.kind.data == MilestoneKind.SCREEN else self.known.movements
        name = meant(self.what.data or "", names)
        return names[name] if name else None

    def problems(self) -> Iterable[Problem]:
        kind = MilestoneKind(self.kind.data) if self.kind.data in set(MilestoneKind) else None
        if kind is not None and kind is not MilestoneKind.SESSIONS and self.code is None:
            yield Problem("what", "no_such_screen" if kind is MilestoneKind.SCREEN else "no_such_movement")
        if kind is MilestoneKind.LEVEL:
            if self.code and self.code not in self.known.on_ladders:
                yield Problem("what", "on_no_ladder")
        elif kind is not None:
            yield from self._amounts(kind)
        if self.due_on.data and self.due_on.data <= self.today:
            yield Problem("due_on", "due_in_past", {"today": self.today.isoformat()})
        elif self.due_on.data and self.due_on.data > self.today + dt.timedelta(days=3 * 365):
            yield Problem("due_on", "due_far")

    def _amounts(self, kind: MilestoneKind) -> Iterable[Problem]:
        """What is wrong with the number, and with the load of reps at one."""
        most = self.known.most.get(self.code or "", 1000.0)
        low, high = MILESTONE_RANGE.get(kind, (0, most))
        if self.amount.data is None:
            if not self.amount.errors:
                yield Problem("amount", "missing")
        elif not low <= self.amount.data <= high:
            yield Problem("amount", "milestone_range", {"low": low, "high": high})
        elif kind in WHOLE and self.amount.data % 1:
            yield Problem("amount", "not_whole")
        if kind is MilestoneKind.REPS:
            low, high = MILESTONE_RANGE[MilestoneKind.LOAD]
            if self.load_kg.data is None or not low <= self.load_kg.data <= high:
                yield Problem("load_kg", "milestone_range", {"low": low, "high": high})

    def rule(self) -> SquadMilestone:
        kind = MilestoneKind(self.kind.data)
        amount = Decimal(0) if kind is MilestoneKind.LEVEL else self.amount.data
        code = "" if kind is MilestoneKind.SESSIONS else self.code or ""
        load_kg = self.load_kg.data if kind is MilestoneKind.REPS else None
        return SquadMilestone(code, kind, amount, self.due_on.data, load_kg)

    def only(self) -> set[int] | None:
        """Whom it is for; None for everybody."""
        return None if self.who.data == EVERYBODY else self.known.members[self.who.data]


WHOLE = (MilestoneKind.REPS, MilestoneKind.SESSIONS, MilestoneKind.SECONDS)


@dataclass(frozen=True)
class KnownMilestones:
    """What a milestone can be about, by its name in small letters, and for whom."""

    movements: dict[str, str]
    screens: dict[str, str]
    names: list[str]
    most: dict[str, float]  # of a screen's values
    on_ladders: set[str]
    groups: list[tuple[str, str]]
    members: dict[str, set[int]]


def _known() -> KnownMilestones:
    here, library = context(), squad_library()
    screens = [one for one in screens_of(reader(), here.squad.id).values() if not one.retired]
    athletes = sorted(squad_athletes(reader(), here.squad.id), key=lambda one: one.name)
    of_name = _groups(athletes)
    groups = [(name, f"{name.removeprefix(POSITION)}, {len(ids)}") for name, ids in of_name.items()]
    return KnownMilestones(
        {movement.name.casefold(): movement.code for movement in library.in_use()},
        {screen.name.casefold(): screen.code for screen in screens},
        sorted([movement.name for movement in library.in_use()] + [screen.name for screen in screens]),
        {screen.code: MOST[screen.kind] for screen in screens},
        {code for ladder in library.ladders.values() for level in ladder.levels for code in level},
        [(EVERYBODY, EVERYBODY), *groups, *((str(one.id), one.name) for one in athletes)],
        of_name | {str(one.id): {one.id} for one in athletes},
    )


def _groups(athletes: list[Athlete]) -> dict[str, set[int]]:
    """Who can be asked for together: those of a position, the minors, who is new to lifting; none that is empty."""
    today, rules = context().today, context().rules
    positions = dict.fromkeys(one.position for one in athletes if one.position)
    found = {f"{POSITION}{name}": {one.id for one in athletes if one.position == name} for name in positions}
    found["minors"] = {one.id for one in athletes if age_years(one.born_on, today) < rules.adult_age_years}
    found["new to lifting"] = {one.id for one in athletes if one.newcomer}
    return {name: ids for name, ids in found.items() if ids}


def _form() -> RuleForm:
    here, library = context(), squad_library()
    main = library.movements[lifts_of(reader(), here.squad.id, here.week)[0]].name
    day = next_day(matches_ahead(reader(), here), here.today + dt.timedelta(weeks=12))
    start = {"what": main, "kind": "body_masses", "due_on": day, "who": EVERYBODY}
    return RuleForm(here.today, _known(), data=start)


@blueprint.route("/milestones/", methods=["GET", "POST"])
@allow(Act.PLAN)
def index() -> ResponseReturnValue:
    """Every goal with its status, and a form for one more."""
    here, form = context(), _form()

    def write() -> tuple[int, int]:
        with database().writing() as db:
            count, change = set_for_squad(acting(db), form.rule(), form.only())
            return count, change.id

    done = form.submitted(write)
    if done:
        said_with_undo(f"Set for {done[0]} {'athlete' if done[0] == 1 else 'athletes'}.", done[1])
        return redirect(url_for("season.index"))
    return render_template(
        "season/milestones.html",
        context=here,
        form=form,
        goals=goals(reader(), here),
        matches=matches_ahead(reader(), here),
    ), 422 if form.errors else 200


@blueprint.post("/milestones/<batch>/drop")
@allow(Act.PLAN)
def drop(batch: str) -> ResponseReturnValue:
    with database().writing() as db:
        change = drop_batch(acting(db), batch)
    said_with_undo("Milestone dropped for everybody.", change.id)
    return redirect(url_for("season.index"))
