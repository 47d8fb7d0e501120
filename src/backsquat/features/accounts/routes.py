"""Sign in, sign out, and in the demo one click instead of a password."""

from urllib.parse import urlsplit

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_user, logout_user
from sqlalchemy import select

from backsquat.core.errors import NotThere
from backsquat.features.accounts.forms import SignInForm
from backsquat.features.accounts.operations import SignedIn, check
from backsquat.features.desk import ANYONE, STAFF, allow, reader, settings
from backsquat.storage.models import Membership, User

blueprint = Blueprint("accounts", __name__, template_folder="templates")


def _onward() -> str:
    """Where to go after signing in: only a path of this application, never another host."""
    wanted = request.args.get("next", "")
    parts = urlsplit(wanted)
    inside = wanted.startswith("/") and not wanted.startswith(("//", "/\\")) and not parts.netloc
    return wanted if inside else url_for("squad.index")


@blueprint.route("/sign-in", methods=["GET", "POST"])
@allow(ANYONE)
def sign_in() -> ResponseReturnValue:
    if current_user.is_authenticated:
        return redirect(_onward())
    form = SignInForm()
    if form.validate_on_submit():
        person = check(reader(), form.sign_in.data, form.password.data or "", settings().hash_cost)
        if person:
            login_user(person)
            return redirect(_onward())
        form.form_errors.append("Name and password do not belong together. Check both and try again.")
    people = []
    if settings().demo:
        query = (
            select(User, Membership.role).join(Membership, Membership.user_id == User.id).order_by(User.id)
        )
        people = [(user, role) for user, role in reader().execute(query)]
    return render_template(
        "accounts/sign_in.html", form=form, people=people
    ), 422 if form.is_submitted() else 200


@blueprint.post("/demo-sign-in/<int:user_id>")
@allow(ANYONE)
def demo_sign_in(user_id: int) -> ResponseReturnValue:
    user = reader().get(User, user_id) if settings().demo else None
    if user is None:
        raise NotThere("demo")
    login_user(SignedIn(user))
    return redirect(_onward())


@blueprint.post("/sign-out")
@allow(*STAFF)
def sign_out() -> ResponseReturnValue:
    logout_user()
    flash("Signed out.")
    return redirect(url_for("accounts.sign_in"))
