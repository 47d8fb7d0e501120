"""The week check, red flags and deload weeks."""

from collections.abc import Sequence
from typing import Any

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import Refused
from backsquat.core.findings import Finding
from backsquat.pages.block.head import block_head, blueprint
from backsquat.pages.block.phrases import FINDING_WORDS, FLAG_WORDS, proposed_words
from backsquat.pages.request import (
    acting,
    allow,
    context,
    database,
    number,
    reader,
    said_with_undo,
    squad_library,
    wants_piece,
)
from backsquat.storage.models import Athlete, Block
from backsquat.ui.phrases.days import WEEKDAYS
from backsquat.work.health.check_ins import Flagged, flagged
from backsquat.work.plan.days import week_around
from backsquat.work.plan.ease import ease_week, easings
from backsquat.work.plan.fixes import fix, proposed
from backsquat.work.plan.week_check import audit_block_week, gathered
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of, lifts_of, week_of
from backsquat.work.squad.athletes import athlete_of, squad_athletes


@blueprint.get("/<int:block_id>/check")
@allow(Act.PLAN)
def audit(block_id: int) -> ResponseReturnValue:
    """The chosen week judged for every athlete, as planned or as done."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    week, done = week_of(block, here.week), request.args.get("of") == "done"
    weeks = audit_block_week(reader(), here.squad.id, block, week, here.rules, done=done)
    groups = [(group, _fix_words(block, group.finding, done)) for group in gathered(weeks)]
    athletes = squad_athletes(reader(), here.squad.id)
    flags, asked = _flagged(athletes), len(week_around(reader(), here).proposals)
    if wants_piece("week-check"):
        about = {"week": week, "groups": groups, "block": block, "context": here, "flags": flags, "asked": asked}
        return render_template("block/_check.html", words=finding_line, **about)
    return render_template(
        "block/check.html",
        week=week,
        done=done,
        asked=asked,
        weeks=weeks,
        groups=groups,
        words=finding_line,
        flags=flags,
        flag_words=flag_line,
        easings=easings(acting(reader()), block, week),
        athletes=athletes,
        weekdays=WEEKDAYS,
        **block_head(block),
    )


def _fix_words(block: Block, finding: Finding, done: bool) -> str:
    return "" if done else proposed_words(proposed(reader(), block, finding))


def finding_line(finding: Any) -> tuple[str, str]:
    """What and why of a finding."""
    what, why = FINDING_WORDS[finding.code]
    days = {name: WEEKDAYS[int(finding.facts[name])] for name in ("day", "next") if name in finding.facts}
    facts = {**finding.facts, **days}
    return what.format(**facts), why.format(**facts)


def _flagged(athletes: Sequence[Athlete]) -> list[Flagged]:
    here = context()
    lifts = lifts_of(reader(), here.squad.id, here.week)
    return flagged(reader(), athletes, lifts, here.today, here.rules)


def flag_line(flag: Any) -> str:
    """A red flag in words."""
    facts = dict(flag.facts)
    if "movement" in facts:
        facts["movement"] = squad_library().get(str(facts["movement"])).name
    return FLAG_WORDS[flag.code].format(**facts)


@blueprint.post("/<int:block_id>/check/ease")
@allow(Act.PLAN)
def ease(block_id: int) -> ResponseReturnValue:
    """What is left of the chosen week made a deload for one athlete."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    who = athlete_of(reader(), here.squad.id, request.form.get("athlete", -1, type=number))
    flags = next((f for f in _flagged([who]) if f.asks), None)
    codes = [flag.code for flag in flags.flags] if flags else []
    with database().writing() as db:
        change, count = ease_week(acting(db), block_id, [who.id], week_of(block, here.week), codes)
        change_id = change.id
    cells = "1 cell" if count == 1 else f"{count} cells"
    said_with_undo(f"Deload week for {who.name}: {cells}, as a draft. Look it over, then publish.", change_id)
    return redirect(url_for("block.audit", block_id=block_id, week=here.week.isoformat()))


@blueprint.post("/<int:block_id>/check/fix")
@allow(Act.PLAN)
def fix_finding(block_id: int) -> ResponseReturnValue:
    """Do what a finding proposes."""
    here = context()
    block = block_of(reader(), here.squad.id, block_id)
    week = week_of(block, here.week)
    groups = gathered(audit_block_week(reader(), here.squad.id, block, week, here.rules))
    code, about = request.form.get("code", ""), request.form.get("about", "")
    found = next((g.finding for g in groups if g.finding.code == code and g.finding.about == about), None)
    if found is None:
        raise Refused("no_fix")
    with database().writing() as db:
        change = fix(acting(db), block_id, found)
    said_with_undo("Fixed, as a draft: look it over, then publish.", change.id)
    return redirect(url_for("block.audit", block_id=block_id, week=here.week.isoformat()))
