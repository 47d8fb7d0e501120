"""What every request stands on: who is here, for which squad, on which day, in which week.

`Actor` is what operations get: the person and the moment, never the request. `allow` names the
roles a route is for; a route without it is refused to everybody, so none is open by mistake.
"""

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar, cast

from flask import current_app, g, request
from flask_login import current_user
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from backsquat.clock import Clock
from backsquat.config import Config
from backsquat.core.errors import NotAllowed, NotThere
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import Span, monday_of
from backsquat.features.movements.queries import Library, library_of
from backsquat.storage.convert import rules_from_rows
from backsquat.storage.database import Database
from backsquat.storage.models import Membership, RuleChange, Season, Squad

F = TypeVar("F", bound=Callable[..., object])
COACH = "coach"
ASSISTANT = "assistant"  # runs the floor and the screens
PHYSIO = "physio"  # health notes, stops, limits, clearances
STAFF = (COACH, ASSISTANT, PHYSIO)
ANYONE = "anyone"  # also without an account: sign-in, static files, health


@dataclass(frozen=True)
class Actor:
    """The person behind a write, the squad it is for, and when."""

    user_id: int
    squad_id: int
    now: dt.datetime

    @property
    def today(self) -> dt.date:
        return self.now.date()


@dataclass(frozen=True)
class Desk:
    """The squad a page speaks of, its rules and season, today and the chosen week (a Monday)."""

    squad: Squad
    rules: Rules
    season: Span
    season_id: int
    today: dt.date
    week: dt.date


def allow(*roles: str) -> Callable[[F], F]:
    def mark(view: F) -> F:
        view.roles = frozenset(roles)  # type: ignore[attr-defined]
        return view

    return mark


def database() -> Database:
    return cast(Database, current_app.extensions["database"])


def settings() -> Config:
    return cast(Config, current_app.extensions["settings"])


def clock() -> Clock:
    return cast(Clock, current_app.extensions["clock"])


def reader() -> Session:
    """This request's session for reading."""
    if "reader" not in g:
        g.reader = database().reader()
    return cast(Session, g.reader)


def forget_reader() -> None:
    """Let the next read of this request see what was just written."""
    session = g.pop("reader", None)
    if session is not None:
        session.close()


def membership() -> Membership:
    """The signed-in person's membership; NotAllowed for someone who belongs to no squad."""
    if "membership" not in g:
        found = reader().scalars(
            select(Membership)
            .where(Membership.user_id == current_user.id)
            .order_by(Membership.id)
            .options(joinedload(Membership.squad))
        )
        g.membership = found.first()
    if g.membership is None:
        raise NotAllowed("no_squad")
    return cast(Membership, g.membership)


def guard() -> None:
    """Before every request: the route must name its roles, and the person must have one of them."""
    view = current_app.view_functions.get(request.endpoint or "")
    roles: frozenset[str] = getattr(view, "roles", frozenset())
    if view is None or ANYONE in roles:
        return
    if not current_user.is_authenticated:
        raise NotAllowed("sign_in")
    if membership().role not in roles:
        raise NotAllowed("role")


def actor() -> Actor:
    return Actor(current_user.id, membership().squad_id, clock().now())


def rules_of(session: Session, squad_id: int) -> Rules:
    rows = session.scalars(select(RuleChange).where(RuleChange.squad_id == squad_id).order_by(RuleChange.id))
    return rules_from_rows(rows)


def squad_rules() -> Rules:
    """The squad's rules, for requests that need nothing else of the desk."""
    if "rules" not in g:
        g.rules = rules_of(reader(), membership().squad_id)
    return cast(Rules, g.rules)


def squad_library() -> Library:
    """The movements and ladders of the signed-in person's squad."""
    return library_of(reader(), membership().squad_id)


def chosen_week() -> dt.date | None:
    """The week the rail asked for (`?week=2026-11-23`), any day of it; nonsense counts as not asked."""
    text = request.values.get("week", "")
    try:
        return monday_of(dt.date.fromisoformat(text)) if text else None
    except (ValueError, OverflowError):
        return None


def desk() -> Desk:
    if "desk" not in g:
        squad = membership().squad
        today = clock().today()
        season = reader().scalars(
            select(Season).where(Season.squad_id == squad.id).order_by(Season.first_week.desc())
        ).first()  # fmt: skip
        if season is None:
            raise NotThere("season")
        span = Span(season.first_week, season.weeks)
        week = span.clamp(chosen_week() or today)
        g.desk = Desk(squad, squad_rules(), span, season.id, today, week)
    return cast(Desk, g.desk)
