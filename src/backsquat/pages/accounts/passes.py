"""An athlete comes in with a link, or with a code for one session."""

import hashlib

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.pages.accounts.forms import PassForm
from backsquat.pages.accounts.person import come_in
from backsquat.pages.accounts.routes import blueprint
from backsquat.pages.request import allow_anyone, clock, reader, slow
from backsquat.storage.models import AthletePass, User
from backsquat.ui.phrases.problems import PROBLEMS
from backsquat.work.squad.passes import pass_by

GUESSED = "a code of an athlete"  # what is slowed down where somebody guesses


def _found(token: str) -> tuple[AthletePass, User] | None:
    try:
        return pass_by(reader(), token, clock().now())
    except NotThere:
        return None


@blueprint.route("/come-in/<token>", methods=["GET", "POST"])
@allow_anyone
def come_in_by_link(token: str) -> ResponseReturnValue:
    """Whose link it is, and in with one tap: opening it alone does nothing, as previews of messages open links too."""
    return _in_or_page(token, PassForm(formdata=None), link=True)


@blueprint.route("/come-in", methods=["GET", "POST"])
@allow_anyone
def come_in_by_code() -> ResponseReturnValue:
    """A code is typed."""
    form = PassForm()
    if request.method == "POST" and form.validate_on_submit():
        return _in_or_page(str(form.code.data), form, link=False)
    return render_template("accounts/come_in.html", form=form, name=""), 422 if form.errors else 200


def _in_or_page(token: str, form: PassForm, *, link: bool) -> ResponseReturnValue:
    """Guesses count for the address they come from and for what is guessed at, never for everybody: a link that is good
    always opens.
    """
    here = request.remote_addr or "", f"{GUESSED} {hashlib.sha256(token.encode()).hexdigest()[:16]}", ""
    found = _found(token) if link else None
    if found is None and not slow().may_try(*here):
        form.form_errors.append(PROBLEMS["sign_in_slow"])
        return render_template("accounts/come_in.html", form=form, name=""), 429
    found = found or _found(token)
    if found is None:
        slow().failed(*here)
        form.form_errors.append(PROBLEMS["pass_over"])
        return render_template("accounts/come_in.html", form=form, name=""), 422
    row, user = found
    if request.method == "GET":
        return render_template("accounts/come_in.html", form=form, name=user.name, token=token)
    come_in(user, pass_id=row.id)
    return redirect(url_for("floor.index", week=None))
