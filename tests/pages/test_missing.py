"""What keeps people from a block: told in one table, what the log shows settled with one click, the rest left alone."""

import datetime as dt
import re
from decimal import Decimal
from uuid import uuid4

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import delete, func, select, update

from backsquat.core.loads.mass import Unit
from backsquat.core.progression.cell import State
from backsquat.storage.models import (
    Athlete,
    Block,
    Cell,
    Exercise,
    LevelMove,
    ReadinessClearance,
    ScreenResult,
    SetEntry,
    Stop,
)
from backsquat.work.context import WorkContext
from backsquat.work.ladders.missing import Missing, MissingKind, missing_of
from backsquat.work.record.outside import log_test
from backsquat.work.record.record import SetFacts
from tests.demo_club import athlete_id, reading
from tests.pages.test_block_planner import plan
from tests.work.test_safety import ACTOR


def needs(app: Flask, block_id: int) -> list[Missing]:
    with reading(app) as db:
        return missing_of(WorkContext(db, ACTOR), db.get_one(Block, block_id))


def forget(app: Flask, one: int) -> None:
    """Nobody has screened, cleared or placed the athlete; what was lifted stays."""
    with app.extensions["database"].writing() as db:
        for table in (ScreenResult, ReadinessClearance, LevelMove):
            db.execute(delete(table).where(table.athlete_id == one))


def of(found: list[Missing], name: str) -> dict[tuple[MissingKind, str], Missing]:
    return {(need.kind, need.code): need for need in found if need.athlete.name == name}


def block_with(client: FlaskClient, app: Flask) -> int:
    return plan(
        client,
        app,
        ("0", "Back squat", "wave"),
        ("0", "Romanian deadlift", "fixed"),
        ("0", "Own level: Copenhagen plank", "ladder"),
    ).id


def test_what_the_log_shows_is_settled_with_one_click_and_undone_as_one(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, "Liv Aasen")
    forget(app, liv)
    block_id = block_with(client, app)
    page = client.get(f"/block/{block_id}/missing").text
    mine = of(needs(app, block_id), "Liv Aasen")
    assert (MissingKind.READY, "barbell") in mine
    placed = mine[MissingKind.LEVEL, "groin_plank"]
    assert placed.shown and placed.sure and "the gentlest level open here" in page
    answer = client.post(f"/block/{block_id}/missing", data={"need": [placed.key]}, follow_redirects=True).text
    assert "Settled for Liv Aasen" in answer
    with reading(app) as db:
        moves = db.scalars(
            select(LevelMove).where(LevelMove.athlete_id == liv, LevelMove.ladder == "groin_plank")
        ).all()
        assert [(move.movement, move.reason) for move in moves] == [(placed.shown.code, "gentlest")]
        states = db.scalars(
            select(Cell.state).join(Exercise).where(Cell.athlete_id == liv, Cell.current, Exercise.block_id == block_id)
            .where(Exercise.ladder == "groin_plank")
        ).all()  # fmt: skip
        assert set(states) == {State.LEVEL}
    assert (MissingKind.LEVEL, "groin_plank") not in of(needs(app, block_id), "Liv Aasen")
    found = re.findall(r'action="(/undo/\d+[^"]*)"', answer)
    assert "Undone" in client.post(found[-1], follow_redirects=True).text


def test_days_in_the_log_are_offered_with_their_number_and_ticked_once_they_prove_the_lift(
    app: Flask, client: FlaskClient
) -> None:
    liv = athlete_id(app, "Liv Aasen")
    forget(app, liv)
    with app.extensions["database"].writing() as db:
        context = WorkContext(db, ACTOR)
        db.execute(delete(SetEntry).where(SetEntry.athlete_id == liv))
        for days in (30, 20, 10):
            facts = SetFacts(str(uuid4()), Decimal(40), Unit.KG, 5, 5, 3, context.today - dt.timedelta(days=days))
            log_test(context, liv, "back_squat", facts)
        db.execute(update(SetEntry).where(SetEntry.athlete_id == liv).values(flags=["imported"]))  # from a list
    block_id = block_with(client, app)
    ready = of(needs(app, block_id), "Liv Aasen")[MissingKind.READY, "barbell"]
    assert ready.shown and (ready.shown.code, ready.days, ready.sure) == ("back_squat", 3, False)
    page = client.get(f"/block/{block_id}/missing").text
    assert "From the log: back squat on 3 days without pain or a fault" in page
    client.post(f"/block/{block_id}/missing", data={"need": [ready.key]})
    with reading(app) as db:
        cleared = db.scalars(select(ReadinessClearance).where(ReadinessClearance.athlete_id == liv)).one()
        assert cleared.readiness_check == "barbell" and "on 3 days" in cleared.reason
    assert (MissingKind.READY, "barbell") not in of(needs(app, block_id), "Liv Aasen")


def test_a_stop_and_a_missing_consent_are_never_offered(app: Flask, client: FlaskClient) -> None:
    block_id = block_with(client, app)
    found = needs(app, block_id)
    stopped, minor = of(found, "Beatriz Solheim"), of(found, "Alma Brekke")
    assert (MissingKind.STOPPED, "") in stopped and (MissingKind.READY, "barbell") not in stopped
    assert (MissingKind.CONSENT, "") in minor and (MissingKind.READY, "barbell") not in minor
    with reading(app) as db:
        before = db.scalar(select(func.count()).select_from(ReadinessClearance))
    ids = {name: athlete_id(app, name) for name in ("Beatriz Solheim", "Alma Brekke")}
    crafted = [f"{one}:{kind}" for one in ids.values() for kind in ("stopped:", "consent:", "ready:barbell")]
    assert client.post(f"/block/{block_id}/missing", data={"need": crafted}).status_code == 422
    with reading(app) as db:
        assert db.scalar(select(func.count()).select_from(ReadinessClearance)) == before
        assert db.scalar(select(func.count()).select_from(Stop).where(Stop.athlete_id == ids["Beatriz Solheim"]))


def test_nothing_ticked_is_said(app: Flask, client: FlaskClient) -> None:
    block_id = block_with(client, app)
    assert client.post(f"/block/{block_id}/missing").status_code == 422


def test_an_athlete_away_or_on_an_own_level_lacks_nothing(app: Flask, client: FlaskClient) -> None:
    block_id = plan(client, app, ("0", "Goblet squat", "window"), ("0", "Ball curl, two legs", "window")).id
    with reading(app) as db:
        everybody = {one.id for one in db.scalars(select(Athlete).where(Athlete.active))}
    found = needs(app, block_id)
    assert {need.athlete.id for need in found} < everybody
    assert all(need.kind in (MissingKind.STOPPED, MissingKind.CONSENT, MissingKind.LEVEL) for need in found)
