"""What a page answers to nobody: ask in place, keep what was typed, or go to sign in and come back."""

from flask import flash, make_response, redirect, render_template, request, url_for
from flask import session as flask_session
from flask.typing import ResponseReturnValue

from backsquat.pages.accounts.forms import SignInForm

NEVER_AGAIN = ("csrf_token", "as_person", "password", "old", "code")  # what is not put into a page a second time


def signed_out() -> ResponseReturnValue:
    """Nobody is signed in: ask in place, keep what was typed, or go to sign in and come back."""
    if request.headers.get("HX-Request"):
        body = render_template("accounts/_in_place.html", form=SignInForm(formdata=None))
        where = {"HX-Retarget": "#sign-in-here", "HX-Reswap": "innerHTML"}
        return make_response(body, 401, where)
    if request.method == "POST" and request.endpoint != "accounts.sign_out" and flask_session.get("_user_id"):
        typed = [(name, text) for name, text in request.form.items(multi=True) if name not in NEVER_AGAIN]
        page = render_template(
            "accounts/again.html", typed=typed, person=flask_session["_user_id"], to=request.full_path
        )
        return make_response(page, 401)
    flash("Please sign in.")
    back = request.full_path.rstrip("?") if request.method == "GET" else None
    return redirect(url_for("accounts.sign_in", next=back))
