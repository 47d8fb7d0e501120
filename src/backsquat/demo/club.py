"""Make the demo: an invented indoor handball club, half a season of training behind it.

Everything goes through the same operations a coach's clicks go through, on simulated days, so
the demo is as consistent as real use. Seeded: the same data every time.
"""

import datetime as dt
import gc
import random
from decimal import Decimal
from typing import Any
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.config import DEMO_DAY
from backsquat.core.loads.mass import Unit
from backsquat.core.movements.movement import ReadinessCheck
from backsquat.core.progression.cell import UNLOADED, ExerciseRole, State
from backsquat.core.progression.decision import Code
from backsquat.core.readiness.absence import AwayReason
from backsquat.core.readiness.limits import ActiveLimit as LimitFacts
from backsquat.core.readiness.limits import LimitKind, Scope
from backsquat.core.roles import Role
from backsquat.core.season.milestone import MilestoneKind
from backsquat.demo.addresses import write_down
from backsquat.demo.apart import come_in, train_apart
from backsquat.demo.flu import come_back_well, in_bed
from backsquat.demo.lifter import do_set, stayed_away, true_max
from backsquat.demo.people import PEOPLE, DemoPerson
from backsquat.demo.rooms import harbour_hall
from backsquat.demo.screens import values
from backsquat.demo.season import SEASON, make_season, measure_heights
from backsquat.demo.seen import look_from_the_side
from backsquat.demo.sessions import BESIDE, fill_sessions, name_sessions, work_beside
from backsquat.library import battery
from backsquat.library.shelf import movements
from backsquat.storage.convert import load_near
from backsquat.storage.models import Athlete, Block, Cell, Exercise, RoomRow, Squad
from backsquat.work.accounts.people import add_person
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.decisions.answer import answer
from backsquat.work.health.absences import come_back, go_away
from backsquat.work.health.limits import add_limit
from backsquat.work.health.notes import add_note
from backsquat.work.ladders.moves import move_level, place_by_screens
from backsquat.work.ladders.readiness_checks import clear_with_reason
from backsquat.work.plan.blocks import BlockFacts, ExerciseFacts, create_block
from backsquat.work.plan.cells import publish
from backsquat.work.plan.edit import edit_cell
from backsquat.work.plan.exercise_plan import room_of
from backsquat.work.plan.replan import ReplanScope, replan
from backsquat.work.readiness.screens import record_results
from backsquat.work.record.floor import log_sets
from backsquat.work.record.outside import log_level_work, log_test
from backsquat.work.record.record import SetFacts
from backsquat.work.rooms.describe import check_station, save_room
from backsquat.work.season.milestones import add_milestone
from backsquat.work.sessions.blocks import session_day
from backsquat.work.squad.athletes import AthleteFacts, save_athlete
from backsquat.work.squad.passes import give_pass
from backsquat.work.squad.set_ups import note_set_up

PASSWORD = "chalk and iron"
BLOCKS = (  # name, first week, weeks, in season
    ("Pre-season wave", dt.date(2026, 7, 13), 8, False),
    ("Autumn wave", dt.date(2026, 9, 14), 8, True),
    ("November wave", dt.date(2026, 11, 9), 8, True),
)
EXERCISES = ((0, "back_squat"), (2, "romanian_deadlift"))
PAIN = {"pain": 5, "pain_region": "groin", "pain_character": "sharp"}
SET_UPS = (
    ("Marit Holm", "back_squat", "stance", "32 cm"), ("Marit Holm", "back_squat", "pins", "hole 9"),
    ("Marit Holm", "back_squat", "grip", "two fingers in"), ("Ines Okafor", "back_squat", "pins", "hole 10"),
    ("Tove Lindqvist", "back_squat", "wedge", "10 mm"), ("Tove Lindqvist", "back_squat", "pins", "hole 10"),
    ("Liv Aasen", "goblet_squat", "wedge", "20 mm"),
)  # fmt: skip
STAYED_AWAY = {("Ayla Demirel", dt.date(2026, 11, 18))}  # planned, and nothing logged: it waits for the coach
SEEN = (("split_squat", "rear_raised_dumbbells"), ("floor_curl", "nordic_lowering"))
SEEN_BEFORE = "has worked there for years; seen by the head coach"
THROUGH_YOUTH = "came up the road in the youth section; seen there by the head coach"


class Club:
    """Builds the demo in one session."""

    def __init__(self, db: Session, hash_cost: int) -> None:
        self.db = db
        self.chance, self.luck = random.Random(20261123), random.Random(7)
        self.squad = Squad(club="Kestrel Point", name="first team")
        db.add(self.squad)
        db.flush()
        people = [
            ("amari", "R. Amari", Role.COACH),
            ("lund", "T. Lund", Role.ASSISTANT),
            ("ferro", "M. Ferro", Role.PHYSIO),
        ]
        self.users = [
            add_person(
                db, sign_in=sign_in, name=name, password=PASSWORD, squad_id=self.squad.id, role=role, cost=hash_cost
            )
            for sign_in, name, role in people
        ]
        db.flush()
        self.athletes: dict[int, DemoPerson] = {}
        self.blocks: list[Block] = []
        self.kept: list[Any] = []  # rows held, so that the session need not read them again for every set

    def on(self, day: dt.date, hour: int = 18) -> WorkContext:
        """The coach at work on a day."""
        return WorkContext(self.db, Actor(self.users[0].id, self.squad.id, dt.datetime.combine(day, dt.time(hour))))

    def client_id(self) -> str:
        return str(UUID(int=self.chance.getrandbits(128), version=4))

    def build(self) -> None:
        make_season(self.on(SEASON.first_week))
        self.room()
        for person in PEOPLE:
            self.athlete(person)
        for name, first, weeks, in_season in BLOCKS:
            self.block(name, first, weeks, in_season)
        self.milestones()
        self.just_through()
        self.health()
        fill_sessions(self.on(DEMO_DAY - dt.timedelta(days=1), 20), self.blocks[-1])
        come_in(self.on, DEMO_DAY, self.id_of)
        measure_heights(self.on, DEMO_DAY, self.id_of)
        look_from_the_side(self.on, DEMO_DAY, self.id_of)
        write_down(self.on(DEMO_DAY - dt.timedelta(days=3), 18), self.id_of)
        train_apart(self.on(DEMO_DAY, 8), self.blocks[-1], self.id_of)

    def id_of(self, name: str) -> int:
        return next(athlete_id for athlete_id, person in self.athletes.items() if person.name == name)

    def room(self) -> None:
        save_room(self.on(SEASON.first_week), harbour_hall())
        self.kept += self.db.scalars(select(RoomRow)).all()

    def athlete(self, person: DemoPerson) -> None:
        joined = min(SEASON.first_week + dt.timedelta(weeks=person.joined_week), DEMO_DAY - dt.timedelta(days=4))
        facts = AthleteFacts(
            person.name,
            dt.date.fromisoformat(person.born),
            Decimal(person.mass_kg),
            person.position,
            person.newcomer,
            person.consent,
        )
        athlete = save_athlete(self.on(joined), facts)
        self.athletes[athlete.id] = person
        self.kept.append(athlete)
        self.screen(athlete, person, joined)
        if person.joined_week < 99 and not person.story.startswith(("on the", "just", "no ")):
            for _, code in EXERCISES:
                self.test(athlete, person, code, joined + dt.timedelta(days=1), 5)

    def screen(self, athlete: Athlete, person: DemoPerson, joined: dt.date) -> None:
        """The battery on joining, a short one every eight weeks after; who came through the youth is let through."""
        if person.story == "no consent":
            return
        sided = {code: screen.two_sided for code, screen in battery.screens().items()}
        late = dt.date(2026, 10, 14) if person.position == "left wing" else dt.date(2026, 11, 4)
        days = [joined, joined + dt.timedelta(weeks=8), late]
        for n, day in enumerate(day for day in days if joined <= day < DEMO_DAY):
            found = list(values(person, sided, self.chance, n == 1))
            record_results(self.on(day), athlete.id, found, day)
        if person.story == "just through":  # the readiness check looks at what was tested lately
            day = DEMO_DAY - dt.timedelta(days=3)
            found = list(values(person, sided, random.Random(person.name), False))
            record_results(self.on(day), athlete.id, found, day)
        if person.newcomer and not person.story:
            clear_with_reason(self.on(joined), athlete.id, ReadinessCheck.BARBELL, THROUGH_YOUTH)
        if person.story == "on the road":
            day = dt.date(2026, 11, 6)
            for ladder, code in (
                ("squat_to_bar", "goblet_squat"),
                ("hinge", "kettlebell_deadlift"),
                ("split_squat", "split_squat_front_raised"),
            ):
                reason = "placed after the screens"
                move_level(self.on(day), athlete.id, ladder, code, way="placed", reason=reason)
        if person.story in ("", "stopped"):
            place_by_screens(self.on(joined), athlete.id)
            if not person.newcomer:
                self.seen(athlete, joined)
        if person.story == "just through":
            self.road(athlete, dt.date(2026, 10, 19))

    def seen(self, athlete: Athlete, day: dt.date) -> None:
        """Who has lifted for years is put on the level they work on."""
        for ladder, code in SEEN:
            context = self.on(day)
            move_level(context, athlete.id, ladder, code, way="placed", reason=SEEN_BEFORE)

    def road(self, athlete: Athlete, first: dt.date) -> None:
        """Eight sessions over four weeks, the weight going up, then the readiness check."""
        for code, ladder in (("goblet_squat", "squat_to_bar"), ("bench_thrust", "thrust")):
            why = "placed after the screens"
            move_level(self.on(first), athlete.id, ladder, code, way="placed", reason=why)
        for session in range(8):
            day = first + dt.timedelta(weeks=session // 2, days=3 * (session % 2))
            for code, load, reps in (("goblet_squat", 10 + session, 10), ("bench_thrust", 0, 12)):
                sets = [SetFacts(self.client_id(), Decimal(load), Unit.KG, reps, reps, 3, day) for _ in range(3)]
                log_level_work(self.on(day), athlete.id, code, sets)

    def just_through(self) -> None:
        """The newest past the readiness check is tested on the eve and gets the first loads; the returning one is eased
        in.
        """
        for athlete_id, person in self.athletes.items():
            athlete = self.db.get_one(Athlete, athlete_id)
            if person.story == "just through":
                for _, code in EXERCISES:
                    self.test(athlete, person, code, DEMO_DAY - dt.timedelta(days=2), 5)
        self.catch_up(self.blocks[-1], DEMO_DAY)

    def health(self) -> None:
        """Back after eight weeks, five after a flu; a limit, a note, a watch; set-ups and a rack that is not ready."""
        named = {person.name: athlete_id for athlete_id, person in self.athletes.items()}
        sunday = DEMO_DAY - dt.timedelta(days=1)
        away = go_away(self.on(sunday), named["Jorunn Petit"], dt.date(2026, 9, 28), AwayReason.AWAY)
        come_back(self.on(sunday), away.id, DEMO_DAY, "")
        range_limit = LimitFacts(
            Scope.MOVEMENT,
            "back_squat",
            LimitKind.RANGE,
            None,
            "to thigh level",
            dt.date(2026, 11, 9),
            None,
            "M. Ferro, physio",
        )
        add_limit(self.on(sunday), named["Elsbeth Oyelaran"], range_limit)
        at = dt.datetime.combine(sunday, dt.time(10))
        physio = WorkContext(self.db, Actor(self.users[2].id, self.squad.id, at, Role.PHYSIO))
        come_back_well(physio, named)
        add_note(physio, named["Rania Haddad"], "Lower back sore after long bus trips, spring.", "lower back")
        for name, movement, field, value in SET_UPS:
            note_set_up(self.on(dt.date(2026, 9, 14)), named[name], movement, field, value)
        give_pass(self.on(DEMO_DAY, 8), named["Marit Holm"])  # one click is an athlete's
        check_station(self.on(DEMO_DAY, 8), "Rack 4", False, "left pin bent")
        publish(self.on(DEMO_DAY, 8), self.blocks[-1].id, "back after the flu, and a return")

    def test(self, athlete: Athlete, person: DemoPerson, code: str, day: dt.date, reps: int) -> None:
        max_kg = true_max(person, code != "back_squat", SEASON.index(day))
        load = load_near(room_of(self.db, self.squad.id), "bar15", max_kg / (1 + (reps + 1) / 30))
        done = do_set(self.chance, max_kg, load.kg, reps, 1, [])
        facts = SetFacts(
            self.client_id(), load.total.amount, load.total.unit, done.reps, done.reps, done.reserve_reps, day
        )
        log_test(self.on(day), athlete.id, code, facts)

    def block(self, name: str, first: dt.date, weeks: int, in_season: bool) -> None:
        sunday = first - dt.timedelta(days=1)
        exercises = tuple(
            ExerciseFacts(day, code, "wave", {"sets": 4 if not in_season else 3}) for day, code in EXERCISES
        )
        if name == BLOCKS[-1][0]:
            exercises += BESIDE
        block = create_block(self.on(sunday), BlockFacts(name, first, weeks, in_season, exercises), SEASON)
        name_sessions(self.on(sunday), block)
        publish(self.on(sunday), block.id)
        self.kept.append(block)
        self.blocks.append(block)
        for week in range(weeks):
            for exercise in block.exercises:
                day = session_day(exercise, week)
                if day < DEMO_DAY:
                    if exercise.position == 0:  # who has been tested since, or came back, gets loads
                        self.catch_up(block, day)
                    self.train(block, exercise, week, day)
        if block.first_week <= DEMO_DAY:
            self.edit_one(block)

    def catch_up(self, block: Block, day: dt.date) -> None:
        if replan(self.on(day, 8), block.id, ReplanScope(only_refused=True)):
            publish(self.on(day, 8), block.id, "newly tested")

    def train(self, block: Block, exercise: Exercise, week: int, day: dt.date) -> None:
        season_week = SEASON.index(day)
        cells = self.db.scalars(
            select(Cell)
            .where(
                Cell.exercise_id == exercise.id,
                Cell.week == week,
                Cell.live,
                Cell.load_kg.is_not(None) | Cell.state.in_(UNLOADED),
            )
            .order_by(Cell.athlete_id)
        ).all()
        for cell in cells:
            person = self.athletes[cell.athlete_id]
            if exercise.role is not ExerciseRole.MAIN:
                away = person.away[0] <= season_week <= person.away[1] or (person.name, day) in STAYED_AWAY
                if not away:
                    self.beside(cell, exercise, day)
                continue
            if (person.name, day) in STAYED_AWAY:
                continue
            absent = person.away[0] <= season_week <= person.away[1] or stayed_away(person, day)
            if cell.state is State.LEVEL:
                self.level_session(cell, day, week, absent)
            elif not absent:
                self.exposure(cell, exercise, person, season_week, day)

    def exposure(self, cell: Cell, exercise: Exercise, person: DemoPerson, season_week: int, day: dt.date) -> None:
        movement = movements()[exercise.movement]
        max_kg = true_max(person, exercise.movement != "back_squat", season_week) * self.chance.gauss(1, 0.012)
        faults = [fault.code for fault in movement.faults]
        context = self.on(day)
        hurts = person.story == "stopped" and day == DEMO_DAY - dt.timedelta(days=7)
        sets = []
        for number in range(1, 3 if hurts else cell.sets + 1):
            done = do_set(self.chance, max_kg, cell.load_kg or 1, cell.reps, number, faults)
            pain: dict[str, Any] = PAIN if hurts and number == 2 else {}
            facts = SetFacts(
                self.client_id(),
                cell.load_amount or Decimal(0),
                Unit(cell.load_unit),
                done.reps,
                done.reps - min(done.short_reps, done.reps - 1),
                done.reserve_reps,
                day,
                done.fault,
                **pain,
            )
            sets.append(facts)
        if in_bed(person.name, day):  # everybody else's luck stays what it is
            self.chance.random()
            return
        decision = log_sets(context, cell.id, sets).decision
        # Three athletes' newest decisions are left for the coach on Sunday evening.
        waits = day > DEMO_DAY - dt.timedelta(days=7) and person.name.split()[0] in ("Tove", "Sanne", "Mirre")
        if decision and not waits:
            if self.chance.random() < 0.03 and decision.code is Code.UP:
                answer(context, decision.id, code=Code.STAY, reason="tired from travel")
            else:
                answer(context, decision.id)

    def beside(self, cell: Cell, exercise: Exercise, day: dt.date) -> None:
        """Work beside the main lifts, made as asked; its own luck, so that the main lifts stay what they were."""
        sets = work_beside(cell, exercise, day, self.luck)
        if in_bed(self.athletes[cell.athlete_id].name, day):
            return
        decision = log_sets(self.on(day, 19), cell.id, sets).decision
        if decision:
            answer(self.on(day, 19), decision.id)

    def level_session(self, cell: Cell, day: dt.date, week: int, absent: bool) -> None:
        """The work of a level, one rep under the top of its window: on the way, not there yet."""
        load = Decimal(10 + 2 * week) if cell.movement == "goblet_squat" else Decimal(16)
        reps = cell.reps - 1
        sets = [SetFacts(self.client_id(), load, Unit.KG, reps, reps, 2, day) for _ in range(cell.sets)]
        if absent:  # everybody else's luck stays what it is
            return
        decision = log_sets(self.on(day), cell.id, sets).decision
        if decision:
            answer(self.on(day), decision.id)

    def edit_one(self, block: Block) -> None:
        """The coach holds one athlete back by hand, for the load after the next match."""
        if block.name != BLOCKS[-1][0]:
            return
        context = self.on(DEMO_DAY, 8)
        cell = self.db.execute(
            select(Cell)
            .join(Athlete, Cell.athlete_id == Athlete.id)
            .where(
                Cell.exercise_id == block.exercises[0].id,
                Cell.week == 5,
                Cell.current,
                Athlete.name == "Tove Lindqvist",
            )
        ).scalar_one()
        room = room_of(self.db, self.squad.id)
        lower = load_near(room, cell.bar, (cell.load_kg or 0) - 5)
        edit_cell(context, cell.id, lower.total.amount, cell.bar)
        publish(context, block.id, "before the match")

    def milestones(self) -> None:
        context = self.on(dt.date(2026, 8, 1))
        due = dt.date(2027, 2, 6)
        wanted = {
            "Marit Holm": ("1.65", due),
            "Ines Okafor": ("1.55", due),
            "Tove Lindqvist": ("1.65", due),
            "Sanne de Wit": ("1.55", due),
            "Petra Skov": ("1.45", due),
            "Rania Haddad": ("1.4", due),
            "Ayla Demirel": ("1.35", due),
            "Mirre Castellan": ("1.35", due),
            "Oona Lachlan": ("1.2", due),
            "Wren Achterberg": ("1.2", due),
            "Suri Valdez": ("1.15", due),
            "Elsbeth Oyelaran": ("1.1", due),
        }
        for athlete_id, person in self.athletes.items():
            if person.name in wanted:
                amount, day = wanted[person.name]
                add_milestone(context, athlete_id, "back_squat", MilestoneKind.BODY_MASSES, Decimal(amount), day)


def build(db: Session, hash_cost: int = 3) -> None:
    """Fill an empty, migrated database with the demo club."""
    gc.disable()  # it makes many rows and keeps them all: there is nothing to collect
    try:
        Club(db, hash_cost).build()
    finally:
        gc.enable()
