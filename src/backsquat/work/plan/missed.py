"""Sessions an athlete was planned for and did not come to, and what the coach makes of them."""

import datetime as dt
from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import BindParameter, bindparam, or_, select
from sqlalchemy.orm import Session

from backsquat.core.errors import Refused
from backsquat.core.progression.cell import LIFTED
from backsquat.core.progression.missed import MissedChoice
from backsquat.core.readiness.verdict import Readiness
from backsquat.core.rules import Rules
from backsquat.storage.cache import cached_each
from backsquat.storage.models import (
    Athlete,
    Block,
    BlockSession,
    Cell,
    Change,
    Exercise,
    ExerciseWeek,
    MissedAnswer,
    OwnDay,
    SessionDay,
    SetEntry,
)
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.plan.cells import bring_back, make_live, place_drafts
from backsquat.work.plan.drafts import Draft
from backsquat.work.plan.exposure_rows import ExposureRows, same_lift
from backsquat.work.plan.moved_on import Moves
from backsquat.work.policy import Act, require
from backsquat.work.readiness.load import readiness_of
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.sessions.blocks import own_days, session_day, squad_blocks
from backsquat.work.sessions.presence import said_absent
from backsquat.work.squad.athletes import squad_athletes


@dataclass
class Missed:
    """One athlete's sessions of one kind, missed in a row since they last came, the first of them first."""

    athlete_id: int
    session_id: int
    weeks: dict[int, dt.date] = field(default_factory=dict)  # week of the block → day
    cells: list[int] = field(default_factory=list)  # what was planned in them
    first_kg: dict[int, float | None] = field(default_factory=dict)  # exercise → the load of the first one missed
    exercises: set[int] = field(default_factory=set)  # all that was to be done, also what a later day has overtaken

    @property
    def first_on(self) -> dt.date:
        """The day of the first of them."""
        return min(self.weeks.values())


def missed_sessions(
    db: Session, squad_id: int, ready: Mapping[int, Readiness], today: dt.date, rules: Rules
) -> dict[tuple[int, int], Missed]:
    """By athlete and session, what waits for the coach. Who was away, or stopped by then, has missed nothing."""

    def read(ids: list[int]) -> dict[int, dict[int, Missed]]:
        return _missed_by(db, squad_id, {one: ready[one] for one in ids}, today, rules)

    by_athlete = cached_each(db, ("missed", squad_id, today, rules), ready, read, plan=True)
    return {
        (athlete_id, session_id): one for athlete_id, mine in by_athlete.items() for session_id, one in mine.items()
    }


def _missed_by(
    db: Session, squad_id: int, ready: Mapping[int, Readiness], today: dt.date, rules: Rules
) -> dict[int, dict[int, Missed]]:
    found: dict[tuple[int, int], Missed] = {}
    planned: dict[tuple[int, int, int], list[tuple[int, int, float | None]]] = defaultdict(list)
    days: dict[tuple[int, int, int], dt.date] = {}
    held_on: dict[tuple[int, int, int], dt.date] = {}
    done: set[tuple[int, int, int]] = set()
    since = today - dt.timedelta(days=rules.missed_days)
    rows = _planned(db, squad_id, list(ready), since, today)
    own = own_days(db, {row[6] for row in rows})
    for cell_id, exercise_id, athlete_id, week, load_kg, made_at, session_id, day, sets in rows:
        place = (athlete_id, session_id, week)
        day = own.get((session_id, week), {}).get(athlete_id, day)
        if day >= today:  # moved for them alone, and still to come
            continue
        held_on[place] = day
        if sets:
            done.add(place)
        if made_at.date() <= day and ready[athlete_id].could_come(day):
            planned[place].append((cell_id, exercise_id, load_kg))
            days[place] = day
    answered = _answered(db, list(ready))
    last_done: dict[tuple[int, int], int] = {}
    for athlete_id, session_id, week in done:
        last_done[athlete_id, session_id] = max(week, last_done.get((athlete_id, session_id), -1))
    for place in sorted(planned.keys() - done - answered):
        athlete_id, session_id, week = place
        if week < last_done.get((athlete_id, session_id), -1):
            continue
        missed = found.setdefault((athlete_id, session_id), Missed(athlete_id, session_id))
        missed.weeks[week] = days[place]
        for cell_id, exercise_id, load_kg in planned[place]:
            missed.cells.append(cell_id)
            missed.exercises.add(exercise_id)
            missed.first_kg.setdefault(exercise_id, load_kg)
    _overtake(db, squad_id, found.values(), {place: day for place, day in held_on.items() if place in done})
    by_athlete: dict[int, dict[int, Missed]] = defaultdict(dict)
    for (athlete_id, session_id), missed in found.items():
        by_athlete[athlete_id][session_id] = missed
    return by_athlete


def _overtake(
    db: Session, squad_id: int, found: Collection[Missed], done: Mapping[tuple[int, int, int], dt.date]
) -> None:
    """Of a lift that goes on from day to day, nothing waits once a later day of it was done."""
    blocks = squad_blocks(db, squad_id) if found and done else []
    for block in blocks:
        exercises, rows = {exercise.id: exercise for exercise in block.exercises}, None
        for missed in found:
            since = {held for (who, held, _), day in done.items() if who == missed.athlete_id and day > missed.first_on}
            for exercise in [exercises[exercise_id] for exercise_id in missed.first_kg if exercise_id in exercises]:
                if not since & {other.session_id for other in same_lift(block, exercise)[1:]}:
                    continue
                rows = rows or ExposureRows(db, block)
                if since & {other.session_id for other in rows.of(exercise, missed.athlete_id)[1:]}:
                    del missed.first_kg[exercise.id]


# Made once. By the days of the sessions, which are few: their cells are found by place, not among all of a season.
_IDS: BindParameter[int] = bindparam("ids", expanding=True)
_TODAY: BindParameter[dt.date] = bindparam("today")
_ALONE_BEFORE = (  # sessions to come which somebody alone was to do before today
    select(OwnDay.id)
    .where(OwnDay.session_id == SessionDay.session_id, OwnDay.week == SessionDay.week, OwnDay.held_on < _TODAY)
    .exists()
)
_LIFTED = select(SetEntry.id).where(SetEntry.cell_id == Cell.id, SetEntry.standing).correlate(Cell).exists()
_GONE_BY = (
    select(Cell.id, Cell.exercise_id, Cell.athlete_id, Cell.week, Cell.load_kg, Cell.at)
    .add_columns(ExerciseWeek.session_id, SessionDay.held_on, _LIFTED)
    .join(ExerciseWeek, (ExerciseWeek.exercise_id == Cell.exercise_id) & (ExerciseWeek.week == Cell.week))
    .join(SessionDay, (SessionDay.session_id == ExerciseWeek.session_id) & (SessionDay.week == ExerciseWeek.week))
    .join(Exercise, Exercise.id == Cell.exercise_id)
    .join(Block, Block.id == Exercise.block_id)
    .where(Block.squad_id == bindparam("squad"), ~Exercise.removed, ~SessionDay.left_out)
    .where(SessionDay.held_on >= bindparam("since"), or_(SessionDay.held_on < _TODAY, _ALONE_BEFORE))
    .where(Cell.athlete_id.in_(_IDS), Cell.live, Cell.state.in_(LIFTED))
    .order_by(Cell.week)
)
_ANSWERS = select(MissedAnswer.athlete_id, MissedAnswer.session_id, MissedAnswer.week).where(
    MissedAnswer.athlete_id.in_(_IDS), ~MissedAnswer.taken_back
)


def _planned(db: Session, squad_id: int, ids: Sequence[int], since: dt.date, today: dt.date) -> Sequence[Any]:
    """The floor's cells of the days gone by with session and day, and whether a set stands in each."""
    asked = {"squad": squad_id, "ids": list(ids), "since": since, "today": today}
    return db.execute(_GONE_BY, asked).all()


def _answered(db: Session, ids: Sequence[int]) -> set[tuple[int, int, int]]:
    rows = db.execute(_ANSWERS, {"ids": list(ids)})
    return {(athlete_id, session_id, week) for athlete_id, session_id, week in rows}


@dataclass(frozen=True)
class MissedGroup:
    """Everybody who missed the same session since the same day; `whole`: all who were planned."""

    block: Block
    session: BlockSession
    exercises: list[Exercise]  # what was to be done
    first_on: dt.date
    sessions: int
    athletes: list[Athlete]
    whole: bool
    absent: list[Athlete]  # of whom the floor was told so


def missed_groups(context: WorkContext) -> list[MissedGroup]:
    """What waits, a line for each session and first day: a session the whole squad missed is one line."""
    athletes = {athlete.id: athlete for athlete in squad_athletes(context.db, context.squad_id)}
    ready = readiness_of(context.db, context.squad_id, list(athletes.values()), context.today, context.rules)
    groups: dict[tuple[dt.date, int, int], list[Missed]] = defaultdict(list)
    for missed in missed_sessions(context.db, context.squad_id, ready, context.today, context.rules).values():
        groups[missed.first_on, missed.session_id, len(missed.weeks)].append(missed)
    ids = {session_id for _, session_id, _ in groups}
    sessions = {one.id: one for one in context.db.scalars(select(BlockSession).where(BlockSession.id.in_(ids)))}
    blocks = {block.id: block for block in squad_blocks(context.db, context.squad_id)}
    came, told = _came(context.db, ids), said_absent(context.db, ids)
    found = []
    for (first_on, session_id, count), missed_by in sorted(groups.items(), key=lambda item: item[0]):
        who = sorted((athletes[one.athlete_id] for one in missed_by), key=lambda athlete: athlete.name)
        alone = not any((session_id, week) in came for week in missed_by[0].weeks)
        held = sessions[session_id]
        block, planned = blocks[held.block_id], {exercise_id for one in missed_by for exercise_id in one.exercises}
        exercises = [exercise for exercise in block.exercises if exercise.id in planned]
        absent = {
            one.athlete_id for one in missed_by for week in one.weeks if (one.athlete_id, session_id, week) in told
        }
        of_those = [athlete for athlete in who if athlete.id in absent]
        found.append(MissedGroup(block, held, exercises, first_on, count, who, alone and len(who) > 1, of_those))
    return found


def _came(db: Session, session_ids: Collection[int]) -> set[tuple[int, int]]:
    """(session, week) of these in which anybody logged a set."""
    rows = db.execute(
        select(ExerciseWeek.session_id, ExerciseWeek.week)
        .join(Cell, (Cell.exercise_id == ExerciseWeek.exercise_id) & (Cell.week == ExerciseWeek.week))
        .join(SetEntry, SetEntry.cell_id == Cell.id)
        .where(ExerciseWeek.session_id.in_(session_ids), SetEntry.standing)
        .distinct()
    )
    return {(session_id, week) for session_id, week in rows}


def answer_missed(
    context: WorkContext, session_id: int, athlete_ids: Collection[int], choice: MissedChoice
) -> tuple[Change, int]:
    """Repeat, ease or leave what these athletes missed of a session: one act, live at once, one undo; for how many."""
    require(context.actor, Act.PLAN)
    athletes = [athlete for athlete in squad_athletes(context.db, context.squad_id) if athlete.id in set(athlete_ids)]
    ready = readiness_of(context.db, context.squad_id, athletes, context.today, context.rules)
    waiting = missed_sessions(context.db, context.squad_id, ready, context.today, context.rules)
    mine = [missed for (_, at), missed in waiting.items() if at == session_id]
    if not mine:
        raise Refused("nothing_missed")
    held = context.db.get_one(BlockSession, session_id)
    answers = [
        MissedAnswer(
            athlete_id=missed.athlete_id,
            session_id=session_id,
            week=week,
            answer=choice.value,
            by_id=context.actor.user_id,
            at=context.now,
        )
        for missed in mine
        for week in missed.weeks
    ]
    context.db.add_all(answers)
    context.db.flush()
    block = context.db.get_one(Block, held.block_id)
    moves = Moves(context.db, context.actor, block, rooms_of(context.db, context.squad_id), context.rules)
    drafts = [] if choice is MissedChoice.LEAVE else moves.drafts(mine, ready, choice)
    placed = place_drafts(context, drafts)
    if placed.ids:
        make_live(context, block.id, placed.ids, f"missed: {choice.value}")
    before = {"cells": placed.replaced, "answers": [answer.id for answer in answers], "taken_back": True}
    facts = {"choice": choice.value, "count": len(mine)}
    what = "missed_answered"
    change = remember(context, what=what, subject="missed", subject_id=block.id, before=before, facts=facts)
    return change, len(mine)


def put_off(context: WorkContext, block: Block, exercise_ids: Collection[int], week: int) -> list[Draft]:
    """What follows where a session to come is left out and its work is to be done all the same: it moves one session on.

    For everybody planned in it, once its day says that it is left out; drafts, whatever waits to be published moves too.
    """
    ready = readiness_of(
        context.db, context.squad_id, squad_athletes(context.db, context.squad_id), context.today, context.rules
    )
    exercises = {exercise.id: exercise for exercise in block.exercises if exercise.id in exercise_ids}
    cells = select(Cell).where(
        Cell.exercise_id.in_(list(exercises)), Cell.week == week, Cell.current, Cell.state.in_(LIFTED)
    )
    found: dict[int, Missed] = {}
    for cell in context.db.scalars(cells.where(Cell.athlete_id.in_(list(ready)))):
        exercise = exercises[cell.exercise_id]
        out = found.setdefault(
            cell.athlete_id, Missed(cell.athlete_id, exercise.session_id, {week: session_day(exercise, week)})
        )
        out.cells.append(cell.id)
        out.first_kg.setdefault(exercise.id, cell.load_kg)
    moves = Moves(context.db, context.actor, block, rooms_of(context.db, context.squad_id), context.rules, waiting=True)
    return moves.drafts(list(found.values()), ready, MissedChoice.REPEAT)


@restores("missed")
def restore_missed(context: WorkContext, change: Change) -> dict[str, Any]:
    """Undo, and redo: the answer is taken back or stands again, and the numbers it moved are live as they were."""
    before = change.before
    taken_back = bool(before.get("taken_back", True))
    for answer in context.db.scalars(select(MissedAnswer).where(MissedAnswer.id.in_(before["answers"]))):
        answer.taken_back = taken_back
    placed = bring_back(context, change.subject_id, before["cells"])
    if placed.ids:
        make_live(context, change.subject_id, placed.ids, "missed: taken back" if taken_back else "missed")
    return {"cells": placed.replaced, "answers": before["answers"], "taken_back": not taken_back}
