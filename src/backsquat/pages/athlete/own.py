"""An athlete's own numbers: the estimate and its trend, what was planned and done, notes and limits. Nobody else's."""

from typing import Any

from flask import render_template, request
from flask.typing import ResponseReturnValue

from backsquat.pages.athlete.drawing import lift_pictures, reach_pictures
from backsquat.pages.athlete.phrases import done_words, planned_words
from backsquat.pages.athlete.routes import blueprint
from backsquat.pages.request import allow, context, own_athlete, reader, squad_library
from backsquat.ui.phrases.estimates import TRUST
from backsquat.ui.phrases.set_up import SETUP_WORDS
from backsquat.work.log.depth import depths_of
from backsquat.work.log.estimates import numbers
from backsquat.work.log.sets import entries_of, recorded_lifts
from backsquat.work.policy import Act
from backsquat.work.readiness.load import readiness_one
from backsquat.work.season.milestones import milestones_of, with_lift
from backsquat.work.sessions.blocks import lifts_of
from backsquat.work.squad.athletes import athlete_of
from backsquat.work.squad.set_ups import set_ups

LOG_ROWS = 20


@blueprint.get("/me")
@allow(Act.SEE_OWN)
def me() -> ResponseReturnValue:
    """My numbers."""
    here, db = context(), reader()
    athlete = athlete_of(db, here.squad.id, own_athlete() or 0)
    ready = readiness_one(db, athlete, here.today, here.rules)
    codes = dict.fromkeys([*lifts_of(db, here.squad.id, here.week), *recorded_lifts(db, athlete.id)])
    lifts = numbers(db, athlete, codes, here.records_from, here.today, here.rules)
    lift = next((item for item in lifts if item.movement == request.args.get("lift")), lifts[0])
    milestones = with_lift(milestones_of(db, [athlete.id]), lift.movement)
    milestone = milestones[0] if milestones else None
    pictures: dict[str, Any] = lift_pictures(db, here, athlete, lift, milestone, ready)
    return render_template(
        "athlete/me.html",
        context=here,
        athlete=athlete,
        mass=ready.body_mass_kg,
        ready=ready,
        library=squad_library(),
        lifts=lifts,
        lift=lift,
        milestone=milestone,
        trust=TRUST,
        depths=depths_of(db, athlete.id),
        set_up=set_ups(db, [athlete.id]).get((athlete.id, lift.movement), {}),
        setup_words=SETUP_WORDS,
        entries=entries_of(db, athlete.id, here.today, LOG_ROWS),
        planned_words=planned_words,
        done_words=done_words,
        **reach_pictures(db, athlete.id),
        **pictures,
    )
