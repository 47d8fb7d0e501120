"""A squad's own movements: added, copied, changed, retired, restored. Rows are only added.

What gives old logs their meaning (family, load, sides, share of the body, depth) stays as it is once
sets have been logged; a copy can have others.
"""

from typing import Any

from pydantic import ValidationError

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.library import shelf
from backsquat.library.shelf import MovementEntry
from backsquat.storage.models import Change
from backsquat.work.context import MOVEMENT, WorkContext
from backsquat.work.library.own_entries import entry_problems, keep_meaning, new_code, put_entry, retire_entry


def save_movement(context: WorkContext, values: dict[str, Any], code: str | None = None) -> MovementEntry:
    """A new movement of the squad (`code` None), or new words and numbers for one."""
    known = context.library.movements
    if code is None:
        code = new_code(str(values.get("name", "")), known)
    elif code not in known:
        raise NotThere("movement")
    try:
        entry = MovementEntry(code=code, **values)
    except ValidationError as error:
        raise ImpossibleInput(*entry_problems(error)) from None
    same_name = next((m for m in known.values() if m.name == entry.name and m.code != code and not m.retired), None)
    if same_name:
        raise ImpossibleInput(Problem("name", "movement_taken", {"name": entry.name}))
    if code in known:
        keep_meaning(context.db, context.squad_id, code, entry)
    retired = known[code].retired if code in known else False
    put_entry(context, MOVEMENT, code, entry.model_dump(mode="json"), retired)
    return entry


def retire_movement(context: WorkContext, code: str, retired: bool) -> Change:
    """Take a movement out of choice, or back into it. Old logs and plans keep their name."""
    context.library.get(code)
    return retire_entry(context, MOVEMENT, code, retired)


def restore_shipped(context: WorkContext, code: str) -> Change:
    """Put the shipped entry back in place of the squad's own words."""
    if code not in shelf.entries():
        raise Refused("not_shipped")
    keep_meaning(context.db, context.squad_id, code, shelf.entries()[code])
    return put_entry(context, MOVEMENT, code, {}, False)
