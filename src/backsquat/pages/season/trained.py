"""Who trained: expected against done, for every athlete and week at a glance."""

from flask import render_template
from flask.typing import ResponseReturnValue

from backsquat.pages.request import allow, context, reader
from backsquat.pages.season.phrases import CAME
from backsquat.pages.season.routes import blueprint
from backsquat.work.overview.attendance import attendance
from backsquat.work.policy import Act
from backsquat.work.season.marks import marked_days, marks_of


@blueprint.get("/season/trained")
@allow(Act.READ_PLAN)
def trained() -> ResponseReturnValue:
    """A row an athlete, a column a week, a mark a session."""
    here = context()
    rows = attendance(reader(), here)
    marks = marks_of(reader(), here.season_id)
    weeks = [week for week in here.season if week <= here.today]
    return render_template(
        "season/trained.html",
        context=here,
        rows=rows,
        weeks=weeks,
        off={week for week in weeks if len(marked_days(marks, week).off) >= 5},
        came=CAME,
        expected=sum(row.expected for row in rows),
        done=sum(row.done for row in rows),
    )
