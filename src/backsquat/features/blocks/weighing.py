"""Pages that help to weigh a plan: compare schools, try one, check the week, versions; and the sheet's quick edits."""

from collections.abc import Sequence
from decimal import Decimal, InvalidOperation
from typing import Any

from flask import flash, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.progression.schools import SCHOOLS
from backsquat.features.athletes.flags import Flagged, flagged
from backsquat.features.athletes.queries import athlete_of, squad_athletes
from backsquat.features.blocks.auditing import audit_block_week, gathered, mend, proposed
from backsquat.features.blocks.comparing import LOADED, Trial, try_school
from backsquat.features.blocks.comparing import compare as compare_schools
from backsquat.features.blocks.drawing import draw_place
from backsquat.features.blocks.easing import ease_week, easings
from backsquat.features.blocks.editing import edit_cells
from backsquat.features.blocks.operations import block_of
from backsquat.features.blocks.phrases import FINDING_WORDS, FLAG_WORDS, STATES, WEEKDAYS
from backsquat.features.blocks.planning import room_of, week_of
from backsquat.features.blocks.queries import (
    athletes_with_load,
    lifts_of,
    milestone_notes,
    places_of,
    standing_of,
)
from backsquat.features.blocks.routes import block_head, blueprint
from backsquat.features.blocks.versions import differences, restore_version, versions_of
from backsquat.features.desk import (
    ASSISTANT,
    COACH,
    actor,
    allow,
    database,
    desk,
    forget_reader,
    reader,
    squad_library,
)
from backsquat.features.phrases import problem_words, refusal_words
from backsquat.features.review.phrases import sentence
from backsquat.storage.models import Athlete, Block, BlockSlot
from backsquat.ui.drawing.schools import SchoolLine, draw_schools, school_sign

MEASURES = (  # code, title, unit, from nought
    ("load_kg", "Load", "kg", False), ("reps", "Reps a set", "reps", True),
    ("tonnage_kg", "Tonnage of the week", "kg", True), ("relative", "Load by planning max", "share", False),
    ("back_cost", "Lower-back index", "index", True),
)  # fmt: skip


def _slot(block: Block, *, loaded: bool = True) -> BlockSlot:
    wanted = request.values.get("lift", "")
    slots = [slot for slot in block.slots if not loaded or not slot.ladder] or block.slots
    return next((slot for slot in slots if str(slot.id) == wanted), slots[0])


@blueprint.get("/<int:block_id>/compare")
@allow(COACH)
def compare(block_id: int) -> ResponseReturnValue:
    """Two or three schools on one athlete's numbers, and one of them on a made-up athlete."""
    here = desk()
    block = block_of(reader(), here.squad.id, block_id)
    slot = _slot(block)
    athletes = squad_athletes(reader(), here.squad.id)
    if not athletes:
        raise NotThere("athlete")
    planned = athletes_with_load(reader(), slot)
    first = next((a for a in athletes if a.id in planned), athletes[0])
    who = next((a for a in athletes if str(a.id) == request.args.get("athlete", "")), first)
    wanted = [code for code in request.args.getlist("school") if code in LOADED]
    chosen = wanted[:3]
    if not chosen:
        own = slot.school if slot.school in LOADED else "wave"
        chosen = [own, *(code for code in ("wave", "fixed", "window") if code != own)][:3]
    found = compare_schools(reader(), actor(), block, slot, who, chosen, here.rules)
    drawn = [one for one in found if one.measured]
    charts = [
        (title, unit, draw_schools(f"{title}, {unit}, by week", _lines(drawn, code), from_nought=nought))
        for code, title, unit, nought in MEASURES
    ]
    trial, problems = _trial()
    tried = request.args.get("try", "")
    story = None
    if tried in LOADED and not problems:
        story = try_school(reader(), actor(), block, slot, tried, trial, here.rules)
    return render_template(
        "blocks/compare.html", slot=slot, athletes=athletes, athlete=who, chosen=chosen, found=found, charts=charts,
        too_many=len(wanted) > 3,
        loaded=LOADED, schools=SCHOOLS, sign=school_sign, states=STATES, trial=trial, tried=tried, story=story,
        problems=problems, said=_said, unit=room_of(reader(), here.squad.id).unit, **block_head(block),
    ), 422 if problems else 200  # fmt: skip


def _lines(drawn: list[Any], code: str) -> list[SchoolLine]:
    return [SchoolLine(one.name, [getattr(week, code) for week in one.measured.weeks]) for one in drawn]


def _said(week: Any, following: Any, movement: str) -> str:
    """A simulated decision in the coach's words, with the number the next week really asked for."""
    if week.decision is None:
        return (
            "Missed; the same again the week after." if week.load_kg else "Under the lightest load there is."
        )
    effect: dict[str, Any] = {}
    if following and following.load_kg is not None:
        effect = {
            "next_load": f"{following.load_kg:g}", "next_reps": following.asked.reps,
            "next_sets": following.asked.sets, "next_easy": following.asked.kind == "easy",
        }  # fmt: skip
    return sentence(
        week.decision.code.value, week.decision.reason, week.decision.facts, effect, movement, squad_library()
    )


def _trial() -> tuple[Trial, dict[str, str]]:
    """The made-up athlete asked for, with what is wrong beside each field."""
    problems: dict[str, str] = {}

    def number(name: str, otherwise: float, low: float, high: float) -> float:
        text = request.args.get(name, "").strip().replace(",", ".")
        if not text:
            return otherwise
        try:
            value = float(text)
        except ValueError:
            problems[name] = problem_words(Problem(name, "not_a_number"))
            return otherwise
        if not low <= value <= high:
            facts: dict[str, str | float | int] = {"name": "Here", "low": low, "high": high}
            problems[name] = problem_words(Problem(name, "parameter_range", facts))
            return otherwise
        return value

    trial = Trial(
        number("max_kg", 100, 20, 400), number("gain", 0.6, -1, 3), int(number("seed", 1, 0, 10**6)),
        int(number("missed", 0, 0, 26)), int(number("sore", 0, 0, 26)),
    )  # fmt: skip
    return trial, problems


@blueprint.get("/<int:block_id>/check")
@allow(COACH)
def audit(block_id: int) -> ResponseReturnValue:
    """The chosen week judged for every athlete, as planned or as done."""
    here = desk()
    block = block_of(reader(), here.squad.id, block_id)
    week, done = week_of(block, here.week), request.args.get("of") == "done"
    weeks = audit_block_week(reader(), here.squad.id, block, week, here.rules, done=done)
    groups = [(group, "" if done else proposed(reader(), block, group.finding)) for group in gathered(weeks)]
    athletes = squad_athletes(reader(), here.squad.id)
    flags = _flagged(athletes)
    if request.headers.get("HX-Target") == "week-check":
        return render_template(
            "blocks/_check.html",
            week=week,
            groups=groups,
            words=finding_line,
            block=block,
            desk=here,
            flags=flags,
        )
    return render_template(
        "blocks/check.html", week=week, done=done, weeks=weeks, groups=groups, words=finding_line,
        flags=flags, flag_words=flag_line, easings=easings(reader(), actor(), block, week), athletes=athletes,
        weekdays=WEEKDAYS, **block_head(block),
    )  # fmt: skip


def finding_line(finding: Any) -> tuple[str, str]:
    """What and why of a finding."""
    what, why = FINDING_WORDS[finding.code]
    days = {name: WEEKDAYS[int(finding.facts[name])] for name in ("day", "next") if name in finding.facts}
    facts = {**finding.facts, **days}
    return what.format(**facts), why.format(**facts)


def _flagged(athletes: Sequence[Athlete]) -> list[Flagged]:
    here = desk()
    lifts = lifts_of(reader(), here.squad.id, here.week)
    return flagged(reader(), athletes, lifts, here.today, here.rules)


def flag_line(flag: Any) -> str:
    facts = dict(flag.facts)
    if "movement" in facts:
        facts["movement"] = squad_library().get(str(facts["movement"])).name
    return FLAG_WORDS[flag.code].format(**facts)


@blueprint.post("/<int:block_id>/check/ease")
@allow(COACH)
def ease(block_id: int) -> ResponseReturnValue:
    """What is left of the chosen week made easy for one athlete."""
    here = desk()
    block = block_of(reader(), here.squad.id, block_id)
    who = athlete_of(reader(), here.squad.id, request.form.get("athlete", -1, type=int))
    flags = next((f for f in _flagged([who]) if f.asks), None)
    why = "red flags: " + "; ".join(map(flag_line, flags.flags)) if flags else "the coach's choice"
    with database().writing() as session:
        change, count = ease_week(session, actor(), block_id, [who.id], week_of(block, here.week), why)
        change_id = change.id
    places = "1 place" if count == 1 else f"{count} places"
    flash(f"Made easy for {who.name}: {places}, as a draft. Look it over, then publish.|{change_id}", "undo")
    return redirect(url_for("blocks.audit", block_id=block_id, week=here.week.isoformat()))


@blueprint.post("/<int:block_id>/check/mend")
@allow(COACH)
def mend_finding(block_id: int) -> ResponseReturnValue:
    here = desk()
    block = block_of(reader(), here.squad.id, block_id)
    week = week_of(block, here.week)
    groups = gathered(audit_block_week(reader(), here.squad.id, block, week, here.rules))
    code, about = request.form.get("code", ""), request.form.get("about", "")
    found = next((g.finding for g in groups if g.finding.code == code and g.finding.about == about), None)
    if found is None:
        raise Refused("no_mend")
    with database().writing() as session:
        change = mend(session, actor(), block_id, found, here.rules)
    flash(f"Mended, as a draft: look it over, then publish.|{change.id}", "undo")
    return redirect(url_for("blocks.audit", block_id=block_id, week=here.week.isoformat()))


@blueprint.get("/<int:block_id>/milestones")
@allow(COACH, ASSISTANT)
def milestones(block_id: int) -> ResponseReturnValue:
    """The milestone of each athlete for the sheet's movement."""
    here = desk()
    slot = _slot(block_of(reader(), here.squad.id, block_id), loaded=False)
    notes = milestone_notes(reader(), here.squad.id, slot, here.today, here.rules)
    return render_template("blocks/_milestones.html", notes=notes)


@blueprint.get("/<int:block_id>/versions")
@allow(COACH)
def versions(block_id: int) -> ResponseReturnValue:
    """All publications; two of them side by side."""
    here = desk()
    block = block_of(reader(), here.squad.id, block_id)
    lines = versions_of(reader(), block)
    numbers = {line.number for line in lines}
    first, other = (request.args.get(name, type=int) for name in ("first", "other"))
    differing = differences(reader(), block, first, other) if first in numbers and other in numbers else None
    names = {a.id: a.name for a in squad_athletes(reader(), here.squad.id)}
    return render_template(
        "blocks/versions.html", lines=lines, first=first, other=other, differing=differing, names=names,
        slots={slot.id: slot for slot in block.slots}, **block_head(block),
    )  # fmt: skip


@blueprint.post("/<int:block_id>/versions/<int:number>/restore")
@allow(COACH)
def restore(block_id: int, number: int) -> ResponseReturnValue:
    with database().writing() as session:
        count = restore_version(session, actor(), block_id, number)
    flash(f"{count} places as in version {number}, as a draft. The past stays. Publish to use them.")
    return redirect(url_for("blocks.show", block_id=block_id))


@blueprint.post("/<int:block_id>/edits")
@allow(COACH)
def edit(block_id: int) -> ResponseReturnValue:
    """Many loads at once from the sheet: `cells` and `loads` in the same order. Answers with the new places."""
    here = desk()
    cells, loads = request.form.get("cells", ""), request.form.get("loads", "")
    try:
        ids = [int(word) for word in cells.split()]
        amounts = [Decimal(word.replace(",", ".")) for word in loads.split()]
        if not all(amount.is_finite() and abs(amount) < 10**6 for amount in amounts):
            raise InvalidOperation
    except (ValueError, InvalidOperation):
        return jsonify(problem=problem_words(Problem("load", "not_a_number"))), 422
    if len(ids) != len(amounts):
        return jsonify(problem=problem_words(Problem("load", "not_a_number"))), 422
    try:
        with database().writing() as session:
            new_ids, _ = edit_cells(
                session, actor(), block_id, dict(zip(ids, amounts, strict=True)), here.rules
            )
    except ImpossibleInput as error:
        return jsonify(problem=problem_words(error.problems[0])), 422
    except Refused as error:
        return jsonify(problem=". ".join(refusal_words(error))), 409
    forget_reader()
    return jsonify(_answered(block_id, dict(zip(ids, new_ids, strict=True))))


def _answered(block_id: int, replaced: dict[int, int]) -> dict[str, Any]:
    """The new places drawn, by the id of the cell each replaces, and what can be done with the sheet now."""
    here = desk()
    block = block_of(reader(), here.squad.id, block_id)
    slot = _slot(block, loaded=False)
    link = url_for("blocks.show", block_id=block.id, lift=slot.id, cell="CELL")
    cells = places_of(reader(), here.squad.id, block, slot, list(replaced.values()), here.today, here.rules)
    unit = room_of(reader(), here.squad.id).unit
    old_of = {new: old for old, new in replaced.items()}
    drafts, published = standing_of(reader(), block)
    return {
        "places": {
            str(old_of.get(cell.id, cell.id)): draw_place(
                cell, here=False, published=True, link=link, unit=unit
            )
            for cell in cells
        },
        "acts": render_template(
            "blocks/_acts.html", slot_id=slot.id, drafts=drafts, published=published, **block_head(block)
        ),
    }
