"""A block that is there: its name and weeks changed, copied into a new one, dropped."""

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.pages.block.forms import SpanForm
from backsquat.pages.block.head import block_head, blueprint
from backsquat.pages.request import acting, allow, context, database, forget_reader, reader, said_with_undo
from backsquat.ui.phrases.days import daydate_words
from backsquat.work.journal import last_change
from backsquat.work.plan.spans import BlockSpan, change_span, drop_block, weeks_begun
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of


@blueprint.route("/<int:block_id>/weeks", methods=["GET", "POST"])
@allow(Act.PLAN)
def span(block_id: int) -> ResponseReturnValue:
    """Its name, first week and length; sessions keep their days of the week."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    if block.dropped:
        raise NotThere("block")
    was = block.first_week, block.weeks
    form = SpanForm(obj=block)

    def write() -> int:
        with database().writing() as db:
            wanted = BlockSpan(form.name.data, form.purpose.data or "", form.first_week.data, form.weeks.data)
            change = change_span(acting(db), block_id, wanted, here.season)
            return change.id if change else -1

    change_id = form.submitted(write)
    if change_id is None:
        begun = weeks_begun(acting(reader()), block)
        page = render_template("block/span.html", form=form, begun=begun, **block_head(block))
        return page, 422 if form.errors else 200
    forget_reader()
    if change_id < 0:
        return redirect(url_for("block.show", block_id=block_id))
    block = block_of(reader(), here.squad.id, block_id)
    if (block.first_week, block.weeks) == was:
        said_with_undo("Changed.", change_id)
        return redirect(url_for("block.show", block_id=block_id))
    last_on = daydate_words(block.last_on)
    said_with_undo(
        f"{block.name}: {daydate_words(block.first_week)} to {last_on}. This is what it does to the loads.", change_id
    )
    return redirect(url_for("block.difference", block_id=block_id, week=block.first_week.isoformat()))


@blueprint.post("/<int:block_id>/drop")
@allow(Act.PLAN)
def drop_it(block_id: int) -> ResponseReturnValue:
    """Plan it no longer; refused once anybody has trained in it."""
    with database().writing() as db:
        change = drop_block(acting(db), block_id)
        change_id, name = change.id, str(change.facts["name"])
    said_with_undo(f"{name} dropped: it is on no floor and no card.", change_id)
    return redirect(url_for("block.index", week=request.form.get("week") or None))


def dropped_page(block_id: int) -> ResponseReturnValue:
    """A block that was dropped, with the way back."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    last = last_change(reader(), here.squad.id, "spans", block_id)  # what dropped it: nothing else is done to it since
    return render_template("block/dropped.html", block=block, last=last, context=here)
