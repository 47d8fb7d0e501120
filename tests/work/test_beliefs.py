"""What is believed is kept a row a day: always what all the standing sets say, however they came in or went."""

import datetime as dt
from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from uuid import uuid4

import pytest

from backsquat.core.loads.mass import Unit
from backsquat.core.readiness.absence import start_share
from backsquat.core.rules import Rules
from backsquat.core.strength.current import CurrentValue, current_estimate
from backsquat.storage.convert import record_from_row
from backsquat.storage.database import Database
from backsquat.storage.models import Athlete, BeliefDay, BodyMass, SetEntry
from backsquat.work.context import WorkContext
from backsquat.work.log.estimates import current_values, estimates
from backsquat.work.log.recount import change_rule, recount
from backsquat.work.plan.chances import Chances
from backsquat.work.record.depth import choose_depth
from backsquat.work.record.outside import correct_test, log_test, withdraw_test
from backsquat.work.record.record import SetFacts
from tests.work.nothing import ACTOR, TODAY, from_nothing

RULES, SQUAT = Rules(), "back_squat"


@pytest.fixture
def database(tmp_path: Path) -> Iterator[Database]:
    database = from_nothing(tmp_path)
    yield database
    database.close()


def facts(load: int, days_ago: int = 0, **changes: object) -> SetFacts:
    values = {"client_id": str(uuid4()), "load": Decimal(load), "unit": Unit.KG, "reps": 5, "reps_to_depth": 5}
    values |= {"reserve_reps": 1, "done_on": TODAY - dt.timedelta(days=days_ago)} | changes
    return SetFacts(**values)  # type: ignore[arg-type]


def log(database: Database, load: int, days_ago: int = 0, **changes: object) -> int:
    with database.writing() as db:
        return log_test(WorkContext(db, ACTOR), 1, SQUAT, facts(load, days_ago, **changes)).entry.id


def kept(database: Database, today: dt.date = TODAY) -> CurrentValue:
    with database.reader() as db:
        return current_values(db, [1], SQUAT, today, RULES)[1]


def replayed(database: Database, today: dt.date = TODAY) -> CurrentValue:
    """From nothing but the standing sets."""
    with database.reader() as db:
        rows = db.query(SetEntry).where(SetEntry.standing, SetEntry.movement == SQUAT)
        found = current_estimate([record_from_row(row) for row in rows], today, RULES)
    assert found is not None
    return found.value


def agrees(database: Database) -> None:
    for age in (0, 3, 10, 20):
        day = TODAY - dt.timedelta(days=age)
        now, again = kept(database, day), replayed(database, day)
        assert now.max_kg == pytest.approx(again.max_kg) and now.spread == pytest.approx(again.spread)


def test_sets_may_come_in_any_order_be_corrected_and_taken_back(database: Database) -> None:
    log(database, 100, 30)
    log(database, 110, 2)
    agrees(database)
    late = log(database, 105, 20)
    log(database, 105, 20, reserve_reps=None)
    agrees(database)
    before = kept(database).max_kg
    with database.writing() as db:
        fixed = correct_test(WorkContext(db, ACTOR), 1, late, facts(90, 8)).entry.id
    agrees(database)
    assert kept(database).max_kg < before
    with database.writing() as db:
        withdraw_test(WorkContext(db, ACTOR), 1, fixed)
    agrees(database)
    with database.reader() as db:
        days = [row.done_on for row in db.query(BeliefDay).order_by(BeliefDay.done_on)]
    assert days == [TODAY - dt.timedelta(days=age) for age in (30, 20, 2)], "no row of a day without sets stays"


def test_another_depth_standard_begins_a_new_line_and_a_changed_rule_makes_all_again(database: Database) -> None:
    log(database, 100, 10)
    with database.writing() as db:
        choose_depth(WorkContext(db, ACTOR), 1, SQUAT, "thigh_level", None)
        assert current_values(db, [1], SQUAT, TODAY, RULES) == {}
    log(database, 120)
    assert kept(database).max_kg == pytest.approx(144, abs=0.2)
    with database.writing() as db:
        change_rule(WorkContext(db, ACTOR), "formula", "brzycki")
    recount(database, 1)
    assert kept(database).max_kg == pytest.approx(120 * 36 / 31, abs=0.2)


def test_the_working_says_which_days_counted_how_much(database: Database) -> None:
    for days_ago, load in ((40, 90), (20, 100), (10, 100), (1, 102)):
        log(database, load, days_ago)
    with database.reader() as db:
        found = estimates(db, [1], SQUAT, TODAY, RULES)[1]
        plain = estimates(db, [1], SQUAT, TODAY, Rules(estimator="plain"))[1]
    codes = [step.code for step in found.working.steps]
    assert codes == ["counted_day"] * 3 + ["belief"]
    shares = [float(step.facts["share"]) for step in found.working.steps[:3]]
    assert sum(shares) == pytest.approx(1, abs=0.15) and shares[-1] == max(shares)
    assert found.value.low_kg < found.max_kg < found.value.high_kg
    assert [step.code for step in plain.working.steps] == ["logged_set", "current_estimate"]
    assert plain.max_kg == pytest.approx(120.9, abs=0.5)


def test_of_the_day_of_another_standard_only_that_days_sets_count(database: Database) -> None:
    log(database, 100, 10)
    log(database, 120)
    assert kept(database).max_kg < 140
    with database.writing() as db:
        choose_depth(WorkContext(db, ACTOR), 1, SQUAT, "thigh_level", None)
    assert kept(database).max_kg == pytest.approx(144, abs=0.2)


def test_what_is_seldom_is_the_squads_own_rule(database: Database) -> None:
    log(database, 100)
    with database.reader() as db:
        athletes = [db.get_one(Athlete, 1)]
        for agreed, seldom in ((0.95, True), (0.5, False)):
            rules = Rules(chance_work=agreed)
            likely = Chances.of(db, athletes, SQUAT, TODAY, rules).on(1, TODAY, 97.5, 3, 5)
            assert likely and 0.5 < likely.chance < 0.94 and likely.seldom is seldom
        usual = Chances.of(db, athletes, SQUAT, TODAY, RULES)
        assert usual.on(1, TODAY - dt.timedelta(days=1), 97.5, 3, 5) is None, "what is past has no chance"
        assert usual.on(2, TODAY, 97.5, 3, 5) is None, "nothing is known"


def test_time_without_training_lowers_a_maximum_and_a_lift_rotated_out_loses_nothing(database: Database) -> None:
    log(database, 100)
    before, later = kept(database), TODAY + dt.timedelta(days=60)
    after = kept(database, later)
    share = start_share(60, RULES)
    assert share < 0.9 and after.away_days == 60
    assert after.today_kg == pytest.approx(after.max_kg * share, rel=0.001) and after.today_kg < before.today_kg
    assert after.low_kg < after.today_kg < after.high_kg
    assert kept(database, TODAY + dt.timedelta(days=7)).away_days == 0
    with database.reader() as db:
        assert estimates(db, [1], SQUAT, later, RULES)[1].today_kg == after.today_kg
    trained = replace(ACTOR, now=ACTOR.now + dt.timedelta(days=60))
    with database.writing() as db:
        log_test(WorkContext(db, trained), 1, "romanian_deadlift", replace(facts(60), done_on=later))
    assert kept(database, later).today_kg == kept(database, later).max_kg


def test_a_loaded_movement_done_without_a_load_says_nothing_of_a_maximum(database: Database) -> None:
    with database.writing() as db:
        lunge = log_test(WorkContext(db, ACTOR), 1, "reverse_lunge_loaded", facts(0, reps=8, reps_to_depth=8)).entry
        db.add(BodyMass(athlete_id=1, measured_on=TODAY, mass_kg=Decimal(70), by_id=1, at=ACTOR.now))
        db.flush()
        own_weight = log_test(WorkContext(db, ACTOR), 1, "split_squat", facts(0, reps=8, reps_to_depth=8)).entry
        assert lunge.estimate_kg is None and own_weight.estimate_kg is not None
    with database.reader() as db:
        assert current_values(db, [1], "reverse_lunge_loaded", TODAY, RULES) == {}
