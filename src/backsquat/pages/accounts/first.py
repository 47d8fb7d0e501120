"""The very first page of an installation: its squad and head coach, once, by a code printed where it was started."""

import hmac
from typing import Any

from flask import flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.pages.accounts.forms import FirstForm
from backsquat.pages.accounts.routes import blueprint
from backsquat.pages.request import allow_anyone, clock, database, reader, settings, slow
from backsquat.ui.phrases.problems import PROBLEMS
from backsquat.work.squad.first import is_empty, make_first


@blueprint.route("/first", methods=["GET", "POST"])
@allow_anyone
def first() -> ResponseReturnValue:
    """Who uses this from now on."""
    if not settings().first_code or not is_empty(reader()):
        raise NotThere("first")
    form = FirstForm(clock().today())
    if request.method == "POST" and form.validate_on_submit():
        here: tuple[str, str, str] = (request.remote_addr or "", "the first code", "")
        if not slow().may_try(*here):
            return _page(form, 429, PROBLEMS["sign_in_slow"])
        if not hmac.compare_digest(_plain(form.code.data), _plain(settings().first_code)):
            slow().failed(*here)
            return _page(form, 422, PROBLEMS["first_code"])

        def write() -> bool:
            with database().writing() as session:
                make_first(session, form.facts(), clock().now(), settings().hash_cost)
            return True

        if form.submitted(write):
            flash("Ready. Sign in, and the squad page says what comes first.")
            return redirect(url_for("accounts.sign_in"))
    return _page(form, 422 if form.errors else 200)


def _page(form: Any, status: int, problem: str = "") -> ResponseReturnValue:
    if problem:
        form.form_errors.append(problem)
    return render_template("accounts/first.html", form=form), status


def _plain(code: Any) -> str:
    return "".join(sign for sign in str(code).upper() if sign.isascii() and sign.isalnum())
