"""The very first page of an installation: its squad and head coach, new or from an archive, once, by a printed code."""

import hashlib
import hmac
from typing import Any

from flask import flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.formats.archive import PACKED_MOST, unpacked
from backsquat.pages.accounts.forms import ArchiveForm, FirstForm
from backsquat.pages.accounts.person import come_in
from backsquat.pages.accounts.routes import blueprint
from backsquat.pages.request import allow_anyone, clock, database, reader, settings, slow, takes, wants_piece
from backsquat.storage.models import User
from backsquat.ui.drawing.bar import Plate, draw_bar
from backsquat.ui.phrases.problems import PROBLEMS
from backsquat.work.exports.archive import ArchiveContents, contents_of, open_archive
from backsquat.work.squad.first import is_empty, make_first

SHOWN = (Plate("25", 25, 450), Plate("15", 15, 400), Plate("1.25", 1.25, 160))  # a side of what the picture shows


@blueprint.route("/first", methods=["GET", "POST"])
@allow_anyone
def first() -> ResponseReturnValue:
    """Who uses this from now on."""
    _only_first()
    form = FirstForm(clock().today())
    if request.method == "POST" and form.validate_on_submit():
        if refused := _refused(form):
            return refused

        def write() -> User:
            with database().writing() as db:
                return make_first(db, form.facts(), clock().now(), settings().hash_cost)

        if coach := form.submitted(write):
            come_in(coach)
            flash("The squad is made, and you are signed in. This page says what comes first.")
            return redirect(url_for("squad.index"))
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
        found = form.submitted(lambda: _told_or_opened(form))
        if isinstance(found, User):
            come_in(found)
            flash("The squad is here, and you are signed in. The others are invited here.")
            return redirect(url_for("accounts.people"))
        if found:
            return _page(form, 200, told=found)
    return _page(form, 422 if form.errors else 200)


def _told_or_opened(form: ArchiveForm) -> tuple[ArchiveContents, str] | User:
    """What the file holds and its digest; its head coach once it was opened, which only a file that was told of is."""
    content = request.files["file"].read()
    found, digest = unpacked(content), hashlib.sha256(content).hexdigest()
    if request.form.get("told", "") != digest:
        return contents_of(found.tables, found.revision, str(form.sign_in.data)), digest
    about = {"sign_in": str(form.sign_in.data), "password": form.password.data or ""}
    with database().writing() as db:
        return open_archive(db, found.tables, found.revision, **about, now=clock().now(), cost=settings().hash_cost)


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


def _page(
    form: Any, status: int, problem: str = "", told: tuple[ArchiveContents, str] | None = None
) -> ResponseReturnValue:
    if problem:
        form.form_errors.append(problem)
    if not isinstance(form, ArchiveForm):
        return render_template("accounts/first.html", form=form, bar=draw_bar("20 kg", SHOWN, "102.5 kg")), status
    page = "accounts/_told.html" if wants_piece() else "accounts/first_archive.html"
    return render_template(page, form=form, told=told), status


def _plain(code: Any) -> str:
    return "".join(sign for sign in str(code).upper() if sign.isascii() and sign.isalnum())
