"""Recording screens. A value is only ever added; another of the same day takes its place."""

import datetime as dt
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.readiness.screens import MOST, Screen
from backsquat.features.athletes.queries import athlete_of
from backsquat.features.desk import Actor
from backsquat.features.entries import entry_problems, new_code, put_entry, retire_entry
from backsquat.features.screening.queries import SCREEN, screens_of
from backsquat.library import battery
from backsquat.library.battery import ScreenEntry
from backsquat.storage.models import Change, ScreenResult

NOTE_MOST = 200


@dataclass(frozen=True)
class Value:
    """One value as it was typed: None takes the day's value back."""

    screen: str
    side: str
    value: float | None
    note: str = ""


def record_result(
    session: Session, actor: Actor, athlete_id: int, value: Value, done_on: dt.date
) -> ScreenResult | None:
    """Keep one value of a screen on a day. Nothing is written where it stands already."""
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    screen = screens_of(session, actor.squad_id).get(value.screen)
    if screen is None or value.side not in screen.sides:
        raise NotThere("screen")
    if done_on > actor.today:
        raise ImpossibleInput(Problem("done_on", "in_future", {"today": actor.today.isoformat()}))
    if done_on < athlete.born_on:
        raise ImpossibleInput(Problem("done_on", "before_birth"))
    if value.value is not None and not screen.possible(value.value):
        raise ImpossibleInput(
            Problem(value.screen, "screen_range", {"most": MOST[screen.kind], "unit": screen.unit})
        )
    standing = session.scalars(
        select(ScreenResult).where(
            ScreenResult.athlete_id == athlete_id, ScreenResult.screen == value.screen,
            ScreenResult.side == value.side, ScreenResult.done_on == done_on, ~ScreenResult.replaced,
        )
    ).first()  # fmt: skip
    note = value.note.strip()[:NOTE_MOST]
    if standing is None and value.value is None:
        return None
    if standing and (standing.value, standing.note) == (value.value, note):
        return standing
    if standing:
        standing.replaced = True
        session.flush()
    row = ScreenResult(
        athlete_id=athlete_id, screen=value.screen, side=value.side, value=value.value, note=note, done_on=done_on,
        by_id=actor.user_id, at=actor.now,
    )  # fmt: skip
    session.add(row)
    session.flush()
    return row


def save_screen(session: Session, actor: Actor, entry: dict[str, Any], code: str | None = None) -> Screen:
    """A screen of the squad's own, or a change of one; `code` None makes a new one."""
    known = screens_of(session, actor.squad_id)
    if code is None:
        code = new_code(str(entry.get("name", "")), known)
    elif code not in known:
        raise NotThere("screen")
    try:
        made = ScreenEntry(code=code, **entry)
    except ValidationError as error:
        raise ImpossibleInput(*entry_problems(error)) from None
    put_entry(session, actor, SCREEN, code, made.model_dump(mode="json"), False)
    return made.screen(own=True)


def retire_screen(session: Session, actor: Actor, code: str, retired: bool) -> Change:
    """Leave a screen out of the battery, or take it in again; what was recorded stays."""
    if code not in screens_of(session, actor.squad_id):
        raise NotThere("screen")
    return retire_entry(session, actor, SCREEN, code, retired)


def restore_shipped(session: Session, actor: Actor, code: str) -> Change:
    if code not in battery.entries():
        raise Refused("not_shipped")
    return put_entry(session, actor, SCREEN, code, {}, False)
