"""Sets outside any block: tests, and a day's work of a level; what is planned follows."""

from collections.abc import Sequence

from backsquat.core.errors import ImpossibleInput, NotThere, Refused
from backsquat.core.movements.movement import Movement
from backsquat.core.strength.record import Effort
from backsquat.storage.models import Athlete, SetEntry
from backsquat.work.context import WorkContext
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


def log_test(context: WorkContext, athlete_id: int, movement_code: str, facts: SetFacts) -> StoredSet:
    """Record a test set; a stopping pain stops here as anywhere."""
    require(context.actor, Act.LOG)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    movement = context.library.get(movement_code)
    who = lifter(context, athlete, movement, [facts])
    stored = store_set(context, who, facts, Occasion(Effort.TEST))
    refresh_athlete(context, athlete.id, tested=movement.code)
    return stored


def log_level_work(
    context: WorkContext, athlete_id: int, movement_code: str, sets: Sequence[SetFacts]
) -> list[StoredSet]:
    """Log a day's sets of a movement: all of them, or none and what is impossible about each."""
    require(context.actor, Act.LOG)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    movement = context.library.get(movement_code)
    found = [problem for facts in sets for problem in set_problems(facts, movement, context.today)]
    if found:
        raise ImpossibleInput(*found)
    who = lifter(context, athlete, movement, sets)
    stored = [
        store_set(context, who, facts, Occasion(Effort.WORK, set_number=number)) for number, facts in enumerate(sets, 1)
    ]
    refresh_athlete(context, athlete.id)
    return stored


def correct_test(context: WorkContext, athlete_id: int, entry_id: int, facts: SetFacts) -> StoredSet:
    """What the test really was, in its stead; both stay, and what was planned from it follows."""
    require(context.actor, Act.LOG)
    entry = _standing_test(context, athlete_id, entry_id)
    athlete, movement = entry_athlete(context, entry)
    may_correct(context, entry)
    entry.standing = False
    context.db.flush()
    who = lifter(context, athlete, movement, [facts])
    stored = store_set(context, who, facts, Occasion(Effort.TEST, corrects_id=entry.id))
    mark_report(context, entry, stored.entry, stored.stop)
    _follow(context, athlete.id, movement.code)
    return stored


def withdraw_test(context: WorkContext, athlete_id: int, entry_id: int) -> SetEntry:
    """The test never happened: an entry says so, and what was planned from it follows, as drafts."""
    require(context.actor, Act.LOG)
    entry = _standing_test(context, athlete_id, entry_id)
    may_correct(context, entry)
    back = take_entry_back(context, entry)
    _follow(context, entry.athlete_id, entry.movement)
    return back


def _standing_test(context: WorkContext, athlete_id: int, entry_id: int) -> SetEntry:
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    entry = context.db.get(SetEntry, entry_id)
    if entry is None or entry.athlete_id != athlete.id or entry.effort is not Effort.TEST or entry.cell_id is not None:
        raise NotThere("set")
    if not entry.standing:
        raise Refused("replaced")
    return entry


def entry_athlete(context: WorkContext, entry: SetEntry) -> tuple[Athlete, Movement]:
    """Whose entry it is, and of which movement."""
    athlete = athlete_of(context.db, context.squad_id, entry.athlete_id)
    return athlete, context.library.get(entry.movement)


def _follow(context: WorkContext, athlete_id: int, code: str) -> None:
    """Plans from this movement's records, and those that stand by ratio to it, follow as drafts."""
    replan_records(context, athlete_id, lambda m: m.code == code or (m.ratio is not None and m.ratio.parent == code))
