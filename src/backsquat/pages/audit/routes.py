"""The audit log: read in pages, exported as CSV."""

import csv
import io

from flask import Blueprint, Response, render_template, request
from flask.typing import ResponseReturnValue

from backsquat.pages.request import acting, actor, allow, context, database, number, reader
from backsquat.storage.models import AuditLine
from backsquat.ui.phrases.audit import about_words, audit_words, who_words
from backsquat.work.audit import LINES_MOST, first_broken, lines_of, note
from backsquat.work.policy import Act
from backsquat.work.squad.athletes import athlete_names

blueprint = Blueprint("audit", __name__, url_prefix="/audit", template_folder="templates")


@blueprint.get("/")
@allow(Act.AUDIT)
def index() -> ResponseReturnValue:
    """The newest lines, older ones page by page."""
    until = request.args.get("until", type=number)
    lines = lines_of(acting(reader()), until)
    return render_template(
        "audit/audit.html",
        context=context(),
        lines=lines,
        older=lines[-1].id if len(lines) == LINES_MOST else None,
        names=athlete_names(reader(), context().squad.id),
        audit_words=audit_words,
        who_words=who_words,
        about_words=about_words,
        broken=first_broken(reader()) if "check" in request.args else None,
        checked="check" in request.args,
    )


@blueprint.get("/audit.csv")
@allow(Act.AUDIT)
def export() -> ResponseReturnValue:
    """Every line with its digest, so that a copy can be checked against the log later."""
    with database().writing() as db:
        note(db, actor(), "audit_read")
        lines = lines_of(acting(db), most=None)
    names = athlete_names(reader(), context().squad.id)
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(["number", "at", "who", "what", "about", "digest"])
    rows.writerows(_row(line, names) for line in reversed(lines))
    headers = {"Content-Disposition": "attachment; filename=audit.csv"}
    return Response(text.getvalue(), mimetype="text/csv", headers=headers)


def _row(line: AuditLine, names: dict[int, str]) -> list[str]:
    who, what, about = who_words(line.who, names), audit_words(line.what), about_words(line.about, names)
    told = [str(line.id), line.at.isoformat(timespec="seconds"), who, what, about]
    return [*(harmless(text) for text in told), line.digest]


def harmless(text: str) -> str:
    """Text that no spreadsheet takes for a formula."""
    return f"'{text}" if text.startswith(("=", "+", "-", "@", "\t", "\r")) else text
