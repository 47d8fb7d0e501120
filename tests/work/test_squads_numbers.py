"""Numbers a squad may set itself are the ones used: each on its exact border, and moved by a squad's own."""

import datetime as dt
from dataclasses import replace

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from backsquat.core.rules import Rules
from backsquat.core.sessions.running import ActKind
from backsquat.storage.models import Athlete, Block, ScreenResult, SessionAct, SetEntry, Squad
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.overview.attendance import Came, attendance
from backsquat.work.overview.outcome import outcome
from backsquat.work.plan.chances import ROUNDED, Chances, SetChance
from backsquat.work.plan.days import WeekSession, _held
from backsquat.work.plan.timed import timed
from backsquat.work.record.floor import say_reserve
from backsquat.work.season.evidence import planned_sessions
from backsquat.work.sessions.acts import shelf
from backsquat.work.squad.context import SquadContext, context_of
from tests.demo_club import athlete_id, live_cell, reading
from tests.factories import TODAY

RULES = Rules()


def seen_by(db: Session, rules: Rules) -> SquadContext:
    return context_of(db, db.get_one(Squad, 1), rules, TODAY, None)


@pytest.mark.parametrize("share", [0.1, 0.5, 1.0])
def test_a_session_is_done_in_part_under_the_squads_share_of_its_work(app: Flask, share: float) -> None:
    with reading(app) as db:
        here = seen_by(db, replace(RULES, part_share=share))
        everybody = attendance(db, here)
        ids = [one.athlete.id for one in everybody]
        made = [
            one.made / one.work
            for one in planned_sessions(db, 1, ids, here.season.first_week, TODAY)
            if one.made and one.work
        ]
        in_part = sum(came is Came.PART for one in everybody for week in one.weeks.values() for came in week)
    assert in_part == sum(one < share for one in made)
    assert any(one < 1.0 for one in made), "else nothing is proven"


@pytest.mark.parametrize(("days", "counts"), [(56, True), (57, False)])
def test_a_jump_opens_a_block_while_it_is_no_older_than_the_squad_says(app: Flask, days: int, counts: bool) -> None:
    with app.extensions["database"].writing() as db:
        block = db.scalars(select(Block).where(Block.name == "Autumn wave")).one()
        db.execute(update(ScreenResult).where(ScreenResult.screen == "jump").values(replaced=True))
        for day in (block.first_week - dt.timedelta(days=days), block.first_week + dt.timedelta(days=30)):
            about = {"screen": "jump", "side": "", "note": "", "by_id": 1, "at": dt.datetime.combine(day, dt.time(9))}
            db.add(ScreenResult(athlete_id=1, value=30.0, done_on=day, **about))
        db.flush()
        tests = outcome(db, seen_by(db, RULES), block).tests
    assert ("jump" in {one.screen.code for one in tests}) is counts


def test_where_plenty_is_left_the_sheet_takes_a_set_as_made(app: Flask) -> None:
    """What the squad calls plenty decides it; under it, or where the chance itself is asked, it is worked out."""
    with reading(app) as db:
        marit = db.get_one(Athlete, athlete_id(app, "Marit Holm"))
        chances = Chances.of(db, [marit], "back_squat", TODAY, RULES)
        asked = (marit.id, TODAY, 90.0, 4, 4)
        left = chances.values[marit.id].known.left(
            90.0 + chances.values[marit.id].carried_kg, 4, 0, RULES.gain_trained, RULES
        )
        found = {
            plenty: replace(chances, rules=replace(RULES, plenty_reserve=plenty)).on(*asked, only_seldom=True)
            for plenty in (left, left + 0.01)
        }
        truly = chances.on(*asked)
    assert truly and 0.5 < truly.chance < 1
    assert [one.chance for one in found.values() if one] == [1.0, truly.chance]
    assert truly.seldom is (truly.chance < RULES.chance_work - ROUNDED)


@pytest.mark.parametrize(("left", "said"), [(0, True), (1, False), (2, False), (3, False), (4, True)])
def test_what_a_load_leaves_is_said_where_it_is_off_by_what_the_squad_says(left: int, said: bool) -> None:
    assert SetChance(0.9, left, False, RULES.off_reserve).off(2) is said
    assert not SetChance(0.9, left, False, 3).off(2)


def test_the_sheet_says_what_is_off_by_the_squads_number(app: Flask) -> None:
    with reading(app) as db:
        marit = db.get_one(Athlete, athlete_id(app, "Marit Holm"))
        for off in (1, 5):
            chances = Chances.of(db, [marit], "back_squat", TODAY, replace(RULES, off_reserve=off))
            found = chances.on(marit.id, TODAY, 90.0, 4, 4)
            assert found and found.off_from == off


@pytest.mark.parametrize(("days", "offered"), [(28, True), (29, False)])
def test_skipped_work_waits_for_as_many_days_as_the_squad_says(app: Flask, days: int, offered: bool) -> None:
    with app.extensions["database"].writing() as db:
        db.execute(update(SessionAct).values(taken_back=True))
        day = TODAY - dt.timedelta(days=days)
        about = {"athlete_id": 1, "session_id": 1, "week": 0, "facts": {}, "by_id": 1, "what": ActKind.SKIPPED}
        db.add(SessionAct(done_on=day, at=dt.datetime.combine(day, dt.time(18)), **about))
        db.flush()
        assert bool(shelf(db, [1], TODAY, RULES)) is offered
        assert not shelf(db, [1], TODAY, replace(RULES, shelf_days=days - 1))


@pytest.mark.parametrize(("more_from", "said"), [(2, True), (3, True), (4, False)])
def test_so_many_or_more_begins_where_the_squad_says(
    app: Flask, client: FlaskClient, more_from: int, said: bool
) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    data = {"client_id": "said", "load": str(cell.load_amount), "reps": "4", "pain_character": "dull"}
    assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 302
    with app.extensions["database"].writing() as db:
        actor = Actor(1, 1, dt.datetime.combine(TODAY, dt.time(18)))
        entry = db.scalars(select(SetEntry).where(SetEntry.cell_id == cell.id, SetEntry.standing)).one()
        rules = replace(RULES, reserve_or_more=more_from)
        assert say_reserve(WorkContext(db, actor, rules), entry.id, 3, "left").entry.reserve_at_least is said


def test_a_rack_is_shared_by_no_more_than_the_squad_says(app: Flask) -> None:
    with reading(app) as db:
        block = db.scalars(select(Block).where(Block.name == "November wave")).one()
        found = {}
        for most in (1, 3, 10):
            plan = timed(db, block, block.sessions[0], 2, TODAY, replace(RULES, rack_most=most))
            found[most] = max(line.item.sharing for line in plan.lines)
    assert found[1] == 1 and 1 < found[3] <= 3 and found[3] <= found[10]


def test_a_session_in_which_nothing_is_loaded_weighs_as_bare_work_does(app: Flask) -> None:
    with reading(app) as db:
        held = db.scalars(select(Block).where(Block.name == "November wave")).one().sessions[0]
        bare, loaded = (
            WeekSession(held, held.days[2], (), sets=10, share=share, begun=False, light=False) for share in (0.0, 0.8)
        )
        rules = replace(RULES, unloaded_relative=0.6)
        assert (_held(bare, TODAY, rules).weight, _held(loaded, TODAY, rules).weight) == (6.0, 8.0)
