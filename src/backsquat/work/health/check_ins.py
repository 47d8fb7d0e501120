"""Check-ins before a session, and the red flags that follow from them and from what was lifted."""

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput
from backsquat.core.findings import Finding
from backsquat.core.readiness.flags import CheckInValues as CoreCheckIn
from backsquat.core.readiness.flags import Drop, Signs, asks_for_deload_week, check_in_problems, red_flags
from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, Change, CheckIn, DecisionRow
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.log.estimates import current_values
from backsquat.work.policy import Act, only_own, require
from backsquat.work.squad.athletes import athlete_of


def check_in(context: WorkContext, athlete_id: int, facts: CoreCheckIn) -> Change:
    """Keep how an athlete comes to today's session. A second one of the day replaces the first."""
    require(context.actor, Act.LOG_OWN)
    only_own(context.actor, athlete_id)
    athlete_of(context.db, context.squad_id, athlete_id)
    found = check_in_problems(facts)
    if found:
        raise ImpossibleInput(*found)
    row = CheckIn(
        athlete_id=athlete_id,
        done_on=facts.done_on,
        sleep=facts.sleep,
        soreness=facts.soreness,
        stress=facts.stress,
        back=facts.back,
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(row)
    context.db.flush()
    return remember(context, what="checked_in", subject="check_in", subject_id=row.id, before={})


@restores("check_in")
def take_back_check_in(context: WorkContext, change: Change) -> None:
    """Undo: the answers were not given."""
    row = context.db.get_one(CheckIn, change.subject_id)
    athlete_of(context.db, context.squad_id, row.athlete_id)
    row.withdrawn = True


def check_ins(db: Session, athlete_ids: Sequence[int], first: dt.date, last: dt.date) -> dict[int, list[CoreCheckIn]]:
    """The newest check-in of each day, oldest day first, by athlete."""
    newest = (
        select(func.max(CheckIn.id))
        .where(CheckIn.athlete_id.in_(athlete_ids), CheckIn.done_on.between(first, last), ~CheckIn.withdrawn)
        .group_by(CheckIn.athlete_id, CheckIn.done_on)
    )
    found: dict[int, list[CoreCheckIn]] = defaultdict(list)
    for row in db.scalars(select(CheckIn).where(CheckIn.id.in_(newest)).order_by(CheckIn.done_on)):
        found[row.athlete_id].append(CoreCheckIn(row.done_on, row.sleep, row.soreness, row.stress, row.back))
    return found


@dataclass(frozen=True)
class Flagged:
    """An athlete with red flags; `asks`: enough of them for a deload week."""

    athlete: Athlete
    flags: tuple[Finding, ...]
    asks: bool


def flagged(
    db: Session, athletes: Sequence[Athlete], movements: Sequence[str], today: dt.date, rules: Rules
) -> list[Flagged]:
    """Who shows red flags, most of them first; `movements` are the main lifts. Two queries a lift and two more."""
    ids = [athlete.id for athlete in athletes]
    came = check_ins(db, ids, today - dt.timedelta(days=rules.flag_days), today)
    missed, drops = _missed(db, ids, today, rules), _drops(db, ids, movements, today, rules)
    found = []
    for athlete in athletes:
        signs = Signs(missed.get(athlete.id, 0), came.get(athlete.id, ()), drops.get(athlete.id, ()))
        flags = red_flags(signs, today, rules)
        if flags:
            found.append(Flagged(athlete, flags, asks_for_deload_week(flags, rules)))
    return sorted(found, key=lambda one: (-len(one.flags), one.athlete.name))


def _missed(db: Session, ids: Sequence[int], today: dt.date, rules: Rules) -> dict[int, int]:
    """Sessions of the last days (`flag_misses_days`) in which reps or sets were missing, by athlete."""
    rows = db.execute(
        select(DecisionRow.athlete_id, DecisionRow.cell_id, DecisionRow.missing_reps)
        .where(
            DecisionRow.athlete_id.in_(ids),
            DecisionRow.done_on > today - dt.timedelta(days=rules.flag_misses_days),
            DecisionRow.done_on <= today,
        )
        .order_by(DecisionRow.id)
    )
    newest = {(athlete_id, cell_id): missing for athlete_id, cell_id, missing in rows}
    count: dict[int, int] = defaultdict(int)
    for (athlete_id, _), missing in newest.items():
        count[athlete_id] += missing > 0
    return count


def _drops(
    db: Session, ids: Sequence[int], movements: Sequence[str], today: dt.date, rules: Rules
) -> dict[int, list[Drop]]:
    """Estimates now and some days ago. A lift that was only rotated out is stale, not lower, and left out."""
    found: dict[int, list[Drop]] = defaultdict(list)
    earlier = today - dt.timedelta(days=rules.flag_days)
    for code in movements:
        now, before = (current_values(db, ids, code, day, rules) for day in (today, earlier))
        for athlete_id, value in now.items():
            was = before.get(athlete_id)
            if was and not value.stale and not was.stale and value.newest_on > earlier:
                found[athlete_id].append(Drop(code, was.max_kg, value.max_kg))
    return found
