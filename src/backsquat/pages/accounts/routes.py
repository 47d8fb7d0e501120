"""Sign in, sign out, and in the demo one click instead of a password."""

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_user, logout_user

from backsquat.core.errors import NotThere
from backsquat.pages.accounts.forms import SignInForm
from backsquat.pages.accounts.person import SignedIn
from backsquat.pages.request import allow, allow_anyone, inside, reader, settings
from backsquat.work.accounts.people import check, everybody, person_of
from backsquat.work.policy import Act

blueprint = Blueprint("accounts", __name__, template_folder="templates")


def _onward() -> str:
    """Where to go after signing in: only a path of this application, never another host."""
    return inside(request.args.get("next", "")) or url_for("squad.index")


@blueprint.route("/sign-in", methods=["GET", "POST"])
@allow_anyone
def sign_in() -> ResponseReturnValue:
    if current_user.is_authenticated:
        return redirect(_onward())
    form = SignInForm()
    if form.validate_on_submit():
        person = check(reader(), form.sign_in.data, form.password.data or "", settings().hash_cost)
        if person:
            login_user(SignedIn(person))
            return redirect(_onward())
        form.form_errors.append("Name and password do not belong together. Check both and try again.")
    people = everybody(reader()) if settings().demo else []
    return render_template("accounts/sign_in.html", form=form, people=people), 422 if form.is_submitted() else 200


@blueprint.post("/demo-sign-in/<int:user_id>")
@allow_anyone
def demo_sign_in(user_id: int) -> ResponseReturnValue:
    user = person_of(reader(), user_id) if settings().demo else None
    if user is None:
        raise NotThere("demo")
    login_user(SignedIn(user))
    return redirect(_onward())


@blueprint.post("/sign-out")
@allow(Act.SEE)
def sign_out() -> ResponseReturnValue:
    logout_user()
    flash("Signed out.")
    return redirect(url_for("accounts.sign_in"))
