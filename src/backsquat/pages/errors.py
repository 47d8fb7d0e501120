"""The one place where errors become status, words and a page (or a fragment for htmx).

NotAllowed("sign_in") → the sign-in page · NotAllowed → 403 · NotThere → 404
ImpossibleInput → 422 · Refused → 409 · anything else → 500 with a page that says what is safe
"""

from collections.abc import Callable

from flask import Flask, Response, flash, make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException

from backsquat.core.errors import ImpossibleInput, NotAllowed, NotThere, Refused
from backsquat.storage.database import Busy
from backsquat.ui.phrases.problems import problem_words, refusal_words

PAGES = {
    400: ("This did not arrive as it should", "Go back, reload the page and send it again. Nothing was stored."),
    403: ("This is not open to you", "Ask the head coach whether your account should have it."),
    404: ("There is nothing here", "It may have been removed, or the link is incomplete."),
    405: ("This cannot be opened that way", "Use the buttons on the pages."),
    413: ("That is too much in one go", "The form was larger than this application takes. Nothing was stored."),
    429: ("Too many tries", "Wait a minute, then try again."),
    503: ("Not stored, try again", "Somebody else was writing for too long. Nothing was stored; what you typed is still "
          "in the page before this one."),
    507: ("Not stored: the disk is full", "Nothing was stored. Tell the person who looks after this installation."),
    500: ("Something went wrong on our side", "What you saved before is safe. Go back and try again; if it "
          "happens again, tell the person who looks after this installation what you did and when."),
}  # fmt: skip


STEPS = {"no_room": ("room.index", "Describe the room")}  # by refusal, the page on which it is fixed


def page(status: int, title: str = "", advice: str = "", step: tuple[str, str] | None = None) -> Response:
    """A page, or a fragment for htmx, that says what is wrong and what to do; `step`: endpoint and words of its page."""
    known_title, known_advice = PAGES.get(status, PAGES[400])
    title, advice = title or known_title, advice or known_advice
    if request.headers.get("HX-Request"):
        body = render_template("ui/_problem.html", title=title, advice=advice)
        response = make_response(body, status)
        response.headers["HX-Retarget"], response.headers["HX-Reswap"] = "#messages", "innerHTML"
        return response
    return make_response(
        render_template("ui/problem.html", title=title, advice=advice, status=status, step=step), status
    )


def register(app: Flask, signed_out: Callable[[], ResponseReturnValue]) -> None:
    """Turn every class of error into its status and words; `signed_out` answers whoever is not signed in."""

    @app.errorhandler(NotAllowed)
    def not_allowed(error: NotAllowed) -> ResponseReturnValue:
        if error.what == "sign_in":
            return signed_out()
        if error.what == "home":  # who has no squad page has the floor
            return redirect(url_for("floor.index"))
        if error.what == "second_factor":
            flash("Health notes, limits and clearances open with a second factor only. Set it up here.")
            return redirect(url_for("accounts.account"))
        return page(403)

    @app.errorhandler(NotThere)
    def not_there(_error: Exception) -> ResponseReturnValue:
        return page(404)

    @app.errorhandler(ImpossibleInput)
    def impossible(error: ImpossibleInput) -> ResponseReturnValue:
        words = " ".join(problem_words(problem) for problem in error.problems)
        return page(422, "This cannot be right", words)

    @app.errorhandler(Refused)
    def refused(error: Refused) -> ResponseReturnValue:
        return page(409, *refusal_words(error), STEPS.get(error.code))

    @app.errorhandler(Busy)
    def busy(error: Busy) -> ResponseReturnValue:
        app.logger.warning("not stored: %s", error)
        return page(507 if error.full else 503)

    @app.errorhandler(CSRFError)
    def stale_form(_error: CSRFError) -> ResponseReturnValue:
        return page(400, "This form has grown old", "Reload the page and send it again. Nothing was stored.")

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> ResponseReturnValue:
        if error.response is not None or (error.code or 500) < 400:
            return error.get_response()
        return page(error.code or 500)

    @app.errorhandler(Exception)
    def bug(error: Exception) -> ResponseReturnValue:
        app.logger.exception("unexpected error at %s", request.path)
        if app.testing and not app.config.get("SHOW_ERROR_PAGES"):
            raise error
        try:
            return page(500)
        except Exception:  # what is broken stands around every page
            app.logger.exception("the page of the error is broken too")
            title, advice = PAGES[500]
            # Not by render_template: that would ask for what stands around every page again.
            bare = app.jinja_env.get_template("ui/bare.html")
            return make_response(bare.render(title=title, advice=advice), 500)
