"""Sets outside any block: tests, and a day's work of a level; what is planned follows."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput, NotThere, Refused
from backsquat.core.movements.movement import Movement
from backsquat.core.rules import Rules
from backsquat.core.strength.record import Effort
from backsquat.storage.models import Athlete, SetEntry
from backsquat.work.actor import Actor
from backsquat.work.library.movements import library_of
from backsquat.work.plan.replan import refresh_athlete, replan_records
from backsquat.work.policy import Act, require
from backsquat.work.record.record import (
    Occasion,
    SetFacts,
    StoredSet,
    lifter,
    mark_report,
    may_correct,
    set_problems,
    store_set,
    take_entry_back,
)
from backsquat.work.squad.athletes import athlete_of


def log_test(
    db: Session, actor: Actor, athlete_id: int, movement_code: str, facts: SetFacts, rules: Rules
) -> StoredSet:
    """Record a test set; a stopping pain stops here as anywhere."""
    require(actor, Act.LOG)
    athlete = athlete_of(db, actor.squad_id, athlete_id)
    movement = library_of(db, actor.squad_id).get(movement_code)
    who = lifter(db, actor, athlete, movement, [facts], rules)
    stored = store_set(db, actor, who, facts, rules, Occasion(Effort.TEST))
    refresh_athlete(db, actor, athlete.id, rules, tested=movement.code)
    return stored


def log_level_work(
    db: Session, actor: Actor, athlete_id: int, movement_code: str, sets: Sequence[SetFacts], rules: Rules
) -> list[StoredSet]:
    """Log a day's sets of a movement: all of them, or none and what is impossible about each."""
    require(actor, Act.LOG)
    athlete = athlete_of(db, actor.squad_id, athlete_id)
    movement = library_of(db, actor.squad_id).get(movement_code)
    found = [problem for facts in sets for problem in set_problems(facts, movement, actor.today)]
    if found:
        raise ImpossibleInput(*found)
    who = lifter(db, actor, athlete, movement, sets, rules)
    stored = [
        store_set(db, actor, who, facts, rules, Occasion(Effort.WORK, set_number=number))
        for number, facts in enumerate(sets, 1)
    ]
    refresh_athlete(db, actor, athlete.id, rules)
    return stored


def correct_test(db: Session, actor: Actor, athlete_id: int, entry_id: int, facts: SetFacts, rules: Rules) -> StoredSet:
    """What the test really was, in its stead; both stay, and what was planned from it follows."""
    require(actor, Act.LOG)
    entry = _standing_test(db, actor, athlete_id, entry_id)
    athlete, movement = entry_athlete(db, actor, entry)
    may_correct(db, actor, entry, rules)
    entry.standing = False
    db.flush()
    who = lifter(db, actor, athlete, movement, [facts], rules)
    stored = store_set(db, actor, who, facts, rules, Occasion(Effort.TEST, corrects_id=entry.id))
    mark_report(db, actor, entry, stored.entry, stored.stop)
    _follow(db, actor, athlete.id, movement.code, rules)
    return stored


def withdraw_test(db: Session, actor: Actor, athlete_id: int, entry_id: int, rules: Rules) -> SetEntry:
    """The test never happened: an entry says so, and what was planned from it follows, as drafts."""
    require(actor, Act.LOG)
    entry = _standing_test(db, actor, athlete_id, entry_id)
    may_correct(db, actor, entry, rules)
    back = take_entry_back(db, actor, entry, rules)
    _follow(db, actor, entry.athlete_id, entry.movement, rules)
    return back


def _standing_test(db: Session, actor: Actor, athlete_id: int, entry_id: int) -> SetEntry:
    athlete = athlete_of(db, actor.squad_id, athlete_id)
    entry = db.get(SetEntry, entry_id)
    if entry is None or entry.athlete_id != athlete.id or entry.effort is not Effort.TEST or entry.cell_id is not None:
        raise NotThere("set")
    if not entry.standing:
        raise Refused("replaced")
    return entry


def entry_athlete(db: Session, actor: Actor, entry: SetEntry) -> tuple[Athlete, Movement]:
    """Whose entry it is, and of which movement."""
    athlete = athlete_of(db, actor.squad_id, entry.athlete_id)
    return athlete, library_of(db, actor.squad_id).get(entry.movement)


def _follow(db: Session, actor: Actor, athlete_id: int, code: str, rules: Rules) -> None:
    """Plans from this movement's records, and those that stand by ratio to it, follow as drafts."""
    replan_records(
        db, actor, athlete_id, rules, lambda m: m.code == code or (m.ratio is not None and m.ratio.parent == code)
    )
