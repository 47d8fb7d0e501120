"""A match on another day, or not played: its weeks follow, and nothing the coach has said is overruled."""

import datetime as dt

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.cell import LIFTED
from backsquat.core.progression.prescription import Kind
from backsquat.storage.models import Cell, Match, SessionDay
from tests.demo_club import live_cell, reading, undo_of
from tests.season_week import HINGE_DAY, SQUAT_DAY, TWO_MATCHES, cells_of, change_day, day_row, fit


def move_match(app: Flask, client: FlaskClient, day: str, to: str) -> str:
    """A match dragged onto another day."""
    with reading(app) as session:
        match = session.scalars(select(Match).where(Match.played_on == dt.date.fromisoformat(day))).one()
    return client.post("/season/matches/move", data={"match": match.id, "to": to}, follow_redirects=True).text


def kinds_by_athlete(app: Flask, row: SessionDay) -> dict[int, set[Kind]]:
    found: dict[int, set[Kind]] = {}
    for cell in cells_of(app, row):
        if cell.state in LIFTED:
            found.setdefault(cell.athlete_id, set()).add(cell.kind)
    return found


def test_a_match_moved_takes_its_weeks_along_and_one_undo_brings_all_back(app: Flask, client: FlaskClient) -> None:
    squat = day_row(app, SQUAT_DAY, 3)
    first = kinds_by_athlete(app, squat)
    fit(client, TWO_MATCHES)
    eased = kinds_by_athlete(app, squat)
    page = move_match(app, client, "2026-12-02", "2026-12-10")
    assert "The match is on Thu 10 Dec now. Its weeks follow" in page and "what was fitted around its old day" in page
    assert first == kinds_by_athlete(app, squat) != eased and not day_row(app, HINGE_DAY, 3).left_out
    later = day_row(app, SQUAT_DAY, 4), day_row(app, HINGE_DAY, 4)
    assert [row.left_out for row in later].count(True) == 1  # two matches in that week now: one short session
    kept = next(row for row in later if not row.left_out)
    assert set().union(*kinds_by_athlete(app, kept).values()) == {Kind.EASY}
    client.post(undo_of(page))
    assert kinds_by_athlete(app, squat) == eased and day_row(app, HINGE_DAY, 3).left_out
    assert not any(row.left_out for row in (day_row(app, SQUAT_DAY, 4), day_row(app, HINGE_DAY, 4)))
    assert "Wed 2 Dec" in client.get(f"/season/?week={TWO_MATCHES}").text


def test_a_match_moved_overrules_nothing_the_coach_has_said(app: Flask, client: FlaskClient) -> None:
    """A day said to stay, a number of the coach's own and a row written anew since stay as they are."""
    fit(client, TWO_MATCHES)
    squat, hinge = day_row(app, SQUAT_DAY, 3), day_row(app, HINGE_DAY, 3)
    change_day(client, hinge, TWO_MATCHES, what="out")
    own, newer = [cell for cell in cells_of(app, squat) if cell.load_amount][:2]
    for cell, week in ((own, 3), (newer, 5)):
        with reading(app) as session:
            there = session.scalars(
                select(Cell).where(
                    Cell.slot_id == cell.slot_id, Cell.athlete_id == cell.athlete_id, Cell.week == week, Cell.current
                )
            ).one()
        form = {"load": str(there.load_amount - 5), "reason": "a cold"}
        assert client.post(f"/block/cells/{there.id}", data=form).status_code in (200, 302)
    move_match(app, client, "2026-12-02", "2026-12-10")
    assert day_row(app, HINGE_DAY, 3).left_out
    of = {(cell.slot_id, cell.athlete_id): cell for cell in cells_of(app, squat)}
    assert of[own.slot_id, own.athlete_id].load_amount == own.load_amount - 5
    assert of[newer.slot_id, newer.athlete_id].kind is Kind.EASY  # written anew further on: not the row it was
    others = [cell for place, cell in of.items() if place[1] not in (own.athlete_id, newer.athlete_id)]
    assert Kind.WORK in {cell.kind for cell in others if cell.state in LIFTED}


def test_a_match_moved_leaves_proposals_nobody_has_taken_and_sessions_that_have_begun(
    app: Flask, client: FlaskClient
) -> None:
    page = move_match(app, client, "2026-12-02", "2026-12-03")  # the week had waited with two matches, and still does
    assert "look at its week" in page and "Take all" in page
    assert not day_row(app, HINGE_DAY, 3).left_out and not day_row(app, HINGE_DAY, 3).kept
    squat, cell = day_row(app, SQUAT_DAY, 2), live_cell(app, "Marit Holm", 2)
    done = {"load": str(cell.load_amount), "reps": cell.reps, "rir": "2", "pain": "0"}
    assert client.post(f"/floor/cells/{cell.id}/sets", data=done).status_code == 302
    were = kinds_by_athlete(app, squat)
    move_match(app, client, "2026-12-03", "2026-11-25")
    assert kinds_by_athlete(app, squat) == were and day_row(app, SQUAT_DAY, 2).held_on == squat.held_on


def test_a_match_dropped_gives_its_week_back(app: Flask, client: FlaskClient) -> None:
    fit(client, TWO_MATCHES)
    with reading(app) as session:
        match = session.scalars(select(Match).where(Match.played_on == dt.date(2026, 12, 2))).one()
    page = client.post(f"/season/matches/{match.id}/drop", data={"week": TWO_MATCHES}, follow_redirects=True).text
    assert "The match is dropped. Its weeks follow: what was fitted around its old day is taken back" in page
    assert not day_row(app, HINGE_DAY, 3).left_out
    client.post(undo_of(page))
    assert day_row(app, HINGE_DAY, 3).left_out
