"""What a page speaks of: a squad, its rules and season, today and the chosen week."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import Span
from backsquat.storage.convert import rules_from_rows
from backsquat.storage.models import RuleChange, Season, Squad


@dataclass(frozen=True)
class SquadContext:
    """The squad a page speaks of, its rules and season, today and the chosen week (a Monday)."""

    squad: Squad
    rules: Rules
    season: Span
    season_id: int
    today: dt.date
    week: dt.date


def rules_of(session: Session, squad_id: int) -> Rules:
    """The squad's rules: the defaults with its own values over them."""
    rows = session.scalars(select(RuleChange).where(RuleChange.squad_id == squad_id).order_by(RuleChange.id))
    return rules_from_rows(rows)


def context_of(session: Session, squad: Squad, rules: Rules, today: dt.date, week: dt.date | None) -> SquadContext:
    """The squad in its newest season; the chosen week is kept inside it. NotThere without a season."""
    season = session.scalars(
        select(Season).where(Season.squad_id == squad.id).order_by(Season.first_week.desc())
    ).first()
    if season is None:
        raise NotThere("season")
    span = Span(season.first_week, season.weeks)
    return SquadContext(squad, rules, span, season.id, today, span.clamp(week or today))
