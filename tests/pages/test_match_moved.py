"""A match on another day, or not played: its weeks follow, and nothing the coach has said is overruled."""

import datetime as dt

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.cell import LIFTED
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.rules import Rules
from backsquat.storage.models import Cell, Match, SessionDay, Squad
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.plan.days import unfit_week
from backsquat.work.squad.context import context_of
from tests.demo_club import live_cell, reading, undo_of
from tests.season_week import HINGE_DAY, SQUAT_DAY, TWO_MATCHES, cells_of, change_day, day_row, fit


def move_match(app: Flask, client: FlaskClient, day: str, to: str) -> str:
    """A match dragged onto another day."""
    with reading(app) as db:
        match = db.scalars(select(Match).where(Match.played_on == dt.date.fromisoformat(day))).one()
    return client.post("/season/matches/move", data={"match": match.id, "to": to}, follow_redirects=True).text


def kinds_by_athlete(app: Flask, row: SessionDay) -> dict[int, set[ExposureKind]]:
    found: dict[int, set[ExposureKind]] = {}
    for cell in cells_of(app, row):
        if cell.state in LIFTED:
            found.setdefault(cell.athlete_id, set()).add(cell.kind)
    return found


def test_a_match_moved_takes_its_weeks_along_and_one_undo_brings_all_back(app: Flask, client: FlaskClient) -> None:
    squat = day_row(app, SQUAT_DAY, 5)
    first = kinds_by_athlete(app, squat)
    fit(client, TWO_MATCHES)
    eased = kinds_by_athlete(app, squat)
    page = move_match(app, client, "2026-12-16", "2026-12-10")
    assert "The match is on Thu 10 Dec now. Its weeks follow" in page and "what was fitted around its old day" in page
    assert first == kinds_by_athlete(app, squat) != eased and not day_row(app, HINGE_DAY, 5).left_out
    later = day_row(app, SQUAT_DAY, 4), day_row(app, HINGE_DAY, 4)
    assert [row.left_out for row in later].count(True) == 1  # two matches in that week now: one short session
    kept = next(row for row in later if not row.left_out)
    assert set().union(*kinds_by_athlete(app, kept).values()) == {ExposureKind.DELOAD}
    client.post(undo_of(page))
    assert kinds_by_athlete(app, squat) == eased and day_row(app, HINGE_DAY, 5).left_out
    assert not any(row.left_out for row in (day_row(app, SQUAT_DAY, 4), day_row(app, HINGE_DAY, 4)))
    assert "Wed 16 Dec" in client.get(f"/season/?week={TWO_MATCHES}").text


COUNTS = "2026-12-07"  # the week before a match that counts: a taper, of weeks of work


def test_a_match_moved_overrules_nothing_the_coach_has_said(app: Flask, client: FlaskClient) -> None:
    """A day said to be left out, a number of the coach's own and a row written again since stay as they are."""
    squat, hinge = day_row(app, SQUAT_DAY, 4), day_row(app, HINGE_DAY, 4)
    exercise = live_cell(app, "Marit Holm", 4).exercise_id
    own, newer, plain = [cell.athlete_id for cell in cells_of(app, squat) if cell.exercise_id == exercise and cell.bar][
        :3
    ]
    assert fit(client, COUNTS).count("done") and of_exercise(app, squat, exercise)[plain].kind is ExposureKind.DELOAD
    change_day(client, hinge, COUNTS, what="out")
    for athlete, week in ((own, 4), (newer, 5)):
        place = (Cell.exercise_id == exercise, Cell.athlete_id == athlete, Cell.week == week, Cell.current)
        with reading(app) as db:
            there = db.scalars(select(Cell).where(*place)).one()
        form = {"load": str(there.load_amount - 5), "reason": "a cold"}
        assert client.post(f"/block/cells/{there.id}", data=form).status_code in (200, 302)
    eased = of_exercise(app, squat, exercise)
    move_match(app, client, "2026-12-12", "2027-01-17")
    assert day_row(app, HINGE_DAY, 4).left_out  # by the coach's word now
    now = of_exercise(app, squat, exercise)
    assert now[own].id == eased[own].id
    assert (
        now[newer].id == eased[newer].id and now[newer].kind is ExposureKind.DELOAD
    )  # further on it is another row now
    assert now[plain].kind is ExposureKind.WORK and now[plain].load_amount == eased[plain].load_amount


def of_exercise(app: Flask, row: SessionDay, exercise_id: int) -> dict[int, Cell]:
    return {cell.athlete_id: cell for cell in cells_of(app, row) if cell.exercise_id == exercise_id}


def test_a_day_the_coach_has_moved_since_stays(app: Flask, client: FlaskClient) -> None:
    fit(client, TWO_MATCHES)  # the hinge day is left out
    hinge = day_row(app, HINGE_DAY, 5)
    change_day(client, hinge, TWO_MATCHES, what="hold")
    change_day(client, hinge, TWO_MATCHES, what="move", to="4")
    move_match(app, client, "2026-12-16", "2026-12-10")
    now = day_row(app, HINGE_DAY, 5)
    assert (now.held_on, now.left_out) == (dt.date(2026, 12, 18), False)


def test_what_has_passed_is_fitted_to_nothing_any_more(app: Flask, client: FlaskClient) -> None:
    fit(client, TWO_MATCHES)
    squat, hinge = day_row(app, SQUAT_DAY, 5), day_row(app, HINGE_DAY, 5)
    were = kinds_by_athlete(app, squat)
    after = Actor(1, 1, dt.datetime(2026, 12, 17, 12))
    with app.extensions["database"].writing() as db:
        here = context_of(db, db.get_one(Squad, 1), Rules(), after.today, squat.held_on)
        assert unfit_week(WorkContext(db, after), here) == (None, 0)
    assert day_row(app, HINGE_DAY, 5).left_out == hinge.left_out and kinds_by_athlete(app, squat) == were


def test_a_match_moved_leaves_proposals_nobody_has_taken_and_sessions_that_have_begun(
    app: Flask, client: FlaskClient
) -> None:
    page = move_match(app, client, "2026-12-16", "2026-12-17")  # the week had waited with two matches, and still does
    assert "look at its week" in page and "Take all" in page
    assert not day_row(app, HINGE_DAY, 5).left_out and not day_row(app, HINGE_DAY, 5).kept
    squat, cell = day_row(app, SQUAT_DAY, 2), live_cell(app, "Marit Holm", 2)
    done = {"load": str(cell.load_amount), "reps": cell.reps, "rir": "2", "pain": "0"}
    assert client.post(f"/floor/cells/{cell.id}/sets", data=done).status_code == 302
    were = kinds_by_athlete(app, squat)
    move_match(app, client, "2026-12-17", "2026-11-25")
    assert kinds_by_athlete(app, squat) == were and day_row(app, SQUAT_DAY, 2).held_on == squat.held_on


def test_a_match_that_counts_now_only_proposes(app: Flask, client: FlaskClient) -> None:
    """The day is the same: nobody has said yes to a taper yet."""
    with reading(app) as db:
        match = db.scalars(select(Match).where(Match.played_on == dt.date(2026, 11, 28))).one()
    squat = day_row(app, SQUAT_DAY, 2)
    were = [cell.id for cell in cells_of(app, squat)]
    form = {"week": "2026-11-23", "played_on": "2026-11-28", "opponent": match.opponent, "important": "y"}
    page = client.post(f"/season/matches?match={match.id}", data=form, follow_redirects=True).text
    assert "look at its week" in page and "before a match that counts" in page
    assert [cell.id for cell in cells_of(app, squat)] == were


def test_a_match_dropped_gives_its_week_back(app: Flask, client: FlaskClient) -> None:
    fit(client, TWO_MATCHES)
    with reading(app) as db:
        match = db.scalars(select(Match).where(Match.played_on == dt.date(2026, 12, 16))).one()
    page = client.post(f"/season/matches/{match.id}/drop", data={"week": TWO_MATCHES}, follow_redirects=True).text
    assert "The match is dropped. Its weeks follow: what was fitted around its old day is taken back" in page
    assert not day_row(app, HINGE_DAY, 5).left_out
    client.post(undo_of(page))
    assert day_row(app, HINGE_DAY, 5).left_out


def test_the_work_of_a_session_left_out_moves_on_once(app: Flask, client: FlaskClient) -> None:
    row, later = day_row(app, SQUAT_DAY, 4), day_row(app, SQUAT_DAY, 5)
    change_day(client, row, COUNTS, what="out")
    before = {cell.id for cell in cells_of(app, later)}
    change_day(client, row, COUNTS, what="on")  # first left out, then its work is done next time after all
    once = {cell.id for cell in cells_of(app, later)}
    assert once != before
    assert "It is so already" in change_day(client, row, COUNTS, what="on")
    assert {cell.id for cell in cells_of(app, later)} == once
