"""Block templates a squad can start from: the shipped ones and its own, kept beside its movements."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.library.templates import TemplateEntry, as_plain, shipped
from backsquat.storage.models import Change, LibraryEntry
from backsquat.work.context import WorkContext
from backsquat.work.library.own_entries import new_code, put_entry

TEMPLATE = "template"


def squad_templates(db: Session, squad_id: int) -> dict[str, TemplateEntry]:
    """All templates by code, the squad's own first."""
    rows = db.execute(
        select(LibraryEntry.code, LibraryEntry.entry)
        .where(
            LibraryEntry.squad_id == squad_id,
            LibraryEntry.kind == TEMPLATE,
            LibraryEntry.current,
            ~LibraryEntry.retired,
        )
        .order_by(LibraryEntry.id)
    )
    return {code: TemplateEntry.model_validate(entry) for code, entry in rows if entry} | shipped()


def keep_template(context: WorkContext, entry: TemplateEntry) -> Change:
    """A new template of the squad's own; its code stands in the change."""
    taken = context.db.scalars(
        select(LibraryEntry.code).where(LibraryEntry.squad_id == context.squad_id, LibraryEntry.kind == TEMPLATE)
    )
    code = new_code(entry.name, {*taken, *shipped()})
    change = put_entry(context, TEMPLATE, code, as_plain(entry), False)
    change.before = change.before | {"code": code}
    return change
