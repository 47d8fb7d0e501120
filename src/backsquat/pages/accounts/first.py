"""The very first page of an installation: its squad and head coach, new or from an archive, once, by a printed code."""

import hashlib
import hmac
from typing import Any

from flask import flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.formats.archive import PACKED_MOST, unpacked
from backsquat.pages.accounts.forms import ArchiveForm, FirstForm
from backsquat.pages.accounts.routes import blueprint
from backsquat.pages.request import allow_anyone, clock, database, reader, settings, slow, takes, wants_piece
from backsquat.ui.phrases.problems import PROBLEMS
from backsquat.work.hand_out.archive import Told, put_back, told_of
from backsquat.work.squad.first import is_empty, make_first


@blueprint.route("/first", methods=["GET", "POST"])
@allow_anyone
def first() -> ResponseReturnValue:
    """Who uses this from now on."""
    _only_first()
    form = FirstForm(clock().today())
    if request.method == "POST" and form.validate_on_submit():
        if refused := _refused(form):
            return refused

        def write() -> bool:
            with database().writing() as session:
                make_first(session, form.facts(), clock().now(), settings().hash_cost)
            return True

        if form.submitted(write):
            flash("Ready. Sign in, and the squad page says what comes first.")
            return redirect(url_for("accounts.sign_in"))
    return _page(form, 422 if form.errors else 200)


@blueprint.route("/first/archive", methods=["GET", "POST"])
@allow_anyone
@takes(PACKED_MOST)
def first_archive() -> ResponseReturnValue:
    """The squad of an archive, in the stead of a new one: what it holds is told first, then it is opened."""
    _only_first()
    form = ArchiveForm()
    if request.method == "POST" and form.validate_on_submit():
        if refused := _refused(form):
            return refused
        if told := form.submitted(lambda: _told_or_opened(form)):
            return _page(form, 200, told=told)
        if not form.errors:
            flash("The squad is here. Sign in; the others get a link each, under People.")
            return redirect(url_for("accounts.sign_in"))
    return _page(form, 422 if form.errors else 200)


def _told_or_opened(form: ArchiveForm) -> tuple[Told, str] | None:
    """What the file holds and its digest; None once it was opened, which only a file that was told of is."""
    content = request.files["file"].read()
    found, digest = unpacked(content), hashlib.sha256(content).hexdigest()
    if request.form.get("told", "") != digest:
        return told_of(found.tables, found.revision, str(form.sign_in.data)), digest
    about = {"sign_in": str(form.sign_in.data), "password": form.password.data or ""}
    with database().writing() as session:
        put_back(session, found.tables, found.revision, **about, now=clock().now(), cost=settings().hash_cost)
    return None


def _only_first() -> None:
    if not settings().first_code or not is_empty(reader()):
        raise NotThere("first")


def _refused(form: Any) -> ResponseReturnValue | None:
    """Whether the code is not the one that was printed, or was guessed at too often."""
    here: tuple[str, str, str] = (request.remote_addr or "", "the first code", "")
    if not slow().may_try(*here):
        return _page(form, 429, PROBLEMS["sign_in_slow"])
    if not hmac.compare_digest(_plain(form.code.data), _plain(settings().first_code)):
        slow().failed(*here)
        return _page(form, 422, PROBLEMS["first_code"])
    return None


def _page(form: Any, status: int, problem: str = "", told: tuple[Told, str] | None = None) -> ResponseReturnValue:
    if problem:
        form.form_errors.append(problem)
    if not isinstance(form, ArchiveForm):
        return render_template("accounts/first.html", form=form), status
    page = "accounts/_told.html" if wants_piece() else "accounts/first_archive.html"
    return render_template(page, form=form, told=told), status


def _plain(code: Any) -> str:
    return "".join(sign for sign in str(code).upper() if sign.isascii() and sign.isalnum())
