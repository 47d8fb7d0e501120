"""One's own account: password, second factor, where one is signed in; and a password by a one-time link."""

from collections.abc import Callable
from typing import Any

from flask import flash, redirect, render_template, request, url_for
from flask import session as flask_session
from flask.typing import ResponseReturnValue
from flask_login import current_user

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.pages.accounts.forms import ChangePasswordForm, CodeForm, NewPasswordForm
from backsquat.pages.accounts.routes import blueprint
from backsquat.pages.request import (
    allow,
    allow_anyone,
    clock,
    context,
    database,
    lasting,
    reader,
    settings,
    signed_in,
    slow,
)
from backsquat.ui.drawing.square import draw_square
from backsquat.work.accounts.links import link_of, use_link
from backsquat.work.accounts.people import account_of, change_password
from backsquat.work.accounts.second import address_of, is_code, new_secret, set_up, take_off
from backsquat.work.accounts.sign_ins import end_all, open_of, proved
from backsquat.work.audit import note_of
from backsquat.work.policy import Act

FIELDS = {"old password": "old", "code": "code"}  # what is proved, by the field it is typed in


def _here() -> int | None:
    row = signed_in()
    return row.id if row else None


@blueprint.get("/account")
@allow(Act.HAVE_ACCOUNT)
def account() -> ResponseReturnValue:
    """Password, second factor, browsers."""
    return _page()


def _tried(what: str, proof: Callable[[], None]) -> None:
    """A proof somebody gives who is signed in (the old password, a code): wrong ones are counted, slowed, and noted.

    Whoever sits at a browser that was left open guesses no faster than whoever stands outside.
    """
    account = account_of(reader(), current_user.id).sign_in_key
    here = request.remote_addr or "", f"{account} {what}"
    if not slow().may_try(*here):
        raise ImpossibleInput(Problem(FIELDS[what], "sign_in_slow"))
    try:
        proof()
    except ImpossibleInput as wrong:
        if {problem.code for problem in wrong.problems} & {"password_wrong", "code_wrong"}:
            slowed = slow().failed(*here)
            with database().writing() as db:
                for line in ("proof_failed", "proof_slowed")[: 1 + slowed]:
                    note_of(db, clock().now(), line, {"what": what}, user_id=current_user.id)
        raise


def _page(status: int = 200, **forms: Any) -> ResponseReturnValue:
    me = account_of(reader(), current_user.id)
    secret = "" if me.second_factor else flask_session.setdefault("new_secret", new_secret())
    page = render_template(
        "accounts/account.html",
        context=context(),
        me=me,
        password_form=forms.get("password") or ChangePasswordForm(formdata=None),
        code_form=forms.get("code") or CodeForm(formdata=None),
        secret=secret,
        picture=draw_square(address_of(secret, me.sign_in)) if secret else "",
        browsers=open_of(reader(), me.id, clock().real(), lasting()),
        here=_here(),
        needed=settings().second_factor,
    )
    return page, status


@blueprint.post("/account/password")
@allow(Act.HAVE_ACCOUNT)
def password() -> ResponseReturnValue:
    """Another password; other browsers are signed out."""
    form = ChangePasswordForm()

    def change() -> None:
        with database().writing() as db:
            me, now = account_of(db, current_user.id), clock().real()
            change_password(db, me, now, form.old.data or "", form.password.data or "", settings().hash_cost, _here())

    def write() -> bool:
        _tried("old password", change)
        return True

    if form.submitted(write) is None:
        return _page(422, password=form)
    flash("Password changed. Other browsers are signed out.")
    return redirect(url_for("accounts.account"))


@blueprint.post("/account/second-factor")
@allow(Act.HAVE_ACCOUNT)
def second_factor() -> ResponseReturnValue:
    """Set it up with the code of the phone."""
    form = CodeForm()

    def prove() -> None:
        with database().writing() as db:
            me, now = account_of(db, current_user.id), clock().real()
            set_up(db, me, flask_session.get("new_secret", ""), form.code.data, now, _here())
            proved(db, _here())

    def write() -> bool:
        _tried("code", prove)
        return True

    if form.submitted(write) is None:
        return _page(422, code=form)
    flask_session.pop("new_secret", None)
    flash("Second factor set up. Other browsers are signed out.")
    return redirect(url_for("accounts.account"))


@blueprint.post("/account/second-factor/off")
@allow(Act.HAVE_ACCOUNT)
def second_factor_off() -> ResponseReturnValue:
    """Without it again, for who has the phone at hand."""
    form = CodeForm()

    def prove() -> None:
        with database().writing() as db:
            me, now = account_of(db, current_user.id), clock().real()
            if not is_code(db, me, form.code.data or "", now):
                raise ImpossibleInput(Problem("code", "code_wrong"))
            take_off(db, me, now, _here())

    def write() -> bool:
        _tried("code", prove)
        return True

    if form.submitted(write) is None:
        return _page(422, code=form)
    flash("Second factor taken off.")
    return redirect(url_for("accounts.account"))


@blueprint.post("/account/sign-out-everywhere")
@allow(Act.HAVE_ACCOUNT)
def everywhere() -> ResponseReturnValue:
    """Every other browser out."""
    with database().writing() as db:
        count = end_all(db, current_user.id, clock().real(), but=_here())
    flash(f"Signed out in {count} other browser{'' if count == 1 else 's'}.")
    return redirect(url_for("accounts.account"))


@blueprint.route("/new-password/<token>", methods=["GET", "POST"])
@allow_anyone
def new_password(token: str) -> ResponseReturnValue:
    """A password by a one-time link."""
    _row, user = link_of(reader(), token, clock().real())
    form = NewPasswordForm()

    def write() -> bool:
        with database().writing() as db:
            use_link(db, token, form.password.data or "", clock().real(), settings().hash_cost)
        return True

    if form.submitted(write):
        flash("Password saved. Sign in with it.")
        return redirect(url_for("accounts.sign_in"))
    return render_template("accounts/new_password.html", form=form, person=user), 422 if form.errors else 200
