"""Pain as it is said: where, how it feels, and how bad where that matters. At any time, in a session or not.

Nothing else is asked: a load, reps or a reserve that nobody said would be made up. What stops locks at once.
"""

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, Problem, Refused
from backsquat.core.movements.movement import Region
from backsquat.core.pain import LEVEL_MOST, STOPPING, Character, stops
from backsquat.core.progression.cell import LIFTED
from backsquat.storage.models import DecisionRow, PainReport, Stop
from backsquat.work.context import WorkContext
from backsquat.work.decisions.propose import propose
from backsquat.work.plan.cells import movement_of
from backsquat.work.policy import Act, only_own, require
from backsquat.work.record.stops import PainFacts, put_stop
from backsquat.work.sessions.blocks import cell_of
from backsquat.work.squad.athletes import athlete_of, rules_for


@dataclass(frozen=True)
class Reported:
    """The report, the stop it led to, and what was decided of the work it came up in."""

    report: PainReport
    stop: Stop | None = None
    decision: DecisionRow | None = None


def report_pain(context: WorkContext, athlete_id: int, facts: PainFacts, cell_id: int | None = None) -> Reported:
    """Write pain down and lock what it must lock. The same client id twice is one report."""
    require(context.actor, Act.LOG_OWN)
    only_own(context.actor, athlete_id)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    known = context.db.scalars(select(PainReport).where(PainReport.client_id == facts.client_id)).first()
    if known is not None:
        if known.athlete_id != athlete_id:
            raise Refused("replaced")
        return Reported(known, context.db.scalars(select(Stop).where(Stop.report_id == known.id)).first())
    if found := pain_problems(facts):
        raise ImpossibleInput(*found)
    where = cell_of(context.db, context.squad_id, cell_id) if cell_id else None
    if where and where[0].athlete_id != athlete_id:
        raise Refused("another_place")
    movement = movement_of(context.library, where[1], where[0]) if where else None
    report = PainReport(
        client_id=facts.client_id,
        athlete_id=athlete_id,
        movement=movement.code if movement else "",
        cell_id=cell_id,
        region=facts.region,
        character=facts.character,
        level=facts.level,
        done_on=facts.happened_at.date() if facts.happened_at else context.today,
        happened_at=facts.happened_at,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(report)
    context.db.flush()
    own, stop = rules_for(athlete, context.rules), None
    if stops(facts.level or 0, facts.character, own):
        stop = put_stop(context, athlete_id, movement, facts, report_id=report.id)
    decision = None
    if where and where[0].state in LIFTED and (stop or _judged(context.db, where[0].id)):
        decision = propose(context, *where)
    return Reported(report, stop, decision)


def pain_problems(facts: PainFacts) -> list[Problem]:
    """What is missing or impossible about pain that was said."""
    found = []
    if facts.region not in set(Region):
        found.append(Problem("pain_region", "pain_needs_region"))
    if facts.character not in set(Character):
        found.append(Problem("pain_character", "not_a_choice", {"choices": ", ".join(Character)}))
    elif facts.level is None and facts.character not in STOPPING:
        found.append(Problem("pain", "pain_needs_level"))
    if facts.level is not None and not 0 <= facts.level <= LEVEL_MOST:
        found.append(Problem("pain", "pain_range", {"most": LEVEL_MOST}))
    return found


def _judged(db: Session, cell_id: int) -> bool:
    return db.scalars(select(DecisionRow.id).where(DecisionRow.cell_id == cell_id)).first() is not None
