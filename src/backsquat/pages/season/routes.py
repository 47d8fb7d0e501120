"""Milestones of the squad: what everybody is to reach by when, and how it stands."""

import datetime as dt
from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from flask import Blueprint, redirect, render_template, url_for
from flask.typing import ResponseReturnValue
from wtforms import SelectField

from backsquat.core.errors import Problem
from backsquat.core.season.milestone import MilestoneKind
from backsquat.pages.fields import AmountField, DayField, Needed, TextField, TodayForm, options
from backsquat.pages.request import actor, allow, context, database, reader, said_with_undo, squad_library
from backsquat.ui.phrases.milestones import milestone_words
from backsquat.work.policy import Act
from backsquat.work.season.matches import matches_ahead, next_day
from backsquat.work.season.milestones import MILESTONE_RANGE, SquadMilestone, drop_batch, goals, set_for_squad
from backsquat.work.sessions.blocks import lifts_of

blueprint = Blueprint("season", __name__, template_folder="templates")
KINDS = (("body_masses", "× body mass"), ("load", "kg"), ("rung", "rung earned"))


class RuleForm(TodayForm):
    """One rule for everybody."""

    what = TextField("What", validators=[Needed()])
    kind = SelectField("Counted in", choices=options(KINDS))
    amount = AmountField("Amount")
    due_on = DayField("By", validators=[Needed()])

    def __init__(self, today: dt.date, names: dict[str, str], on_ladders: set[str], **kwargs: Any) -> None:
        super().__init__(today, **kwargs)
        self.names, self.on_ladders = names, on_ladders

    def problems(self) -> Iterable[Problem]:
        code = self.names.get(self.what.data or "")
        if self.what.data and code is None:
            yield Problem("what", "no_such_movement")
        if self.kind.data == MilestoneKind.RUNG.value:
            if code and code not in self.on_ladders:
                yield Problem("what", "on_no_ladder")
        elif self.kind.data in {kind.value for kind in MilestoneKind}:
            low, high = MILESTONE_RANGE[MilestoneKind(self.kind.data)]
            if self.amount.data is None and not self.amount.errors:
                yield Problem("amount", "missing")
            elif self.amount.data is not None and not low <= self.amount.data <= high:
                yield Problem("amount", "milestone_range", {"low": low, "high": high})
        if self.due_on.data and self.due_on.data <= self.today:
            yield Problem("due_on", "due_in_past", {"today": self.today.isoformat()})
        elif self.due_on.data and self.due_on.data > self.today + dt.timedelta(days=3 * 365):
            yield Problem("due_on", "due_far")

    def rule(self) -> SquadMilestone:
        kind = MilestoneKind(self.kind.data)
        amount = Decimal(0) if kind is MilestoneKind.RUNG else self.amount.data
        return SquadMilestone(self.names[self.what.data], kind, amount, self.due_on.data)


def _form() -> RuleForm:
    here, library = context(), squad_library()
    names = {movement.name: movement.code for movement in library.in_use()}
    on_ladders = {code for ladder in library.ladders.values() for rung in ladder.rungs for code in rung}
    main = library.movements[lifts_of(reader(), here.squad.id, here.week)[0]].name
    day = next_day(matches_ahead(reader(), here), here.today + dt.timedelta(weeks=12))
    return RuleForm(here.today, names, on_ladders, data={"what": main, "kind": "body_masses", "due_on": day})


@blueprint.route("/milestones/", methods=["GET", "POST"])
@allow(Act.PLAN)
def index() -> ResponseReturnValue:
    """Every goal with its status, and a form for one more."""
    here, form = context(), _form()

    def write() -> tuple[int, int]:
        with database().writing() as session:
            count, change = set_for_squad(session, actor(), form.rule())
            return count, change.id

    done = form.submitted(write)
    if done:
        said_with_undo(f"Set for {done[0]} athletes.", done[1])
        return redirect(url_for("season.index"))
    return render_template(
        "season/milestones.html",
        context=here,
        form=form,
        goals=goals(reader(), here),
        milestone_words=milestone_words,
        matches=matches_ahead(reader(), here),
    ), 422 if form.errors else 200


@blueprint.post("/milestones/<batch>/drop")
@allow(Act.PLAN)
def drop(batch: str) -> ResponseReturnValue:
    with database().writing() as session:
        change = drop_batch(session, actor(), batch)
    said_with_undo("Milestone dropped for everybody.", change.id)
    return redirect(url_for("season.index"))
