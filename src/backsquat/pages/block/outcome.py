"""What came of a block: pictures first, the tables behind them; one page to print, without names if wanted."""

from collections.abc import Callable

from flask import render_template, request
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from backsquat.formats.pdf import Paper
from backsquat.pages.block.head import blueprint
from backsquat.pages.papers import sent_pdf
from backsquat.pages.request import allow, clock, context, reader, squad_library
from backsquat.storage.models import Athlete
from backsquat.ui.drawing.outcome import HALF, WIDTH, Arrow, SetsBar, draw_arrows, draw_sets
from backsquat.ui.phrases.decisions import DECIDED
from backsquat.work.overview.outcome import LiftOutcome, MeasuredOutcome, outcome
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of


@blueprint.get("/<int:block_id>/outcome")
@allow(Act.PLAN)
def looked_back(block_id: int) -> ResponseReturnValue:
    """`names=no`: numbers in the stead of names; `pdf`: as PDF, on one page unless `tables=yes`."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    found = outcome(reader(), here, block)
    nameless = request.args.get("names") == "no"
    order = {row.athlete.id: f"Athlete {n}" for n, row in enumerate(found.trained, 1)}

    def name(athlete: Athlete) -> str:
        return order[athlete.id] if nameless else athlete.name

    as_file = request.args.get("pdf") == "a4"
    whole = not as_file or request.args.get("tables") == "yes"
    page = render_template(
        "block/outcome.html",
        context=here,
        block=block,
        found=found,
        name=name,
        nameless=nameless,
        lifts=[(lift, squad_library().get(lift.movement).name, _arrows(lift, name, whole)) for lift in found.lifts],
        muscles=draw_sets(
            [SetsBar(muscle, *numbers) for muscle, numbers in found.muscles.items()], WIDTH if whole else HALF
        ),
        tests=[(one, _test_arrows(one, name, whole)) for one in found.tests],
        trained=sorted(found.trained, key=lambda row: (row.done - row.expected, row.athlete.name)),
        movement_name=lambda code: squad_library().get(code).name,
        as_file=as_file,
        decided_words=DECIDED,
        whole=whole,
        shown=None if whole else FEW,
        made_at=clock().now().isoformat(timespec="minutes"),
    )
    return sent_pdf(page, Paper.A4, f"block-{block.first_week}") if as_file else page


ROWS, FEW = 20, 5  # of a picture, of a table, where all of it is to stand on one page


def _drawn(name: str, rows: list[Arrow], whole: bool) -> Markup:
    """All rows, or for one page those at both ends: who rose most, and who least."""
    if not whole and len(rows) > ROWS:
        rows = [*rows[: ROWS // 2], *rows[-ROWS // 2 :]]
    return draw_arrows(name, rows, WIDTH if whole else HALF)


def _test_arrows(one: MeasuredOutcome, name: Callable[[Athlete], str], whole: bool) -> Markup:
    course = {1: "rose", 0: "stayed", -1: "fell"}
    order = sorted(one.values, key=lambda row: -(row[2] - row[1]) * (-1 if one.screen.less_is_better else 1))
    rows = [
        Arrow(name(athlete), was, now, now / was - 1 if was else 0.0, course[one.beyond(was, now)])
        for athlete, was, now in order
    ]
    return _drawn(one.screen.name, rows, whole)


def _arrows(lift: LiftOutcome, name: Callable[[Athlete], str], whole: bool) -> Markup:
    rows = [
        Arrow(name(athlete), one.before_kg, one.after_kg, one.share, str(one.course)) for athlete, one in lift.changes
    ]
    return _drawn(lift.movement, rows, whole)
