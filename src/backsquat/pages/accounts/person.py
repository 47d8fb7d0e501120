"""The signed-in person as the browser's session keeps it: a token, good while the row behind it holds."""

from flask import session as flask_session
from flask_login import UserMixin, login_user, logout_user

from backsquat.pages.request import clock, database, forget_reader, reader, request_browser, signed_in
from backsquat.storage.models import User
from backsquat.work.accounts.people import person_of
from backsquat.work.accounts.sign_ins import begin, end

CSRF = "csrf_token"


class SignedIn(UserMixin):  # type: ignore[misc]
    """The signed-in person as the session keeps it."""

    def __init__(self, user: User) -> None:
        self.id = user.id
        self.name = user.name


def load_user(text: str) -> SignedIn | None:
    """The person of the browser's token; None where the sign-in has ended or the account is closed."""
    row = signed_in()
    if row is None or str(row.user_id) != text:
        return None
    user = person_of(reader(), row.user_id)
    return SignedIn(user) if user else None


def come_in(user: User, *, second: bool = False, pass_id: int | None = None) -> None:
    """Sign the person in with this browser: another token; what was open in it before stays good for them only."""
    token_of_forms = flask_session.get(CSRF) if flask_session.get("_user_id") in (None, str(user.id)) else None
    with database().writing() as db:
        token = begin(db, user.id, clock().real(), request_browser(), second=second, pass_id=pass_id)
    flask_session.clear()
    flask_session["sign_in"] = token
    if token_of_forms:
        flask_session[CSRF] = token_of_forms
    forget_reader()
    login_user(SignedIn(user))


def go_out() -> None:
    """Sign this browser out: nothing of the session is left."""
    row = signed_in()
    if row:
        with database().writing() as db:
            end(db, row.id, clock().real())
    logout_user()
    flask_session.clear()
