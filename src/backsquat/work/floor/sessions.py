"""The floor's sessions: which there are in a week, in what order their work is done, and which is shown."""

import datetime as dt
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.storage.models import Block, BlockSession, Exercise, ExerciseWeek, SessionDay
from backsquat.work.sessions.blocks import own_days, squad_blocks


@dataclass(frozen=True)
class FloorSession:
    """One session on one day of a published block: its places as they were published, what is spare last.

    Whoever does it on a day of their own has it as another one on that day: `own` there, `elsewhere` here.
    """

    block: Block
    held: BlockSession
    week: int
    day: dt.date
    places: tuple[ExerciseWeek, ...]
    own: frozenset[int] = frozenset()  # the athletes it is for, where it was moved for them alone; nobody: for all
    elsewhere: Mapping[int, dt.date] = field(default_factory=dict)  # athlete → the day on which they do it alone

    @property
    def key(self) -> str:
        """What a page names it by."""
        return f"{self.session_id}.{self.day.isoformat()}" if self.own else str(self.session_id)

    def holds(self, athlete_id: int) -> bool:
        """Whether it is the session of an athlete on this day."""
        return athlete_id in self.own if self.own else athlete_id not in self.elsewhere

    @property
    def session_id(self) -> int:
        """The session it is."""
        return self.held.id

    @cached_property
    def exercises(self) -> dict[int, Exercise]:
        """Its exercises by id, in the order they are done."""
        known = {exercise.id: exercise for exercise in self.block.every_exercise}
        return {place.exercise_id: known[place.exercise_id] for place in self.places}


def sessions_in_week(db: Session, squad_id: int, week: dt.date) -> list[FloorSession]:
    """The week's sessions as they were published, by day."""
    now = [block for block in squad_blocks(db, squad_id) if 0 <= (week - block.first_week).days // 7 < block.weeks]
    found = []
    for block in now:
        index = (week - block.first_week).days // 7
        rows = db.execute(
            select(ExerciseWeek, BlockSession, SessionDay.held_on)
            .join(BlockSession, BlockSession.id == ExerciseWeek.session_id)
            .join(
                SessionDay, (SessionDay.session_id == ExerciseWeek.session_id) & (SessionDay.week == ExerciseWeek.week)
            )
            .where(
                ExerciseWeek.exercise_id.in_([exercise.id for exercise in block.every_exercise]),
                ExerciseWeek.week == index,
            )
            .where(~SessionDay.left_out)
            .order_by(ExerciseWeek.spare, ExerciseWeek.position, ExerciseWeek.exercise_id)
        )
        placed: dict[int, list[ExerciseWeek]] = defaultdict(list)
        held_on: dict[int, tuple[BlockSession, dt.date]] = {}
        for place, held, day in rows:
            placed[held.id].append(place)
            held_on[held.id] = (held, day)
        own = own_days(db, placed)
        for id, places in placed.items():
            held, day = held_on[id]
            moved = {athlete: to for athlete, to in own.get((id, index), {}).items() if to != day}
            whole = FloorSession(block, held, index, day, tuple(places), elsewhere=moved)
            apart = [frozenset(athlete for athlete in moved if moved[athlete] == to) for to in set(moved.values())]
            found += [whole, *(replace(whole, day=moved[min(who)], own=who, elsewhere={}) for who in apart)]
    return sorted(found, key=lambda item: (item.day, bool(item.own), item.held.position, item.held.id))


def choose_session(
    sessions: Sequence[FloorSession], wanted: str, today: dt.date, exercise: str = ""
) -> FloorSession | None:
    """The session asked for, or the one with the exercise asked for, or today's, or the next of the week, or its last."""
    if not sessions:
        return None
    asked = next((item for item in sessions if item.key == wanted), None)
    asked = asked or next((item for item in sessions if str(item.session_id) == wanted), None)
    asked = asked or next((item for item in sessions if exercise in map(str, item.exercises)), None)
    return asked or next((item for item in sessions if item.day >= today), sessions[-1])
