"""A squad's own screens: added, changed, retired, restored."""

from typing import Any

from pydantic import ValidationError

from backsquat.core.errors import ImpossibleInput, NotThere, Refused
from backsquat.core.readiness.screens import Screen
from backsquat.library import battery
from backsquat.library.battery import ScreenEntry
from backsquat.storage.models import Change
from backsquat.work.context import WorkContext
from backsquat.work.library.own_entries import entry_problems, new_code, put_entry, retire_entry
from backsquat.work.library.screens import SCREEN, screens_of


def save_screen(context: WorkContext, entry: dict[str, Any], code: str | None = None) -> Screen:
    """A screen of the squad's own, or a change of one; `code` None makes a new one."""
    known = screens_of(context.db, context.squad_id)
    if code is None:
        code = new_code(str(entry.get("name", "")), known)
    elif code not in known:
        raise NotThere("screen")
    try:
        made = ScreenEntry(code=code, **entry)
    except ValidationError as error:
        raise ImpossibleInput(*entry_problems(error)) from None
    put_entry(context, SCREEN, code, made.model_dump(mode="json"), False)
    return made.screen(own=True)


def retire_screen(context: WorkContext, code: str, retired: bool) -> Change:
    """Leave a screen out of the battery, or take it in again; what was recorded stays."""
    if code not in screens_of(context.db, context.squad_id):
        raise NotThere("screen")
    return retire_entry(context, SCREEN, code, retired)


def restore_shipped(context: WorkContext, code: str) -> Change:
    if code not in battery.entries():
        raise Refused("not_shipped")
    return put_entry(context, SCREEN, code, {}, False)
