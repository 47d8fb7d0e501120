"""What every request stands on: who is here, for which squad, on which day, in which week.

`allow` names the roles a route is for; a route without it is refused to everybody, so none is open by mistake.
"""

import datetime as dt
from collections.abc import Callable
from typing import Any, TypeVar, cast

from flask import current_app, flash, g, request
from flask import session as flask_session
from flask_login import current_user
from sqlalchemy.orm import Session
from werkzeug.exceptions import RequestEntityTooLarge
from werkzeug.routing import IntegerConverter, ValidationError

from backsquat.clock import Clock
from backsquat.config import Config
from backsquat.core.errors import NotAllowed, NotThere, Refused
from backsquat.core.movements.library import Library
from backsquat.core.numbers import plain_day
from backsquat.core.roles import Role
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import monday_of
from backsquat.storage.database import NUMBER_MOST, Busy, Database
from backsquat.storage.models import AthletePass, Change, Membership, SetEntry, SignIn
from backsquat.work.accounts.people import membership_of
from backsquat.work.accounts.sign_ins import TOUCHED_EVERY, Lasting, found, show_squad, touch
from backsquat.work.accounts.slow import Slow
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext, library_of, rules_of
from backsquat.work.floor.sessions import FloorSession
from backsquat.work.policy import MAY, Act, may
from backsquat.work.squad.context import SquadContext, context_of
from backsquat.work.squad.passes import pass_holds, pass_of

F = TypeVar("F", bound=Callable[..., object])
ANYONE = "anyone"  # also without an account: sign-in, static files, health


def allow(act: Act) -> Callable[[F], F]:
    """Mark a route as one for those whose role may do this."""
    mark = _for(frozenset(MAY[act]))

    def marked(view: F) -> F:
        view.act = act  # type: ignore[attr-defined]
        return mark(view)

    return marked


def allow_anyone(view: F) -> F:
    """Mark a route as open, also without an account."""
    return _for(frozenset({ANYONE}))(view)


def _for(roles: frozenset[str]) -> Callable[[F], F]:
    def mark(view: F) -> F:
        view.roles = roles  # type: ignore[attr-defined]
        return view

    return mark


def takes(most_bytes: int) -> Callable[[F], F]:
    """Mark a route that takes more than a form: a file, or a long list."""

    def marked(view: F) -> F:
        view.most_bytes = most_bytes  # type: ignore[attr-defined]
        return view

    return marked


def widen() -> None:
    """Before anything of a request is read: how much of it may be."""
    most: int | None = getattr(current_app.view_functions.get(request.endpoint or ""), "most_bytes", None)
    if most:
        request.max_content_length = request.max_form_memory_size = most


def quiet(view: F) -> F:
    """Mark a route that is asked again and again by itself: it does not keep a sign-in alive."""
    view.quiet = True  # type: ignore[attr-defined]
    return view


class RowNumber(IntegerConverter):
    """Whole numbers in addresses; longer than any row's there is nothing behind them."""

    def to_python(self, value: str) -> int:
        if len(value) > len(str(NUMBER_MOST)) or int(value) > NUMBER_MOST:
            raise ValidationError
        return int(value)


ADDRESS_MOST = 2_000


def number(text: str) -> int:
    """A whole number of a form or address, for `type=`; NotThere where it is longer than any row's."""
    if text.lstrip("+-").isdecimal() and len(text.lstrip("+-")) >= len(str(NUMBER_MOST)):
        raise NotThere("number")
    return int(text)


def database() -> Database:
    """The application's database."""
    return cast(Database, current_app.extensions["database"])


def settings() -> Config:
    """What the application was started with."""
    return cast(Config, current_app.extensions["settings"])


def clock() -> Clock:
    """The application's clock."""
    return cast(Clock, current_app.extensions["clock"])


def reader() -> Session:
    """This request's session for reading."""
    if "reader" not in g:
        g.reader = database().reader()
    return cast(Session, g.reader)


def forget_reader() -> None:
    """Let the next read of this request see what was just written."""
    db = g.pop("reader", None)
    if db is not None:
        db.close()


def membership() -> Membership:
    """The signed-in person's membership; NotAllowed for someone who belongs to no squad."""
    if "membership" not in g:
        row = signed_in()
        g.membership = membership_of(reader(), current_user.id, row.squad_id if row else None)
    if g.membership is None:
        raise NotAllowed("no_squad")
    return cast(Membership, g.membership)


def slow() -> Slow:
    """What slows down who guesses passwords."""
    return cast(Slow, current_app.extensions["slow"])


def request_browser() -> str:
    """The browser in a few words, as it says itself; for the list of where somebody is signed in."""
    said = request.user_agent.string
    kind = next((name for name in ("Edg", "Firefox", "Chrome", "Safari") if name in said), "a browser")
    place = next((name for name in ("iPhone", "iPad", "Android", "Windows", "Mac OS", "Linux") if name in said), "")
    return f"{kind.replace('Edg', 'Edge')}, {place}" if place else kind


def lasting() -> Lasting:
    """How long a sign-in lasts here."""
    return Lasting(dt.timedelta(hours=settings().idle_hours), dt.timedelta(hours=settings().whole_hours))


def signed_in() -> SignIn | None:
    """The sign-in this browser came with, while it holds."""
    if "sign_in" not in g:
        token = flask_session.get("sign_in", "")
        row = found(reader(), token, clock().real(), lasting()) if token else None
        g.sign_in = row if row and _pass_holds(row) else None
    return cast("SignIn | None", g.sign_in)


def _pass_holds(row: SignIn) -> bool:
    """A sign-in by link or code ends with it."""
    if row.pass_id is None:
        return True
    held = pass_of(reader(), row.pass_id)
    return held is not None and pass_holds(reader(), held, clock().now())


def guard() -> None:
    """Before every request: the route must name its roles, and the person must have one of them."""
    view = current_app.view_functions.get(request.endpoint or "")
    roles: frozenset[str] = getattr(view, "roles", frozenset())
    if view is None or ANYONE in roles:
        return
    if not current_user.is_authenticated:
        raise NotAllowed("sign_in")
    if request.method == "POST" and request.form.get("as_person", "") not in ("", str(current_user.id)):
        raise Refused("somebody_else")  # typed by who was signed in before, and kept in the page
    _still_in_squad()
    if membership().role not in roles:
        raise NotAllowed("home" if request.endpoint == "squad.index" else "role")
    if getattr(view, "act", None) in ABOUT_HEALTH and not second_factor_given():
        raise NotAllowed("second_factor")
    if not getattr(view, "quiet", False):
        _seen()


def _still_in_squad() -> None:
    """Somebody taken out of the squad this browser showed is told so; what was typed for it lands in no other one."""
    row = signed_in()
    if row is None or row.squad_id in (None, membership().squad_id):
        return
    shown = membership().squad
    with database().writing() as db:
        show_squad(db, row.id, shown.id)
    flask_session.pop("csrf_token", None)  # of pages still open
    forget_reader()
    if request.method == "POST":
        raise Refused("squad_left")
    flash(f"You are not in the squad you had open any more. This is {shown.club}, {shown.name}.")


ABOUT_HEALTH = (Act.TREAT, Act.CHOOSE_VARIANT, Act.EXPORT, Act.LOOK)


def second_factor_given() -> bool:
    """Whether the sign-in had a second factor, where whoever sees health notes must have one."""
    row = signed_in()
    return not settings().second_factor or bool(row and row.second)


def trusted_with_health() -> bool:
    """Whether the signed-in person sees why, and not only what not to do."""
    return may(membership().role, Act.TREAT) and second_factor_given()


def may_open(entry: SetEntry) -> bool:
    """Whether a logged set may be opened to be corrected: one with pain only by who reads of health, or said it."""
    mine = entry.by_id == actor().user_id or own_athlete() == entry.athlete_id
    return not entry.pain or trusted_with_health() or mine


def _seen() -> None:
    """Note now and then that somebody is still here."""
    row, now = signed_in(), clock().real()
    if row is None or now - row.seen_at < TOUCHED_EVERY:
        return
    try:
        with database().writing() as db:
            touch(db, row.id, now)
    except Busy:  # the next request says it again
        return


def actor() -> Actor:
    """Who acts now, for operations."""
    mine, held = membership(), came_with()
    only = (held.session_id, held.week) if held and held.session_id else None
    return Actor(current_user.id, mine.squad_id, clock().now(), mine.role, mine.athlete_id, only)


def acting(db: Session) -> WorkContext:
    """What an operation works with: a session of the database, and who acts now."""
    return WorkContext(db, actor())


def own_athlete() -> int | None:
    """The athlete who is signed in, and sees nobody else; None for staff."""
    mine = membership()
    return (mine.athlete_id or 0) if mine.role is Role.ATHLETE else None


def own_sessions(sessions: list[FloorSession]) -> list[FloorSession]:
    """Of these sessions those that may be seen: all; by an athlete their own, or the one a code is for."""
    only, mine = actor().only_session, own_athlete()
    return [
        one
        for one in sessions
        if (only is None or (one.session_id, one.week) == only) and (mine is None or one.holds(mine))
    ]


def came_with() -> AthletePass | None:
    """The link or code an athlete came in with."""
    row = signed_in()
    return pass_of(reader(), row.pass_id) if row else None


def squad_rules() -> Rules:
    """The squad's rules, for requests that need nothing else of the context."""
    if "rules" not in g:
        g.rules = rules_of(reader(), membership().squad_id)
    return cast(Rules, g.rules)


def squad_library() -> Library:
    """The movements and ladders of the signed-in person's squad."""
    return library_of(reader(), membership().squad_id)


def asked(name: str) -> str:
    """A value of the address, or of the form; of the address only where the form was too large to read."""
    try:
        return request.values.get(name, "")
    except RequestEntityTooLarge:
        return request.args.get(name, "")


def chosen_week() -> dt.date | None:
    """The week the rail asked for (`?week=2026-11-23`), any day of it; nonsense counts as not asked."""
    text = asked("week")
    try:
        return monday_of(plain_day(text)) if text else None
    except (ValueError, OverflowError):
        return None


def context() -> SquadContext:
    """The squad, its rules and season, today and the chosen week."""
    if "context" not in g:
        found = context_of(reader(), membership().squad, squad_rules(), clock().today(), chosen_week())
        g.context = found
    return cast(SquadContext, g.context)


def inside(wanted: str, *under: str) -> str:
    """An address to go on to, if it is a path of this application (under one of these); else empty."""
    plain = wanted.startswith("/") and not wanted.startswith(("//", "/\\")) and wanted.isprintable()
    kept = not under or wanted.startswith(under)
    return wanted if plain and kept and len(wanted) < ADDRESS_MOST else ""


def wants_piece(target: str = "") -> bool:
    """Whether htmx asks for a piece of the page (of this id); going back in history asks for the whole."""
    asked = request.headers.get("HX-Request") and not request.headers.get("HX-History-Restore-Request")
    return bool(asked) and target in ("", request.headers.get("HX-Target"))


def said_with_undo(words: str, change: Change | int | None) -> None:
    """Say on the next page what was done, with the way back where there is one."""
    change_id = change.id if isinstance(change, Change) else change
    if change_id is None:
        flash(words)
    else:
        undoable: Any = {"words": words, "change_id": change_id}
        flash(undoable, "undo")
