"""The demo club is the same every time and has something true to show on every view; commands say what is wrong."""

import os
import re
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select

from backsquat.cli import run
from backsquat.config import DEMO_DAY
from backsquat.core.progression.cell import State
from backsquat.core.progression.decision import Code
from backsquat.core.readiness.checklist import age_years
from backsquat.library.shelf import movements
from backsquat.storage.models import Answer, Athlete, Cell, DecisionRow, Exercise, SetEntry, Stop
from backsquat.ui.phrases.decisions import REASONS, WOULD_CHANGE
from backsquat.work.context import library_of
from tests.demo_club import reading
from tests.served import answer

ROOT = Path(__file__).parents[2]


def test_the_squad_is_mixed_and_half_a_season_is_logged(app: Flask) -> None:
    with reading(app) as db:
        athletes = list(db.scalars(select(Athlete)))
        assert 16 <= len(athletes) <= 20
        assert sum(age_years(athlete.born_on, DEMO_DAY) < 18 for athlete in athletes) == 2
        first, last, sets = db.execute(
            select(func.min(SetEntry.done_on), func.max(SetEntry.done_on), func.count())
        ).one()
        assert (last - first).days > 130 and sets > 1200 and last < DEMO_DAY
        states = set(db.scalars(select(Cell.state).where(Cell.current)))
        assert {State.LOAD.value, State.NEEDS_TEST.value, State.NOT_READY.value, State.UNDER_BAR.value} <= states
        codes = set(db.scalars(select(DecisionRow.code)))
        assert {Code.UP, Code.STAY, Code.DOWN, Code.STOP} <= codes
        assert db.scalar(select(func.count()).where(DecisionRow.settled.is_(False))) == 3
        assert db.scalar(select(func.count()).select_from(Stop)) == 1
        assert db.scalar(select(func.count()).where(Answer.accepted.is_(False)))


def test_no_demo_load_is_over_its_cap_unless_marked_and_none_runs_away(app: Flask) -> None:
    with reading(app) as db:
        for cell in db.scalars(select(Cell).where(Cell.load_kg.is_not(None))):
            assert cell.over_cap or cell.cap_kg is None or cell.load_kg <= cell.cap_kg + 1e-6  # type: ignore[operator]
        first, last = (
            dict(
                db.execute(  # type: ignore[arg-type]
                    select(Cell.athlete_id, func.avg(Cell.load_kg))
                    .where(Cell.exercise_id == exercise, Cell.live, Cell.load_kg.is_not(None), Cell.kind == "work")
                    .group_by(Cell.athlete_id)
                ).all()
            )
            for exercise in (1, 5)
        )
        for athlete_id in first.keys() & last.keys():
            assert 0.85 < last[athlete_id] / first[athlete_id] < 1.25, athlete_id


def test_every_decision_ever_made_can_be_said(app: Flask) -> None:
    from backsquat.ui.phrases.decisions import sentence

    with reading(app) as db:
        for row in db.scalars(select(DecisionRow)):
            words = sentence(row.code, row.reason, row.facts, row.following, row.movement, library_of(db, 1))
            assert words and "{" not in words and "None" not in words
            assert row.would_change in WOULD_CHANGE
    assert set(REASONS) >= {"pain_again", "readiness_check_open", "depth_lost", "top_just"}


Inside = Callable[..., "subprocess.CompletedProcess[str]"]


@pytest.fixture
def inside(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> Inside:
    """The same command in this process, which is seconds quicker than starting one."""
    monkeypatch.setenv("BACKSQUAT_DATA", str(tmp_path))

    def go(*arguments: str) -> "subprocess.CompletedProcess[str]":
        monkeypatch.setattr(sys, "argv", ["backsquat", *arguments])
        code, words = 0, ""
        try:
            run()
        except SystemExit as end:  # a text is written to stderr by Python itself
            code, words = (end.code, "") if isinstance(end.code, int) else (1, str(end.code))
        said = capsys.readouterr()
        return subprocess.CompletedProcess(arguments, code, said.out, said.err + words)

    return go


def said_in_one_sentence(run: subprocess.CompletedProcess[str], words: str) -> None:
    assert run.returncode != 0
    assert words in run.stderr
    assert "Traceback" not in run.stderr and len(run.stderr.strip().splitlines()) == 1


def test_a_busy_port_is_said_in_one_sentence(inside: Inside) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        said_in_one_sentence(inside("demo", "--port", port), f"port {port} is already in use")


def test_a_folder_that_cannot_be_written_is_said_in_one_sentence(
    tmp_path: Path, inside: Inside, monkeypatch: pytest.MonkeyPatch
) -> None:
    blocked = tmp_path / "file"
    blocked.write_text("in the way")
    monkeypatch.setenv("BACKSQUAT_DATA", str(blocked / "inside"))
    said_in_one_sentence(inside("demo-reset"), "cannot be written to")


def test_a_broken_data_file_is_said_in_one_sentence(tmp_path: Path, inside: Inside) -> None:
    (tmp_path / "backsquat.sqlite3").write_text("no database " * 200)
    said_in_one_sentence(inside("serve", "--port", "8911"), "is no database; restore a backup")


def test_own_data_get_a_squad_by_command_and_people(tmp_path: Path, inside: Inside) -> None:
    squad = ("new-squad", "--club", "C", "--squad", "s", "--coach", "A. Coach", "--sign-in", "a")
    said_in_one_sentence(
        inside(*squad, "--first-week", "2026-07-07", "--password", "long enough"), "starts on a Monday"
    )
    said_in_one_sentence(inside(*squad, "--first-week", "2026-07-06", "--password", "short"), "at least 10 characters")
    made = inside(*squad, "--first-week", "2026-07-06", "--password", "long enough")
    assert made.returncode == 0, made.stderr
    assert "squad number 1" in made.stdout and "add-person --squad 1" in made.stdout
    person = ("add-person", "--role", "physio", "--name", "P. Hysio", "--password", "long enough")
    said_in_one_sentence(inside(*person, "--squad", "9", "--sign-in", "p"), "no squad number 9; there is 1 (C, s)")
    nameless = ("add-person", "--role", "physio", "--name", "  ", "--password", "long enough", "--squad", "1")
    said_in_one_sentence(inside(*nameless, "--sign-in", "p"), "--name is empty")
    said_in_one_sentence(inside(*person, "--squad", "1", "--sign-in", "a"), "already")
    added = inside(*person, "--squad", "1", "--sign-in", "p")
    assert added.returncode == 0 and "P. Hysio may sign in as p, physio." in added.stdout


@pytest.mark.parametrize(
    "path",
    [
        "/",
        "/room/",
        "/block/",
        "/floor/",
        "/review/",
        "/screen/",
        "/movements/",
        "/movements/choose",
        "/health-list/",
        "/screen/squad/brace",
    ],
)
def test_an_empty_squad_says_what_each_page_is_for(tmp_path: Path, path: str) -> None:
    from backsquat import create_app
    from backsquat.config import Config
    from backsquat.storage.database import Database
    from backsquat.storage.migrate import migrate
    from tests.demo_club import other_squad

    migrate(tmp_path / "backsquat.sqlite3")
    app = create_app(Config(tmp_path, testing=True, fixed_day=DEMO_DAY, hash_cost=1))
    app.config["WTF_CSRF_ENABLED"] = False
    other_squad(app)
    with app.extensions["database"].writing() as db:
        db.connection().exec_driver_sql("UPDATE athletes SET active = 0")
    client = app.test_client()
    client.post("/sign-in", data={"sign_in": "other", "password": "long enough"})
    page = client.get(path).text
    assert any(
        words in page
        for words in (
            "Nobody here yet",
            "Bars and plates first",
            "A block is some weeks",
            "uses published blocks",
            "Nothing waits",
            "Nobody in the squad yet",
            f"{len(movements())} of {len(movements())} movements",
            "Add an athlete first",
            "Nobody is stopped",
        )
    )
    assert isinstance(app.extensions["database"], Database)
    app.extensions["database"].close()


def test_the_demo_starts_serves_and_keeps_what_was_entered(demo_file: Path, tmp_path: Path) -> None:
    (tmp_path / "backsquat.sqlite3").write_bytes(demo_file.read_bytes())
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    settings = os.environ | {"BACKSQUAT_DATA": str(tmp_path), "PYTHONPATH": str(ROOT / "src")}
    server = subprocess.Popen(
        [sys.executable, "-m", "backsquat", "demo", "--port", str(port)],
        env=settings,
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert server.stdout is not None
        said = [server.stdout.readline() for _ in range(4)]
        assert f"http://127.0.0.1:{port}/" in "".join(said) and "amari" in "".join(said)
        assert answer(server, f"http://127.0.0.1:{port}/health")[0] == 200
    finally:
        server.terminate()
        server.wait(10)
        server.stdout.close()  # type: ignore[union-attr]
    post = re.search(r"shows at http://127.0.0.1:(\d+)/", "".join(said))
    assert post
    for _ in range(50):  # what was started beside it ends with it
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", int(post[1]))):
                break
        time.sleep(0.1)
    else:
        pytest.fail("the stand-in for the post goes on alone")


def test_a_week_of_flu_is_seen_where_a_coach_looks_for_it(app: Flask, client: FlaskClient) -> None:
    """Five ill last week: away, nothing missed, eased on their first day back."""
    ill = {"Kaja Brandt", "Suri Valdez", "Oona Lachlan", "Wren Achterberg", "Elsbeth Oyelaran"}
    trained = client.get("/season/trained").text
    for name in ill:
        row = trained.split(f">{name}</a>")[1].split("</tr>")[0]
        assert row.count("away") >= 2, name
    review = client.get("/review/").text
    assert "was planned and logged nothing" in review and not any(f"{name} was planned" in review for name in ill)
    with reading(app) as db:
        squat = select(Cell.load_kg, Cell.sets).join(Exercise).join(Athlete, Athlete.id == Cell.athlete_id)
        squat = squat.where(Exercise.movement == "back_squat", Exercise.block_id == 3, Cell.live)
        eased = {}
        for name in ill:
            weeks = db.execute(squat.where(Athlete.name == name, Cell.week.in_([1, 2])).order_by(Cell.week)).all()
            eased[name] = weeks[1].sets < weeks[0].sets and (weeks[1].load_kg or 0) < (weeks[0].load_kg or 0) * 1.02
        assert eased.pop("Elsbeth Oyelaran") is False, "a week is short enough to go on"
        assert all(eased.values()), eased
