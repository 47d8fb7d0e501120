"""Sign in, a second factor, sign out; in the demo one click instead of a password."""

import secrets
from typing import Any

from flask import Blueprint, Response, flash, make_response, redirect, render_template, request, url_for
from flask import session as flask_session
from flask.typing import ResponseReturnValue
from flask_login import current_user
from flask_wtf.csrf import generate_csrf
from itsdangerous import BadSignature, URLSafeSerializer

from backsquat.core.errors import NotThere
from backsquat.pages.accounts.forms import CodeForm, SignInForm
from backsquat.pages.accounts.person import come_in, go_out
from backsquat.pages.request import allow, allow_anyone, clock, database, inside, reader, settings, slow, wants_piece
from backsquat.storage.models import User
from backsquat.ui.phrases.problems import PROBLEMS
from backsquat.work.accounts.people import account_of, check, everybody, key_of, person_of
from backsquat.work.accounts.second import is_code
from backsquat.work.audit import note_of
from backsquat.work.policy import Act
from backsquat.work.squad.first import is_empty

blueprint = Blueprint("accounts", __name__, template_folder="templates")
KNOWN = "backsquat-known"  # cookie: accounts this browser was signed in to before
KNOWN_DAYS, KNOWN_MOST = 90, 8
HALF_S = 300  # seconds between password and code


def onward() -> str:
    """Where to go after signing in: only a path of this application, never another host."""
    return inside(request.args.get("next", "")) or url_for("squad.index")


@blueprint.route("/sign-in", methods=["GET", "POST"])
@allow_anyone
def sign_in() -> ResponseReturnValue:
    """A whole page, or in place where somebody's sign-in ended while they were at work."""
    if current_user.is_authenticated and not wants_piece():
        return redirect(onward())
    if settings().first_code and is_empty(reader()):
        return redirect(url_for("accounts.first"))
    form, status = SignInForm(), 200
    if form.is_submitted():
        status = 422
        if form.validate_on_submit():
            account = key_of(form.sign_in.data)
            here = request.remote_addr or "", account, _browser(account)
            if not slow().may_try(*here):
                return _page(form, 429, PROBLEMS["sign_in_slow"])
            person = check(reader(), form.sign_in.data, form.password.data or "", settings().hash_cost)
            if person:
                return _first_step(person)
            _failed(account, slow().failed(*here))
            return _page(form, 422, PROBLEMS["sign_in_wrong"])
    return _page(form, status)


def _page(form: Any, status: int, problem: str = "") -> ResponseReturnValue:
    if problem:
        form.form_errors.append(problem)
    people = everybody(reader()) if settings().demo else []
    template = "accounts/_in_place.html" if wants_piece() else "accounts/sign_in.html"
    return render_template(template, form=form, people=people), status


def _failed(account: str, slowed: bool) -> None:
    """A line in the audit log for a failure; the name as it was typed only where there is such an account."""
    with database().writing() as db:
        user = next((user for user, _ in everybody(db) if user.sign_in_key == account), None)
        about = {"account": user.sign_in if user else "unknown"}
        note_of(db, clock().now(), "sign_in_failed", about, squad_id=None, user_id=user.id if user else None)
        if slowed:
            note_of(db, clock().now(), "sign_in_slowed", about, user_id=user.id if user else None)


def _first_step(person: User) -> ResponseReturnValue:
    """The password was right: in, or on to the second factor."""
    if not person.second_factor:
        return _in(person, second=False)
    flask_session["half"] = [person.id, int(clock().real().timestamp())]
    target = url_for("accounts.second", next=request.args.get("next"))
    if wants_piece():
        return render_template("accounts/_in_place_code.html", form=CodeForm(formdata=None))
    return redirect(target)


def _in(person: User, *, second: bool) -> ResponseReturnValue:
    worked_here = flask_session.get("_user_id", str(person.id))
    come_in(person, second=second)
    if wants_piece() and worked_here != str(person.id):  # what stands in the page was typed by somebody else
        answer = make_response("", 204)
        answer.headers["HX-Redirect"] = url_for("squad.index")
        return _known(answer, person)
    if wants_piece():  # the page stays as it is: its forms get the token that is good now
        answer = make_response("", 204)
        answer.headers["HX-Trigger"] = f'{{"signed-in": "{generate_csrf()}"}}'
        return _known(answer, person)
    return _known(make_response(redirect(onward())), person)


@blueprint.route("/sign-in/code", methods=["GET", "POST"])
@allow_anyone
def second() -> ResponseReturnValue:
    """The second step: a one-time code."""
    user_id, at = flask_session.get("half", [0, 0])
    person = person_of(reader(), int(user_id))
    if person is None or clock().real().timestamp() - at > HALF_S:
        return redirect(url_for("accounts.sign_in", next=request.args.get("next")))
    form, status = CodeForm(), 200
    if form.validate_on_submit():
        here = request.remote_addr or "", f"{person.sign_in_key} code", _browser(person.sign_in_key)
        if slow().may_try(*here):
            with database().writing() as db:
                good = is_code(db, account_of(db, person.id), form.code.data, clock().real())
            if good:
                flask_session.pop("half")
                return _in(person, second=True)
            _failed(person.sign_in_key, slow().failed(*here))
            form.form_errors.append(PROBLEMS["code_wrong"])
            status = 422
        else:
            form.form_errors.append(PROBLEMS["sign_in_slow"])
            status = 429
    template = "accounts/_in_place_code.html" if wants_piece() else "accounts/code.html"
    return render_template(template, form=form), status


def _cookies() -> URLSafeSerializer:
    return URLSafeSerializer(settings().secret, "known browsers")


def _accounts_known() -> dict[str, str]:
    """Account → name of this browser, of those it was signed in to."""
    try:
        found = _cookies().loads(request.cookies.get(KNOWN, ""))
    except BadSignature:
        return {}
    return found if isinstance(found, dict) else {}


def _browser(account: str) -> str:
    return str(_accounts_known().get(account, ""))


def _known(answer: Response, person: User) -> Response:
    """Let the browser remember that it was signed in to this account."""
    known = dict(list(_accounts_known().items())[-KNOWN_MOST:])
    known.setdefault(person.sign_in_key, secrets.token_urlsafe(12))
    about: Any = {"httponly": True, "samesite": "Lax", "secure": settings().https, "max_age": KNOWN_DAYS * 86_400}
    answer.set_cookie(KNOWN, _cookies().dumps(known), **about)
    return answer


@blueprint.post("/demo-sign-in/<int:user_id>")
@allow_anyone
def demo_sign_in(user_id: int) -> ResponseReturnValue:
    """One click, in the demo only."""
    user = person_of(reader(), user_id) if settings().demo else None
    if user is None:
        raise NotThere("demo")
    come_in(user)
    return redirect(onward())


@blueprint.post("/sign-out")
@allow(Act.LEAVE)
def sign_out() -> ResponseReturnValue:
    """Out: the browser is told to keep nothing either."""
    go_out()
    flash("Signed out.")
    answer = make_response(redirect(url_for("accounts.sign_in")))
    waits = request.form.get("waiting", "0") != "0"  # sets that are not here yet: only their own page sends them
    answer.headers["Clear-Site-Data"] = '"cache"' if waits else '"cache", "storage"'
    return answer
