"""An athlete's own phone: a link or a code is made, shown once, and taken back."""

from flask import flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.pages.athlete.routes import blueprint
from backsquat.pages.request import acting, allow, context, database, forget_reader, reader
from backsquat.ui.drawing.square import draw_square
from backsquat.work.floor.ahead import sessions_ahead
from backsquat.work.floor.sessions import FloorSession
from backsquat.work.policy import Act
from backsquat.work.squad.athletes import athlete_of
from backsquat.work.squad.passes import end_pass, give_pass, passes_of


@blueprint.get("/<int:athlete_id>/phone")
@allow(Act.KEEP_ATHLETES)
def phone(athlete_id: int) -> ResponseReturnValue:
    """What an athlete can come in with."""
    return _page(athlete_id)


def _page(athlete_id: int, made: tuple[str, str] | None = None) -> ResponseReturnValue:
    """`made`: a code (empty for a link) and the address, to be shown this once."""
    here = context()
    return render_template(
        "athlete/phone.html",
        context=here,
        athlete=athlete_of(reader(), here.squad.id, athlete_id),
        passes=passes_of(acting(reader()), athlete_id),
        sessions=_ahead(athlete_id),
        made=made,
        picture=draw_square(made[1]) if made else None,
    )


def _ahead(athlete_id: int) -> list[FloorSession]:
    """The athlete's sessions of the days to come, on the days they do them."""
    here = context()
    return [one for one in sessions_ahead(reader(), here.squad.id, here.today) if one.holds(athlete_id)]


@blueprint.post("/<int:athlete_id>/phone")
@allow(Act.KEEP_ATHLETES)
def give(athlete_id: int) -> ResponseReturnValue:
    """A link, or a code for one session."""
    wanted = request.form.get("session", "")
    chosen = next((one for one in _ahead(athlete_id) if one.key == wanted), None)
    if wanted and chosen is None:
        raise NotThere("session")
    with database().writing() as db:
        held = (chosen.session_id, chosen.week, chosen.day) if chosen else None
        _row, token = give_pass(acting(db), athlete_id, held)
    forget_reader()
    return _page(
        athlete_id,
        (token if chosen else "", url_for("accounts.come_in_by_link", token=token, week=None, _external=True)),
    )


@blueprint.post("/<int:athlete_id>/phone/<int:pass_id>/end")
@allow(Act.KEEP_ATHLETES)
def end(athlete_id: int, pass_id: int) -> ResponseReturnValue:
    """Taken back."""
    with database().writing() as db:
        end_pass(acting(db), athlete_id, pass_id)
    flash("Taken back: anyone who came in with it is out.")
    return redirect(url_for("athlete.phone", athlete_id=athlete_id))
