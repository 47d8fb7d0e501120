"""What keeps people from a block: one table, with what the log already shows and one click for it."""

from flask import flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import ImpossibleInput
from backsquat.core.progression.cell import State
from backsquat.pages.block.head import block_head, blueprint, exercise_name
from backsquat.pages.request import acting, allow, context, database, reader, said_with_undo, squad_library
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.problems import problem_words, refusal_words
from backsquat.ui.phrases.readiness_checks import NEED_WORDS, READINESS_CHECK_NAMES, place_words, shown_words
from backsquat.work.ladders.many import Settled, settle
from backsquat.work.ladders.missing import GENTLEST, Missing, MissingKind, missing_of
from backsquat.work.plan.filled import filled_of
from backsquat.work.policy import Act
from backsquat.work.sessions.blocks import block_of


@blueprint.route("/<int:block_id>/missing", methods=["GET", "POST"])
@allow(Act.KEEP_ATHLETES)
def missing(block_id: int) -> ResponseReturnValue:
    """Everybody who cannot do an exercise yet, why, and what settles it; POST settles the ticked ones."""
    block = block_of(reader(), context().squad.id, block_id)
    needs, problem = missing_of(acting(reader()), block), ""
    if request.method == "POST":
        ticked = set(request.form.getlist("need"))
        wanted: dict[int, list[Settled]] = {}
        for need in needs:  # only what the log or a screen shows can be ticked
            if need.key in ticked and need.shown:
                wanted.setdefault(need.athlete.id, []).append(_settled(need))
        try:
            with database().writing() as db:
                done = settle(acting(db), wanted)
        except ImpossibleInput as error:
            problem = problem_words(error.problems[0])
        else:
            said_with_undo(f"Settled for {', '.join(done.names)}. The drafts follow.", done.change)
            for name, refusal in done.refused:
                flash(f"{name}: {refusal_words(refusal)[0]}", "problem")
            return redirect(url_for("block.missing", block_id=block_id))
    page = render_template(
        "block/missing.html",
        offered=[need for need in needs if need.shown],
        not_here=[one for one in filled_of(reader(), block) if one.nothing.get(State.NO_ROOM)],
        left=[need for need in needs if not need.shown],
        problem=problem,
        what_words=_what,
        shown_words=_shown,
        next_step=_next_step,
        waiting=_waiting,
        **block_head(block),
    )
    return page, 422 if problem else 200


def _settled(need: Missing) -> Settled:
    movement = need.shown.code if need.shown else ""
    if need.kind is MissingKind.READY:
        return Settled(_shown(need), readiness_check=need.code)
    reason = need.reason if need.reason == GENTLEST else f"screens:{need.reason}"
    return Settled(reason, ladder=need.code, movement=movement)


def _what(need: Missing) -> str:
    """What is missing, or what would be said: Ready for the bar; Hinge: kettlebell deadlift."""
    if need.kind is MissingKind.READY:
        return READINESS_CHECK_NAMES[need.code]
    if need.kind is MissingKind.LEVEL:
        ladder = squad_library().ladders[need.code].name
        return f"{ladder}: {in_text(need.shown.name)}" if need.shown else f"{ladder}: a level"
    return NEED_WORDS[need.kind.value]


def _shown(need: Missing) -> str:
    if need.kind is MissingKind.READY and need.shown:
        return shown_words(need.shown.name, need.days)
    return place_words(need.reason)


def _next_step(need: Missing) -> tuple[str, str]:
    """(words, address) of what settles what nobody has seen yet."""
    one = need.athlete.id
    match need.kind:
        case MissingKind.READY:
            return "Readiness", url_for("ladders.show", athlete_id=one)
        case MissingKind.LEVEL:
            return "Place", url_for("ladders.show", athlete_id=one)
        case MissingKind.CONSENT:
            return "Write the consent down", url_for("athlete.edit", athlete_id=one)
        case MissingKind.STOPPED:
            return "Health", url_for("health.index")
        case MissingKind.TEST:
            return "Log a test", url_for("athlete.test", athlete_id=one, lift=need.code)


def _waiting(need: Missing) -> str:
    return ", ".join(dict.fromkeys(exercise_name(exercise) for exercise in need.exercises))
