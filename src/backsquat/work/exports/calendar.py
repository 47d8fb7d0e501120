"""The squad's calendar: published sessions and matches, and the secret addresses it is read from."""

import datetime as dt
import secrets
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere
from backsquat.storage.models import CalendarAddress, Match, Season, Squad
from backsquat.work.accounts.sign_ins import digest
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, require
from backsquat.work.sessions.blocks import floor_day, left_out, published_blocks, squad_blocks


@dataclass(frozen=True)
class CalendarDay:
    """Something on a day. `movements`: codes in the order of the session; none for a match."""

    key: str  # the same as long as it is the same thing, whatever its day
    day: dt.date
    block: str = ""  # of a match: whom it is against
    session: str = ""  # of a match: in which competition
    minutes: int = 0
    movements: tuple[str, ...] = ()
    important: bool = False  # of a match


def calendar_days(db: Session, squad_id: int) -> list[CalendarDay]:
    """Every match of the squad's seasons, and every session that has been published, on the day the floor has it."""
    season_ids = select(Season.id).where(Season.squad_id == squad_id)
    matches = db.scalars(select(Match).where(Match.season_id.in_(season_ids), ~Match.dropped))
    found = [
        CalendarDay(f"match-{match.id}", match.played_on, match.opponent, match.competition, important=match.important)
        for match in matches
    ]
    blocks = squad_blocks(db, squad_id)
    live = published_blocks(db, [block.id for block in blocks])
    for block in blocks:
        if block.id not in live:
            continue
        held: dict[tuple[int, int], list[str]] = {}
        days: dict[tuple[int, int], dt.date] = {}
        sessions = {exercise.session.id: exercise.session for exercise in block.exercises}
        for week in range(block.weeks):
            for exercise in (exercise for exercise in block.exercises if not left_out(exercise, week)):
                place = (exercise.session_in(week).id, week)
                sessions.setdefault(place[0], exercise.session_in(week))
                held.setdefault(place, []).append(exercise.ladder or exercise.movement)
                days[place] = floor_day(exercise, week)
        found += [
            CalendarDay(
                f"session-{session_id}-{week}",
                days[session_id, week],
                block.name,
                sessions[session_id].name,
                sessions[session_id].minutes,
                tuple(movements),
            )
            for (session_id, week), movements in held.items()
        ]
    return sorted(found, key=lambda one: (one.day, one.key))


def give_address(context: WorkContext) -> str:
    """The token of a new address, said once; earlier ones go on until they are taken back."""
    require(context.actor, Act.KEEP_PEOPLE)
    token = secrets.token_urlsafe(32)
    row = CalendarAddress(squad_id=context.squad_id, token=digest(token), by_id=context.actor.user_id, at=context.now)
    context.db.add(row)
    context.db.flush()
    note(context.db, context.actor, "calendar_given", number=row.id)
    return token


def addresses_of(context: WorkContext) -> list[CalendarAddress]:
    """The addresses that are read from, oldest first."""
    require(context.actor, Act.KEEP_PEOPLE)
    mine = CalendarAddress.squad_id == context.squad_id
    rows = select(CalendarAddress).where(mine, CalendarAddress.ended_at.is_(None)).order_by(CalendarAddress.id)
    return list(context.db.scalars(rows))


def end_address(context: WorkContext, address_id: int) -> None:
    """Nothing is read from it any more."""
    row = next((one for one in addresses_of(context) if one.id == address_id), None)
    if row is None:
        raise NotThere("address")
    row.ended_at = context.now
    note(context.db, context.actor, "calendar_ended", number=row.id)


def squad_by_address(db: Session, token: str) -> Squad:
    """Whose calendar an address opens; NotThere where it opens none."""
    row = db.scalars(select(CalendarAddress).where(CalendarAddress.token == digest(token))).first()
    if row is None or row.ended_at is not None:
        raise NotThere("address")
    return db.get_one(Squad, row.squad_id)
