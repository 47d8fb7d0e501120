"""Sets outside any block: tests, and a day's work of a rung; what is planned follows."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput
from backsquat.core.rules import Rules
from backsquat.core.strength.record import Effort
from backsquat.work.actor import Actor
from backsquat.work.library.movements import library_of
from backsquat.work.plan.replan import refresh_athlete
from backsquat.work.record.record import Kept, Occasion, SetFacts, keep_set, lifter, set_problems
from backsquat.work.squad.athletes import athlete_of


def log_test(
    session: Session, actor: Actor, athlete_id: int, movement_code: str, facts: SetFacts, rules: Rules
) -> Kept:
    """Record a test set; a stopping pain stops here as anywhere."""
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    movement = library_of(session, actor.squad_id).get(movement_code)
    who = lifter(session, actor, athlete, movement, [facts], rules)
    kept = keep_set(session, actor, who, facts, rules, Occasion(Effort.TEST))
    refresh_athlete(session, actor, athlete.id, rules, tested=movement.code)
    return kept


def log_rung_work(
    session: Session, actor: Actor, athlete_id: int, movement_code: str, sets: Sequence[SetFacts], rules: Rules
) -> list[Kept]:
    """Log a day's sets of a movement: all of them, or none and what is impossible about each."""
    athlete = athlete_of(session, actor.squad_id, athlete_id)
    movement = library_of(session, actor.squad_id).get(movement_code)
    found = [problem for facts in sets for problem in set_problems(facts, movement, actor.today)]
    if found:
        raise ImpossibleInput(*found)
    who = lifter(session, actor, athlete, movement, sets, rules)
    kept = [
        keep_set(session, actor, who, facts, rules, Occasion(Effort.WORK, set_number=number))
        for number, facts in enumerate(sets, 1)
    ]
    refresh_athlete(session, actor, athlete.id, rules)
    return kept
