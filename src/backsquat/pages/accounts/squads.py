"""The squads somebody belongs to: which one this browser shows, one more, and the seasons of the one that is shown."""

from typing import Any

from flask import redirect, render_template, url_for
from flask import session as flask_session
from flask.typing import ResponseReturnValue
from flask_login import current_user

from backsquat.core.errors import NotThere
from backsquat.pages.accounts.forms import SeasonForm, SquadForm
from backsquat.pages.accounts.person import CSRF
from backsquat.pages.accounts.routes import blueprint
from backsquat.pages.request import (
    acting,
    allow,
    clock,
    context,
    database,
    forget_reader,
    reader,
    said_with_undo,
    signed_in,
)
from backsquat.work.accounts.people import memberships_of
from backsquat.work.accounts.sign_ins import show_squad
from backsquat.work.policy import Act
from backsquat.work.season.seasons import begin_season
from backsquat.work.squad.context import seasons_of
from backsquat.work.squad.first import another_squad

NEXT = "next_"  # the page has two forms with a first day: each label is of its own field


@blueprint.get("/squads")
@allow(Act.HAVE_ACCOUNT)
def squads() -> ResponseReturnValue:
    """Which squads there are for the signed-in person."""
    return _page()


def _page(squad_form: Any = None, season_form: Any = None, status: int = 200) -> ResponseReturnValue:
    today = clock().today()
    page = render_template(
        "accounts/squads.html",
        context=context(),
        mine=memberships_of(reader(), current_user.id),
        seasons=seasons_of(reader(), context().squad.id),
        squad_form=squad_form or SquadForm(today, formdata=None, data={"club": context().squad.club}),
        season_form=season_form or SeasonForm(today, formdata=None, prefix=NEXT),
    )
    return page, status


@blueprint.post("/squads/<int:squad_id>/open")
@allow(Act.HAVE_ACCOUNT)
def open_squad(squad_id: int) -> ResponseReturnValue:
    """Show this one from now on; what is still open of the other can be sent no more."""
    if squad_id not in {one.squad_id for one in memberships_of(reader(), current_user.id)}:
        raise NotThere("squad")
    _show(squad_id)
    return redirect(url_for("squad.index", week=None))


def _show(squad_id: int) -> None:
    row = signed_in()
    if row is None:
        raise NotThere("squad")
    with database().writing() as db:
        show_squad(db, row.id, squad_id)
    flask_session.pop(CSRF, None)  # a page of the other squad, open in another tab, must not write into this one
    forget_reader()


@blueprint.post("/squads")
@allow(Act.KEEP_PEOPLE)
def new_squad() -> ResponseReturnValue:
    """One more squad, and on to it."""
    form = SquadForm(clock().today())

    def write() -> int:
        with database().writing() as db:
            facts: dict[str, Any] = {name: getattr(form, name).data for name in ("club", "first_on", "weeks")}
            return another_squad(acting(db), name=str(form.squad.data), **facts).id

    made = form.submitted(write)
    if made is None:
        return _page(squad_form=form, status=422)
    _show(made)
    return redirect(url_for("squad.index", week=None))


@blueprint.post("/squads/season")
@allow(Act.PLAN)
def new_season() -> ResponseReturnValue:
    """One more season of the squad that is shown."""
    form = SeasonForm(clock().today(), prefix=NEXT)

    def write() -> int:
        with database().writing() as db:
            return begin_season(acting(db), form.first_on.data, form.weeks.data).id

    change_id = form.submitted(write)
    if change_id is None:
        return _page(season_form=form, status=422)
    said_with_undo("The season is there: athletes, rooms, rules, records and the log go on.", change_id)
    return redirect(url_for("accounts.squads", week=None))
