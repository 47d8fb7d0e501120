"""The squad's blocks, their exercises and the days of their sessions."""

import datetime as dt
from collections import defaultdict
from collections.abc import Collection, Sequence

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session, defaultload, lazyload
from sqlalchemy.orm.attributes import set_committed_value

from backsquat.core.errors import NotThere
from backsquat.core.progression.cell import ExerciseRole
from backsquat.storage.cache import cached
from backsquat.storage.models import Block, BlockSession, Cell, Exercise, ExerciseWeek, OwnDay, PlanVersion, SessionDay
from backsquat.work.context import WorkContext

OwnDays = dict[tuple[int, int], dict[int, dt.date]]  # (session, week) → athlete → day


def block_of(db: Session, squad_id: int, block_id: int) -> Block:
    """The block, if of this squad."""
    block = db.get(Block, block_id)
    if block is None or block.squad_id != squad_id:
        raise NotThere("block")
    return block


def coming_blocks(context: WorkContext) -> list[Block]:
    """The squad's blocks that are not over."""
    mine = Block.squad_id == context.squad_id, ~Block.dropped
    blocks = context.db.scalars(select(Block).where(*mine).order_by(Block.first_week))
    return [block for block in blocks if block.first_week + dt.timedelta(weeks=block.weeks) > context.today]


_CELL = (  # made once: asked with every set
    select(Cell, Exercise, Block)
    .join(Exercise, Cell.exercise_id == Exercise.id)
    .join(Block, Exercise.block_id == Block.id)
    .where(Cell.id == bindparam("cell"), Block.squad_id == bindparam("squad"))
    .options(lazyload(Block.every_exercise), lazyload(Exercise.session))
)


def cell_of(db: Session, squad_id: int, cell_id: int) -> tuple[Cell, Exercise, Block]:
    """A cell with its exercise and block, if of this squad."""
    row = db.execute(_CELL, {"cell": cell_id, "squad": squad_id}).first()
    if row is None:
        raise NotThere("cell")
    cell, exercise, block = row
    return cell, exercise, block


_BARE = defaultload(Block.every_exercise).defaultload(Exercise.session).lazyload(BlockSession.days)
_BLOCKS = (
    select(Block).where(Block.squad_id == bindparam("squad"), ~Block.dropped).order_by(Block.first_week).options(_BARE)
)  # made once


def squad_blocks(db: Session, squad_id: int) -> list[Block]:
    """The squad's blocks by date, read once in a session: the rail and most pages need them."""
    key = ("squad_blocks", squad_id)
    if key not in db.info:
        db.info[key] = _with_days(db, db.scalars(_BLOCKS, {"squad": squad_id}).all())
    return db.info[key]  # type: ignore[no-any-return]


# Before the newest block begins: the days of older ones are read where they are asked for.
NEAR = dt.timedelta(weeks=16)
_DAYS = select(SessionDay).where(SessionDay.session_id.in_(bindparam("held", expanding=True))).order_by(SessionDay.week)


def _with_days(db: Session, blocks: Sequence[Block]) -> list[Block]:
    """The days of the newest blocks at once; a squad of years has hundreds, and a page looks at those of a week."""
    near = [
        block for block in blocks if block.first_week + dt.timedelta(weeks=block.weeks) > blocks[-1].first_week - NEAR
    ]
    held = {exercise.session_id: exercise.session for block in near for exercise in block.every_exercise}
    days: dict[int, list[SessionDay]] = defaultdict(list)
    for day in db.scalars(_DAYS, {"held": list(held)}):
        days[day.session_id].append(day)
    for session_id, one in held.items():
        set_committed_value(one, "days", days[session_id])
    return list(blocks)


DEFAULT_LIFTS = ("back_squat", "romanian_deadlift")


def lifts_of(db: Session, squad_id: int, week: dt.date) -> list[str]:
    """The main lifts of the squad in a week: its block's, else the last block's before it; three at most."""
    blocks = squad_blocks(db, squad_id)
    block = block_in_week(blocks, week) or next((b for b in reversed(blocks) if b.first_week <= week), None)
    exercises = [exercise for exercise in block.exercises if not exercise.ladder] if block else []
    codes = [exercise.movement for exercise in exercises if exercise.role is ExerciseRole.MAIN] or [
        exercise.movement for exercise in exercises
    ]
    return list(dict.fromkeys(codes))[:3] or list(DEFAULT_LIFTS)


def block_in_week(blocks: Sequence[Block], week: dt.date) -> Block | None:
    """The block that plans the week."""
    return next((b for b in blocks if 0 <= (week - b.first_week).days // 7 < b.weeks), None)


def next_planned(blocks: Sequence[Block], week: dt.date) -> dt.date | None:
    """The first week after this one that a block plans."""
    after = week + dt.timedelta(weeks=1)
    weeks = [max(block.first_week, after) for block in blocks]
    return min((one for block, one in zip(blocks, weeks, strict=True) if block_in_week([block], one)), default=None)


def session_day(exercise: Exercise, week: int) -> dt.date:
    """The day on which an exercise is planned in a week of its block: read from its session, nowhere worked out."""
    return exercise.session_in(week).day_in(week)


def floor_day(exercise: Exercise, week: int) -> dt.date:
    """The day on which the floor does it: the planned one, but for a move that waits to be published."""
    held = _held(exercise, week) if exercise.moved else None
    return held.session.day_in(week) if held else session_day(exercise, week)


_OWN_DAY = select(OwnDay.held_on).where(  # made once: asked with every set
    OwnDay.session_id == bindparam("held"), OwnDay.week == bindparam("week"), OwnDay.athlete_id == bindparam("athlete")
)


def own_day(db: Session, exercise: Exercise, week: int, athlete_id: int) -> dt.date:
    """The day on which one athlete does it: moved for them alone, or the floor's."""
    held = _held(exercise, week) if exercise.moved else None
    place = held.session if held else exercise.session_in(week)
    return db.scalar(_OWN_DAY, {"held": place.id, "week": week, "athlete": athlete_id}) or place.day_in(week)


_OWN_DAYS = select(OwnDay).where(OwnDay.session_id.in_(bindparam("held", expanding=True)))
_PUBLISHED = select(PlanVersion.block_id).where(PlanVersion.block_id.in_(bindparam("ids", expanding=True))).distinct()


def own_days(db: Session, session_ids: Collection[int]) -> OwnDays:
    """Days moved for single athletes, of all weeks of these sessions."""
    rows = db.scalars(_OWN_DAYS, {"held": list(session_ids)})
    found: OwnDays = defaultdict(dict)
    for row in rows:
        found[row.session_id, row.week][row.athlete_id] = row.held_on
    return found


def left_out(exercise: Exercise, week: int) -> bool:
    """Whether the session an exercise is on the floor in is left out of a week of its block."""
    held = _held(exercise, week) if exercise.moved else None
    return (held.session if held else exercise.session_in(week)).left_out_of(week)


def to_come(exercise: Exercise, week: int, today: dt.date) -> bool:
    """Whether an exercise's week can still be planned: it is not left out, neither the day planned nor the floor's
    passed.
    """
    return not left_out(exercise, week) and session_day(exercise, week) >= today and floor_day(exercise, week) >= today


def _held(exercise: Exercise, week: int) -> ExerciseWeek | None:
    return next((held for held in exercise.on_floor if held.week == week), None)


def session_on(block: Block, weekday: int) -> BlockSession:
    """The block's session on a weekday, made with its days where there is none yet."""
    found = next((one for one in block.sessions if one.weekday == weekday), None)
    if found is None:
        found = BlockSession(weekday=weekday)
        found.days = [
            SessionDay(week=week, held_on=block.first_week + dt.timedelta(weeks=week, days=weekday))
            for week in range(block.weeks)
        ]
        block.sessions.append(found)
    return found


def week_of(block: Block, day: dt.date) -> int:
    """The block's week a day falls in, kept inside the block."""
    return min(max((day - block.first_week).days // 7, 0), block.weeks - 1)


def exercise_of(db: Session, squad_id: int, exercise_id: int) -> tuple[Exercise, Block]:
    """An exercise with its block, if of this squad."""
    exercise = db.get(Exercise, exercise_id)
    block = db.get(Block, exercise.block_id) if exercise else None
    if exercise is None or block is None or block.squad_id != squad_id:
        raise NotThere("exercise")
    return exercise, block


def published_blocks(db: Session, block_ids: Sequence[int]) -> set[int]:
    """Ids of those of these blocks of which anything was ever published."""
    asked = tuple(block_ids)
    return cached(db, ("published", asked), lambda: set(db.scalars(_PUBLISHED, {"ids": asked})), plan=True)
