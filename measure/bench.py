"""Measure on large generated data: 1,000 athletes, 3 seasons, 1,000,000 sets. Writes docs/benchmarks.md.

Pages are asked for through the application as a signed-in coach, each time after somebody has logged a set, as in a
session; the ratio is to the bare SQL: the very statements the page sent, replayed on the driver with every row fetched.
"""

import datetime as dt
import gc
import os
import platform
import random
import sqlite3
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from decimal import Decimal
from functools import partial
from pathlib import Path
from typing import Any
from uuid import UUID

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import event, insert, select
from sqlalchemy.orm import Session

from backsquat import create_app
from backsquat.config import Config
from backsquat.core.loads.mass import Unit
from backsquat.core.roles import Role
from backsquat.core.rules import Rules
from backsquat.core.season.calendar import DaySpan
from backsquat.storage.database import Database
from backsquat.storage.migrate import migrate
from backsquat.storage.models import (
    Athlete,
    Block,
    BodyMass,
    Cell,
    Exercise,
    Match,
    Milestone,
    ScreenResult,
    Season,
    SetEntry,
    Squad,
)
from backsquat.work.accounts.people import add_person
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.log.beliefs import bring_all_up_to_date
from backsquat.work.plan.blocks import BlockFacts, ExerciseFacts, create_block
from backsquat.work.plan.cells import publish
from backsquat.work.rooms.describe import BarFacts, PlateFacts, RoomFacts, save_room
from backsquat.work.sessions.arrange import arrange
from backsquat.work.sessions.blocks import session_on
from measure.bench_clients import measure_clients
from measure.bench_core import core_belief, core_block, core_session
from measure.bench_training import Training, log_sets, middle_and_high, timed

ATHLETES, SQUAD_SIZE, SEASONS, WEEKS, BLOCK_WEEKS, SETS = 1_000, 60, 3, 44, 11, 4
TODAY = dt.date(2026, 11, 23)
PASSED = {  # the lines of the barbell readiness check, as an athlete who lifts has them
    "brace": 1, "standing_squat": 1, "knees_track": 1, "pelvis": 0, "side_shift": 0, "deep_squat_hold": 30,
    "counterbalanced_squat": 20, "witnessed_test": 1,
}  # fmt: skip
FIRST = TODAY - dt.timedelta(weeks=SEASONS * WEEKS - 6)  # three seasons end to end, the last one six weeks short
CHUNK = 10_000
PLATES = (("25", 6), ("20", 8), ("15", 6), ("10", 8), ("5", 8), ("2.5", 6), ("1.25", 6))
LIFTS = ((0, "back_squat"), (2, "romanian_deadlift"))
BESIDE = (  # movement and superset of what stands beside the squat
    ("calf_raise", 1), ("plank_row", 1), ("deep_squat_twist", 2), ("straight_leg_hop_hinge", 2), ("crawling", 2),
    ("wide_dumbbell_squat", 0),
)  # fmt: skip
SHEET, OUTCOME = f"/block/?week={TODAY}", "/block/11/outcome"  # of eleven weeks, two seasons behind it
AIMS_MS = {  # 100 for the others; the pack is asked for once in minutes, the pulse every second
    "/": 60, "/floor/pack": 500, "/floor/pulse": 10, "/season/": 150, "/season/trained": 150, OUTCOME: 150, SHEET: 60,
}  # fmt: skip
REPORT = Path("docs/benchmarks.md")


def generate(database: Database) -> None:
    """Squads of 60 and their history. Only the first squad has a current block, planned as a coach would."""
    with database.writing() as db:
        for number in range(-(-ATHLETES // SQUAD_SIZE)):
            _squad(db, number)
    with database.writing() as db:
        _history(db)
    with database.writing() as db:  # of the squad that is looked at; the others are only in the way
        for athlete_id in db.scalars(select(Athlete.id).where(Athlete.squad_id == 1)):
            bring_all_up_to_date(db, athlete_id, Rules())
    with database.writing() as db:
        actor = Actor(1, 1, dt.datetime.combine(TODAY - dt.timedelta(days=1), dt.time(20)))
        exercises = tuple(ExerciseFacts(day, code, "wave", {}) for day, code in LIFTS)
        exercises += tuple(
            ExerciseFacts(0, code, "window", {"sets": 2}, superset=superset) for code, superset in BESIDE
        )
        season = DaySpan(TODAY - dt.timedelta(weeks=10), 40)
        facts = BlockFacts("Now", TODAY - dt.timedelta(weeks=1), 12, True, exercises)
        publish(WorkContext(db, actor), create_block(WorkContext(db, actor), facts, season).id)
    database.settle()


def _squad(db: Session, number: int) -> None:
    squad = Squad(club=f"Club {number}", name="team")
    db.add(squad)
    db.flush()
    user = add_person(
        db,
        sign_in=f"coach{number}",
        name=f"Coach {number}",
        password="long enough",
        squad_id=squad.id,
        role=Role.COACH,
        cost=1,
    )
    db.flush()
    season = Season(squad_id=squad.id, name="now", first_week=TODAY - dt.timedelta(weeks=10), weeks=40)
    db.add(season)
    db.flush()
    db.add_all(Match(season_id=season.id, played_on=TODAY + dt.timedelta(days=5, weeks=n)) for n in range(-8, 20))
    actor = Actor(user.id, squad.id, dt.datetime.combine(FIRST, dt.time(8)))
    plates = tuple(PlateFacts(Decimal(mass), pairs, 450) for mass, pairs in PLATES)
    save_room(
        WorkContext(db, actor), RoomFacts("Room", Unit.KG, Decimal(0), 8, (BarFacts("b", "Bar", Decimal(20)),), plates)
    )
    for n in range(min(SQUAD_SIZE, ATHLETES - number * SQUAD_SIZE)):
        athlete = Athlete(
            squad_id=squad.id, name=f"Athlete {number}-{n:02}", born_on=dt.date(2000, 1, 1), by_id=user.id, at=actor.now
        )
        db.add(athlete)
        db.flush()
        signed = {"athlete_id": athlete.id, "by_id": user.id, "at": actor.now}
        db.add(BodyMass(measured_on=FIRST, mass_kg=Decimal(70), **signed))
        db.add_all(ScreenResult(screen=code, value=value, done_on=FIRST, **signed) for code, value in PASSED.items())
        due = TODAY + dt.timedelta(weeks=10)
        db.add(Milestone(movement="back_squat", kind="body_masses", amount=Decimal("1.6"), due_on=due, **signed))


def _history(db: Session) -> None:
    """Every athlete's three seasons: blocks of eleven weeks, a cell a week and lift, four sets each."""
    chance, moment = random.Random(1), dt.datetime.combine(FIRST, dt.time(18))
    squads = list(db.scalars(select(Squad.id).order_by(Squad.id)))
    for squad_id in squads:
        athletes = list(db.scalars(select(Athlete.id).where(Athlete.squad_id == squad_id)))
        strength = {athlete_id: chance.uniform(60, 150) for athlete_id in athletes}
        for first in range(0, SEASONS * WEEKS - 7, BLOCK_WEEKS):
            start = FIRST + dt.timedelta(weeks=first)
            weeks = min(BLOCK_WEEKS, SEASONS * WEEKS - 7 - first)
            block = Block(
                squad_id=squad_id, name=f"Block {first}", first_week=start, weeks=weeks, by_id=squad_id, at=moment
            )
            block.every_exercise = [
                Exercise(position=n, session=session_on(block, day), movement=code, progression="wave", parameters={})
                for n, (day, code) in enumerate(LIFTS)
            ]
            db.add(block)
            db.flush()
            arrange(db, block, start)
            for exercise in block.exercises:
                _weeks_of_sets(db, exercise, start, weeks, athletes, strength, chance, squad_id, moment)


def _weeks_of_sets(
    db: Session,
    exercise: Exercise,
    start: dt.date,
    weeks: int,
    athletes: list[int],
    strength: dict[int, float],
    chance: random.Random,
    by_id: int,
    moment: dt.datetime,
) -> None:
    cells: list[dict[str, Any]] = []
    for athlete_id in athletes:
        for week in range(weeks):
            load = 2.5 * round(strength[athlete_id] * (1 + week / 600) * 0.78 / 2.5)
            cells.append(
                {
                    "exercise_id": exercise.id,
                    "athlete_id": athlete_id,
                    "week": week,
                    "kind": "work",
                    "wave": week // 4,
                    "sets": SETS,
                    "reps": 6,
                    "reserve_reps": 2,
                    "state": "load",
                    "bar": "b",
                    "load_amount": Decimal(str(load)),
                    "load_unit": "kg",
                    "load_kg": load,
                    "side": [],
                    "planning_max_kg": load * 1.26,
                    "estimate_kg": load * 1.26,
                    "cap_kg": load * 1.1,
                    "over_cap": False,
                    "held": False,
                    "origin": "plan",
                    "inputs": {},
                    "working": [],
                    "current": True,
                    "live": True,
                    "by_id": by_id,
                    "at": moment,
                }
            )
    ids: list[int] = []
    for n in range(0, len(cells), CHUNK):
        ids += db.scalars(insert(Cell).returning(Cell.id, sort_by_parameter_order=True), cells[n : n + CHUNK])
    entries: list[dict[str, Any]] = []
    for cell_id, cell in zip(ids, cells, strict=True):
        day = start + dt.timedelta(weeks=cell["week"], days=exercise.weekday)
        for number in range(1, SETS + 1):
            left = chance.randint(1, 4)
            entries.append(
                {
                    "client_id": str(UUID(int=chance.getrandbits(128))),
                    "athlete_id": cell["athlete_id"],
                    "movement": exercise.movement,
                    "family": "squat" if exercise.movement == "back_squat" else "hinge",
                    "done_on": day,
                    "cell_id": cell_id,
                    "effort": "work",
                    "set_number": number,
                    "load_amount": cell["load_amount"],
                    "load_unit": "kg",
                    "load_kg": cell["load_kg"],
                    "reps": 6,
                    "reps_to_depth": 6,
                    "depth_standard": "hip_below_knee",
                    "reserve_reps": left,
                    "fault": "",
                    "fault_breaking": False,
                    "pain": 0,
                    "pain_region": "",
                    "pain_character": "",
                    "estimate_kg": cell["load_kg"] * (1 + (6 + left) / 30),
                    "trust": 2,
                    "firm": True,
                    "withdrawn": False,
                    "standing": True,
                    "by_id": by_id,
                    "at": moment,
                }
            )
    for n in range(0, len(entries), CHUNK):
        db.execute(insert(SetEntry), entries[n : n + CHUNK])


@contextmanager
def statements(app: Flask) -> Iterator[list[tuple[str, Any]]]:
    """Collects what a request sends to the database."""
    sent: list[tuple[str, Any]] = []

    def keep(_c: Any, _k: Any, statement: str, parameters: Any, _x: Any, _many: Any) -> None:
        if statement.lstrip().upper().startswith(("SELECT", "WITH")):
            sent.append((statement, parameters))

    engine = app.extensions["database"].engine
    event.listen(engine, "before_cursor_execute", keep)
    try:
        yield sent
    finally:
        event.remove(engine, "before_cursor_execute", keep)


def bare(path: Path, sent: list[tuple[str, Any]]) -> Callable[[], object]:
    connection = sqlite3.connect(path)
    return lambda: [connection.execute(statement, parameters).fetchall() for statement, parameters in sent]


def measure(app: Flask, client: FlaskClient, path: Path) -> list[tuple[str, float, float, str, str]]:
    rows = []
    taken = middle_and_high(timed(core_block(), 10))
    rows.append(("Core: plan 60 athletes × 12 weeks × 2 lifts", *taken, "–", "300"))
    rows.append(("Core: one estimate, a session of four sets", *middle_and_high(timed(core_belief(), 200)), "–", "2"))
    rows.append(("Core: time and findings of a session of ten", *middle_and_high(timed(core_session(), 200)), "–", "5"))
    pages = {
        "Squad, 60 athletes": "/",
        "Sheet, 60 × 12": SHEET,
        "Session of seven, 60 athletes": "/session/",
        "Floor, 60 athletes on 8 racks, seven items": "/floor/",
        "What a device takes along, 60 athletes": "/floor/pack",
        "Whether anything has changed": "/floor/pulse",
        "Athlete, 3 seasons of logs": "/athletes/1",
        "Season, with the chosen week": "/season/",
        "Who trained, 60 athletes": "/season/trained",
        "What came of a block, 60 athletes": OUTCOME,
        "Movements, map and list": "/movements/",
        "Screens due, 60 athletes": "/screen/",
        "One screen down 60 athletes": "/screen/squad/balance",
        "Readiness checks and ladders": "/ladders/1",
        "Health list, 60 athletes": "/health-list/",
    }
    rows += log_sets(app, client, TODAY, SQUAD_SIZE)
    training = Training(app, client, TODAY)
    for name, address in pages.items():
        assert client.get(address).status_code == 200
        training.set_or_back()
        with statements(app) as sent:
            client.get(address)
        page = partial(client.get, address)
        half, high = middle_and_high(timed(page, 40, training.set_or_back))
        sql = statistics.median(timed(bare(path, list(sent)), 40))
        aim = AIMS_MS.get(address, 100)
        rows.append((name, half, high, f"{half / sql:.1f} ({sql:.1f} ms, {len(sent)} statements)", f"{aim}"))
    return rows


def report(rows: list[tuple[str, float, float, str, str]], clients: Sequence[str], made_s: float, sets: int) -> str:
    lines = [
        "# Benchmarks",
        "",
        "Written by `make bench`; run it again after a change that could cost time.",
        "",
        f"Python {platform.python_version()}, {os.cpu_count()} cores. {ATHLETES:,} athletes, {SEASONS} seasons, "
        f"{sets:,} set rows (made in {made_s:.0f} s). Pages through the application without a network, one at a time; "
        "each after a set was logged; ratio to the page's own SQL replayed on the bare driver.",
        "",
        "| what | median, ms | 95th percentile, ms | ratio to bare SQL | aim, ms | |",
        "|---|---:|---:|---:|---:|---|",
    ]
    for name, half, high, ratio, aim in rows:
        verdict = "" if aim == "–" else "met" if high <= float(aim) else "met at the median"
        if aim != "–" and half > float(aim):
            verdict = "**not met**"
        lines.append(f"| {name} | {half:.1f} | {high:.1f} | {ratio} | {aim} | {verdict} |")
    lines += ["", "Over HTTP, on the served application with two cores for server and devices together:", "", *clients]
    return "\n".join(lines) + "\n"


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "backsquat.sqlite3"
        migrate(path)
        database = Database(path)
        print("Making 1,000 athletes, 3 seasons, 1,000,000 sets ...", flush=True)
        start = time.perf_counter()
        generate(database)
        made_s = time.perf_counter() - start
        with database.reader() as db:
            sets = db.connection().exec_driver_sql("SELECT count(*) FROM set_entries").scalar_one()
        database.close()
        app = create_app(Config(Path(folder), demo=True, testing=True, fixed_day=TODAY, hash_cost=1))
        app.config["WTF_CSRF_ENABLED"] = False
        client = app.test_client()
        client.post("/demo-sign-in/1")
        gc.collect()
        gc.freeze()  # as `serve` does
        rows = measure(app, client, path)
        app.extensions["database"].close()
        text = report(rows, measure_clients(Path(folder), str(TODAY)), made_s, sets)
    before = REPORT.read_text("utf-8") if REPORT.exists() else ""
    notes = before[before.index("## ") :] if "## " in before else ""
    REPORT.write_text(text + ("\n" + notes if notes else ""), "utf-8")
    print(text)


if __name__ == "__main__":
    main()
