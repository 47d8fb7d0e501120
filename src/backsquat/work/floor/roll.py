"""Who does what in a session, and who is kept from it. Only live cells count here."""

import datetime as dt
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace

from sqlalchemy import select
from sqlalchemy.orm import Session as Database

from backsquat.core.progression.cell import LIFTED, State
from backsquat.core.readiness.verdict import Readiness, Reason
from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, Cell, DecisionRow, SessionAct, SetEntry
from backsquat.work.context import library_of
from backsquat.work.floor.holds import WaitingNumber, held_back, open_decisions
from backsquat.work.floor.sessions import FloorSession
from backsquat.work.floor.turn import KeptOff, NoWork, Turn
from backsquat.work.plan.cells import UNREAD, movement_of
from backsquat.work.plan.exposure_rows import ExposureRows
from backsquat.work.plan.missed import missed_sessions
from backsquat.work.plan.progression_settings import athlete_settings, setting_of
from backsquat.work.plan.timed import item_of
from backsquat.work.readiness.load import readiness_of
from backsquat.work.rooms.rooms import Rooms
from backsquat.work.sessions.acts import acts_in
from backsquat.work.squad.set_ups import set_ups


class Roll:
    """The turns of these athletes in a session, read for all of them at once."""

    def __init__(
        self, db: Database, chosen: FloorSession, rooms: Rooms, today: dt.date, rules: Rules, athlete_ids: Sequence[int]
    ) -> None:
        self.chosen, self.rooms, self.today, self.rules = chosen, rooms, today, rules
        squad_id, exercise_ids = chosen.block.squad_id, list(chosen.exercises)
        self.places = {place.exercise_id: place for place in chosen.places}
        found = db.execute(
            select(Cell, Athlete)
            .join(Athlete, Cell.athlete_id == Athlete.id)
            .where(
                Cell.exercise_id.in_(exercise_ids),
                Cell.week == chosen.week,
                Cell.live,
                Cell.athlete_id.in_(athlete_ids),
            )
            .where(Cell.state != State.LEFT_OUT)  # the coach knows: nothing to be said of it
            .options(*UNREAD)
            .order_by(Athlete.name)
        )
        self.rows = [(cell, athlete) for cell, athlete in found]
        athletes = list({athlete.id: athlete for _, athlete in self.rows}.values())
        self.entries, self.decisions = _logged(db, [cell.id for cell, _ in self.rows])
        self.ready: Mapping[int, Readiness] = readiness_of(db, squad_id, athletes, today, rules)
        self.library = library_of(db, squad_id)
        self.settings = athlete_settings(db, [exercise.id for exercise in chosen.block.every_exercise])
        ids = [athlete.id for athlete in athletes]
        self.set_ups = set_ups(db, ids)
        self.acts: Mapping[int, Sequence[SessionAct]] = acts_in(db, chosen.session_id, chosen.week, ids)
        missed = missed_sessions(db, squad_id, self.ready, today, rules)
        self.waiting = WaitingNumber(open_decisions(db, chosen, rules), missed, chosen)
        self.climbing = ExposureRows(db, chosen.block, self.settings)

    def turns(self) -> tuple[dict[int, list[Turn]], list[KeptOff]]:
        """By athlete, their turns in the order of the session; and what they are kept from.

        A stop in the middle of a session leaves the turn to be seen.
        """
        turns: dict[int, list[Turn]] = defaultdict(list)
        kept_off = []
        order = {exercise_id: n for n, exercise_id in enumerate(self.chosen.exercises)}
        for cell, athlete in sorted(self.rows, key=lambda row: order[row[0].exercise_id]):
            turn = self._turn(cell, athlete)
            off = self._kept_off(turn)
            past = bool(turn.entries) and self.chosen.day < self.today
            if off and not past:
                kept_off.append(off)
                stop = off.obstacle.stop if off.obstacle else None
                # Whoever was stopped here today stays to be seen, stopped, also before the first set.
                if not (stop and (turn.entries or stop.at.date() == self.chosen.day)):
                    continue
            turns[athlete.id].append(turn)
        return turns, sorted(kept_off, key=lambda off: off.athlete.name)

    def may_take_up(self, skipped: Sequence[SessionAct]) -> list[SessionAct]:
        """Of skipped work on the shelf, what nothing stands against today."""
        found = []
        for act in skipped:
            movement = self.library.movements.get(str(act.facts.get("movement", "")))
            if movement and self.ready[act.athlete_id].judge(movement, self.today).first is None:
                found.append(act)
        return found

    def _turn(self, cell: Cell, athlete: Athlete) -> Turn:
        exercise, place = self.chosen.exercises[cell.exercise_id], self.places[cell.exercise_id]
        movement = movement_of(self.library, exercise, cell)
        setting, room = self.settings.get((exercise.id, athlete.id)), self.rooms.of_cell(cell)
        item = item_of(place, exercise, movement, cell, setting or setting_of(exercise))
        turn = Turn(
            athlete,
            exercise,
            cell,
            movement,
            item,
            tuple(self.entries.get(cell.id, ())),
            self.decisions.get(cell.id),
            self.ready[athlete.id].judge(movement, self.chosen.day, cell.load_kg),
            self.set_ups.get((athlete.id, movement.code), {}),
            setting=setting,
            room=room,
            acts=tuple(act for act in self.acts.get(athlete.id, ()) if act.exercise_id == exercise.id),
        )
        if turn.entries:  # begun: what is on the bar stays there
            return turn
        row = self.climbing.of(exercise, athlete.id)
        waiting, missed = self.waiting.decision(row, athlete.id), self.waiting.missed_of(row, athlete.id)
        if waiting is None and missed[0] is None:
            return turn
        return replace(turn, hold=held_back(cell, turn.planned, waiting, missed, self.rooms, self.rules))

    def _kept_off(self, turn: Turn) -> KeptOff | None:
        """Why somebody does not do what the cell asks for today; None: they do."""
        if turn.athlete.id in self.chosen.elsewhere and not turn.entries:
            day = self.chosen.elsewhere[turn.athlete.id]
            return KeptOff(turn.athlete, turn.exercise, turn.cell, why=NoWork.OWN_DAY, day=day)
        now = turn.verdict
        if self.chosen.day != self.today:
            now = self.ready[turn.athlete.id].judge(turn.movement, self.today, turn.cell.load_kg)
        if turn.exercise.ladder and not turn.cell.movement:  # nobody is asked to do a ladder's last level
            now = now.but(Reason.NOT_READY, Reason.UNEARNED)
        if now.first:
            return KeptOff(turn.athlete, turn.exercise, turn.cell, obstacle=now.first)
        if turn.cell.state not in LIFTED:
            return KeptOff(turn.athlete, turn.exercise, turn.cell, why=NoWork.NO_LOAD)
        where = self.rooms.id_on(turn.athlete.id, self.chosen.day)
        if not turn.entries and turn.cell.room_id != where:
            name = self.rooms.room(where).name
            return KeptOff(turn.athlete, turn.exercise, turn.cell, why=NoWork.ELSEWHERE, room_name=name)
        return None


def _logged(db: Database, cell_ids: Sequence[int]) -> tuple[dict[int, list[SetEntry]], dict[int, DecisionRow]]:
    """The standing sets of cells in order, and the newest decision of each."""
    entries: dict[int, list[SetEntry]] = defaultdict(list)
    standing = select(SetEntry).where(SetEntry.cell_id.in_(cell_ids), SetEntry.standing)
    for entry in db.scalars(standing.order_by(SetEntry.set_number, SetEntry.id)):
        entries[entry.cell_id or 0].append(entry)
    rows = select(DecisionRow).where(DecisionRow.cell_id.in_(cell_ids)).order_by(DecisionRow.id)
    return entries, {row.cell_id: row for row in db.scalars(rows)}
