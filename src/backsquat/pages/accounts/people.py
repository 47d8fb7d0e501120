"""The people of the squad: accounts, roles, one-time links, for the head coach."""

from typing import Any

from flask import flash, redirect, render_template, request, url_for
from flask import session as flask_session
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.core.roles import STAFF, Role
from backsquat.pages.accounts.forms import PersonForm
from backsquat.pages.accounts.routes import blueprint
from backsquat.pages.request import acting, actor, allow, clock, context, database, forget_reader, reader, settings
from backsquat.work.accounts.links import make_link
from backsquat.work.accounts.people import (
    change_role,
    close_account,
    everybody,
    invite,
    invite_again,
    may_reset,
    names_here,
)
from backsquat.work.exports.archive import came_in_whole, take_out_again
from backsquat.work.policy import Act


@blueprint.get("/people")
@allow(Act.KEEP_PEOPLE)
def people() -> ResponseReturnValue:
    """Who has an account here."""
    return _page()


def _page(
    form: PersonForm | None = None, link: tuple[str, str] | None = None, status: int = 200
) -> ResponseReturnValue:
    page = render_template(
        "accounts/people.html",
        context=context(),
        people=[one for one in everybody(reader(), context().squad.id) if one[1] in STAFF],
        roles=STAFF,
        usual_role=Role.ASSISTANT,  # of somebody a list named, who is invited
        names=names_here(acting(reader())),
        came_in=came_in_whole(acting(reader())),
        form=form or PersonForm(formdata=None),
        link=link,
    )
    return page, status


def _link(name: str, token: str) -> tuple[str, str]:
    return name, url_for("accounts.new_password", token=token, week=None, _external=True)


@blueprint.post("/people")
@allow(Act.KEEP_PEOPLE)
def add() -> ResponseReturnValue:
    """Somebody new, with a link to choose a password."""
    form = PersonForm()

    def write() -> tuple[str, str]:
        with database().writing() as db:
            facts: dict[str, Any] = {"sign_in": form.sign_in.data, "name": form.name.data, "role": Role(form.role.data)}
            user = invite(acting(db), **facts, cost=settings().hash_cost)
            return user.name, make_link(db, user.id, clock().real(), actor().user_id)

    made = form.submitted(write)
    return _page(form, status=422) if made is None else _page(link=_link(*made))


@blueprint.post("/people/<int:user_id>/invite")
@allow(Act.KEEP_PEOPLE)
def invite_name(user_id: int) -> ResponseReturnValue:
    """Somebody an archive named, with the role said now and a link to choose a password."""
    wanted = _role()
    with database().writing() as db:
        user = invite_again(acting(db), user_id, wanted)
        made = user.name, make_link(db, user.id, clock().real(), actor().user_id)
    forget_reader()
    return _page(link=_link(*made))


@blueprint.post("/people/archive-out")
@allow(Act.KEEP_PEOPLE)
def archive_out() -> ResponseReturnValue:
    """Everything an archive brought, gone again; nobody is signed in any more."""
    with database().writing() as db:
        take_out_again(acting(db))
    database().forget()
    forget_reader()
    flask_session.clear()
    flash("The data folder is empty again. Start Back Squat again: it prints a code for the next squad.")
    return redirect(url_for("accounts.sign_in", week=None))


def _role() -> Role:
    wanted = request.form.get("role", "")
    if wanted not in set(STAFF):
        raise NotThere("role")
    return Role(wanted)


@blueprint.post("/people/<int:user_id>/link")
@allow(Act.KEEP_PEOPLE)
def link(user_id: int) -> ResponseReturnValue:
    """A one-time link for a forgotten password or a lost phone; shown once."""
    with database().writing() as db:
        user = may_reset(acting(db), user_id)
        made = user.name, make_link(db, user.id, clock().real(), actor().user_id)
    return _page(link=_link(*made))


@blueprint.post("/people/<int:user_id>/role")
@allow(Act.KEEP_PEOPLE)
def role(user_id: int) -> ResponseReturnValue:
    """Another role."""
    wanted = _role()
    with database().writing() as db:
        row = change_role(acting(db), user_id, wanted, clock().real())
        words = f"{row.user.name} is {row.role.value} now, and signs in again."
    flash(words)
    return redirect(url_for("accounts.people"))


@blueprint.post("/people/<int:user_id>/close")
@allow(Act.KEEP_PEOPLE)
def close(user_id: int) -> ResponseReturnValue:
    """No account any more."""
    with database().writing() as db:
        name = close_account(acting(db), user_id, clock().real()).name
    flash(f"{name} can sign in no more. What they wrote stays.")
    return redirect(url_for("accounts.people"))
