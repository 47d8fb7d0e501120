"""What waits for a decision, what was decided, and open stops."""

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from backsquat.core.errors import NotThere
from backsquat.core.progression.decision import Code
from backsquat.core.rules import Rules
from backsquat.storage.models import Answer, Athlete, DecisionRow, SetEntry, Stop, User

FIRST = {  # what needs a head before what went well
    Code.STOP: 0,
    Code.DOWN: 1,
    Code.EASIER_LEVEL: 1,
    Code.LOOK: 2,
    Code.STAY: 3,
    Code.UP: 3,
    Code.HARDER_LEVEL: 3,
}


def unanswered(rules: Rules) -> ColumnElement[bool]:
    """Proposals that wait for the coach: those that only repeat the plan wait for nobody, unless the squad asks them."""
    return ~DecisionRow.settled if rules.ask_repeats else ~DecisionRow.settled & ~DecisionRow.repeats


@dataclass(frozen=True)
class WaitingDecision:
    """A proposal with its evidence."""

    row: DecisionRow
    athlete: Athlete
    evidence: list[SetEntry]


def waiting(db: Session, squad_id: int) -> tuple[list[WaitingDecision], list[WaitingDecision]]:
    """Open proposals: those that need a head, the gravest first and then the oldest, and those that repeat the plan."""
    rows = db.execute(
        select(DecisionRow, Athlete)
        .join(Athlete, DecisionRow.athlete_id == Athlete.id)
        .where(Athlete.squad_id == squad_id, Athlete.active, ~DecisionRow.settled)
        .order_by(DecisionRow.done_on, Athlete.name)
    ).all()
    ids = {set_id for row, _ in rows for set_id in row.evidence}
    sets = {entry.id: entry for entry in db.scalars(select(SetEntry).where(SetEntry.id.in_(ids)))}
    found = [
        WaitingDecision(row, athlete, [sets[set_id] for set_id in row.evidence if set_id in sets])
        for row, athlete in rows
    ]
    heads = sorted((item for item in found if not item.row.repeats), key=_gravity)
    return heads, [item for item in found if item.row.repeats]


def _gravity(item: WaitingDecision) -> int:
    """Stops first, then what goes down, then what wants to be looked at, then the rest."""
    gravity = FIRST[item.row.code]
    return min(gravity, FIRST[Code.DOWN]) if item.row.following.get("way") == "down" else gravity


def proposal(db: Session, squad_id: int, decision_id: int) -> tuple[DecisionRow, Athlete]:
    """One proposal with whom it is for, if of this squad."""
    row = db.get(DecisionRow, decision_id)
    athlete = db.get(Athlete, row.athlete_id) if row else None
    if row is None or athlete is None or athlete.squad_id != squad_id:
        raise NotThere("decision")
    return row, athlete


@dataclass(frozen=True)
class TakenDecision:
    """An answer with the proposal it answers and who gave it."""

    answer: Answer
    row: DecisionRow
    athlete: Athlete
    by: str


def taken_in_week(db: Session, squad_id: int, week: dt.date) -> list[TakenDecision]:
    """What was decided on the sessions of a week, by day and name."""
    rows = db.execute(
        select(Answer, DecisionRow, Athlete, User.name)
        .join(DecisionRow, Answer.decision_id == DecisionRow.id)
        .join(Athlete, DecisionRow.athlete_id == Athlete.id)
        .join(User, Answer.by_id == User.id)
        .where(
            Athlete.squad_id == squad_id, DecisionRow.done_on >= week, DecisionRow.done_on < week + dt.timedelta(days=7)
        )
        .order_by(DecisionRow.done_on, Athlete.name)
    )
    return [TakenDecision(answer, row, athlete, name) for answer, row, athlete, name in rows]


def answer_to(db: Session, decision_id: int) -> Answer | None:
    """The answer to a proposal, if it was given."""
    return db.scalars(select(Answer).where(Answer.decision_id == decision_id)).first()


def stops_of_squad(db: Session, squad_id: int) -> list[tuple[Stop, Athlete]]:
    """Open stops, newest first."""
    rows = db.execute(
        select(Stop, Athlete)
        .join(Athlete, Stop.athlete_id == Athlete.id)
        .where(Athlete.squad_id == squad_id, Athlete.active, ~Stop.withdrawn, Stop.cleared_on.is_(None))
        .order_by(Stop.id.desc())
    )
    return [(stop, athlete) for stop, athlete in rows]
