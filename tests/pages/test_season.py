"""The season: matches and stretches said and taken back; the week fitted around its matches, everywhere at once."""

import datetime as dt

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.cell import LIFTED
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.roles import Role
from backsquat.core.rules import Rules
from backsquat.storage.models import Cell, Exercise, Match, SeasonMark, SetEntry, Squad
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.overview.attendance import attendance
from backsquat.work.plan.missed import missed_groups
from backsquat.work.squad.context import context_of
from tests.demo_club import athlete_id, live_cell, other_squad, reading, undo_of
from tests.season_week import HINGE_DAY, SQUAT_DAY, THIS_WEEK, TWO_MATCHES, cells_of, change_day, day_row, fit

# --- the week around its matches


def test_two_matches_leave_one_short_session_wherever_it_is_looked_at(app: Flask, client: FlaskClient) -> None:
    page = client.get(f"/season/?week={TWO_MATCHES}").text
    assert "With two matches one short session is enough. Hinge day (Wed 16 Dec) is on the day of a match." in page
    assert "Squat day (Mon 14 Dec) is the one session of a week of two matches" in page
    hinge, squat = day_row(app, HINGE_DAY, 5), day_row(app, SQUAT_DAY, 5)
    were = {cell.id for cell in cells_of(app, squat)}
    done = fit(client, TWO_MATCHES)
    assert "2 things done" in done and "Nothing: this week fits around its matches." in done
    assert day_row(app, HINGE_DAY, 5).left_out and not day_row(app, SQUAT_DAY, 5).left_out
    assert {cell.kind for cell in cells_of(app, squat) if cell.state in LIFTED} == {ExposureKind.DELOAD}
    floor = client.get(f"/floor/?week={TWO_MATCHES}").text
    assert SQUAT_DAY in floor and HINGE_DAY not in floor
    assert "Left out of this week" in client.get(f"/session/?week={TWO_MATCHES}&session={hinge.session_id}").text
    hinge_exercise = cells_of(app, hinge)[0].exercise_id
    assert "left out" in client.get(f"/block/?week={TWO_MATCHES}&lift={hinge_exercise}").text
    client.post(undo_of(done))
    assert not day_row(app, HINGE_DAY, 5).left_out
    assert HINGE_DAY in client.get(f"/floor/?week={TWO_MATCHES}").text
    assert {cell.kind for cell in cells_of(app, squat)} == _kinds(app, were)


def _kinds(app: Flask, ids: set[int]) -> set[ExposureKind]:
    with reading(app) as db:
        return set(db.scalars(select(Cell.kind).where(Cell.id.in_(ids))))


def test_one_thing_taken_leaves_the_others_open(app: Flask, client: FlaskClient) -> None:
    hinge = day_row(app, HINGE_DAY, 5)
    page = fit(client, TWO_MATCHES, session=hinge.session_id, act="leave_out")
    assert "Done." in page and "Shorten it" in page and "Take all" not in page
    again = client.post("/season/fit", data={"week": TWO_MATCHES, "session": hinge.session_id, "act": "leave_out"})
    assert again.status_code == 409 and "Nothing to fit" in again.text


def test_a_match_put_in_asks_for_another_day_and_everything_follows(app: Flask, client: FlaskClient) -> None:
    """A cup match on the Thursday: Wednesday's session is the day before it."""
    form = {"week": THIS_WEEK, "played_on": "2026-11-26", "opponent": "Weir Street", "away": "y"}
    page = client.post("/season/matches", data=form, follow_redirects=True).text
    assert "With two matches one short session" in page
    client.post("/season/matches", data={"week": THIS_WEEK, "played_on": "2026-11-26"})  # a second one: still sane
    hinge = day_row(app, HINGE_DAY, 2)
    moved = change_day(client, hinge, THIS_WEEK, what="move", to="1")
    assert "The week is changed" in moved and day_row(app, HINGE_DAY, 2).held_on == dt.date(2026, 11, 24)
    card = client.get("/floor/paper/card").text
    assert "Tuesday 24 November" in card and "Wednesday 25 November" not in card
    assert "Tue" in client.get(f"/session/?week={THIS_WEEK}&session={hinge.session_id}").text
    client.post(undo_of(moved))
    assert day_row(app, HINGE_DAY, 2).held_on == dt.date(2026, 11, 25)


def test_what_the_coach_says_stays_until_the_coach_asks_again(app: Flask, client: FlaskClient) -> None:
    hinge = day_row(app, HINGE_DAY, 5)
    page = change_day(client, hinge, TWO_MATCHES, what="hold")
    assert "Hinge day (Wed" not in page and day_row(app, HINGE_DAY, 5).kept
    assert "Take all" not in fit(client, TWO_MATCHES) and not day_row(app, HINGE_DAY, 5).left_out
    assert "It is so already" in change_day(client, hinge, TWO_MATCHES, what="hold")
    assert "Hinge day (Wed" in change_day(client, hinge, TWO_MATCHES, what="ask")


def test_a_session_somebody_has_lifted_in_stays(app: Flask, client: FlaskClient) -> None:
    squat = day_row(app, SQUAT_DAY, 2)  # today's
    cell = live_cell(app, "Tove Lindqvist", 2)
    facts = {
        "load": f"{cell.load_amount:f}",
        "reps": "4",
        "reserve_reps": "2",
        "pain": "0",
        "client_id": "a-season-set",
    }
    assert client.post(f"/floor/cells/{cell.id}/sets", data=facts, follow_redirects=True).status_code == 200
    assert "Somebody has lifted in it" in change_day(client, squat, THIS_WEEK, what="move", to="3")
    assert "Somebody has lifted in it" in change_day(client, squat, THIS_WEEK, what="out")
    assert day_row(app, SQUAT_DAY, 2).held_on == dt.date(2026, 11, 23)
    past = day_row(app, SQUAT_DAY, 1)
    assert "Somebody has lifted" in change_day(client, past, "2026-11-16", what="out")
    assert "begun" in client.get(f"/season/?week={THIS_WEEK}").text


def test_a_day_moved_cannot_be_undone_once_somebody_lifted_there(app: Flask, client: FlaskClient) -> None:
    hinge = day_row(app, HINGE_DAY, 2)
    moved = change_day(client, hinge, THIS_WEEK, what="move", to="0")  # to today
    cell = live_cell(app, "Tove Lindqvist", 2, "romanian_deadlift")
    facts = {
        "load": f"{cell.load_amount:f}",
        "reps": "4",
        "reserve_reps": "2",
        "pain": "0",
        "client_id": "b-season-set",
    }
    assert client.post(f"/floor/cells/{cell.id}/sets", data=facts, follow_redirects=True).status_code == 200
    assert "Somebody has lifted in it" in client.post(undo_of(moved), follow_redirects=True).text
    assert day_row(app, HINGE_DAY, 2).held_on == dt.date(2026, 11, 23)


def test_a_session_left_out_is_not_missed(app: Flask, client: FlaskClient) -> None:
    """Nobody is asked about a session that was not held; of one that was, they are."""

    hinge = day_row(app, HINGE_DAY, 2)
    later = Actor(1, 1, dt.datetime(2026, 11, 28, 9), Role.COACH)

    def missed() -> int:
        with reading(app) as db:
            groups = missed_groups(WorkContext(db, later))
            return sum(g.sessions * len(g.athletes) for g in groups if g.session.id == hinge.session_id)

    before = missed()
    change_day(client, hinge, THIS_WEEK, what="out")
    assert before > 15 and missed() < before - 15  # all but those who are away


def test_holidays_ask_for_another_day_or_none(app: Flask, client: FlaskClient) -> None:
    page = client.get("/season/?week=2026-12-21").text
    assert "is on a day on which nobody trains, and this week has no better day for it." in page
    form = {"week": "2026-11-30", "kind": "trip", "first_on": "2026-12-02", "last_on": "2026-12-02", "words": "trip"}
    page = client.post("/season/marks", data=form, follow_redirects=True).text
    assert "Hinge day (Wed 2 Dec) is on a day on which nobody trains. Tuesday is free for it" in page


def test_a_camp_and_days_of_tests_ask_for_their_own(app: Flask, client: FlaskClient) -> None:
    mark = {"week": "2026-11-30", "kind": "tests", "first_on": "2026-12-03", "last_on": "2026-12-03", "words": "jumps"}
    page = client.post("/season/marks", data=mark, follow_redirects=True).text
    assert "Hinge day (Wed 2 Dec) is the day before tests" in page and "the day before tests: nothing for the" in page
    done = fit(client, "2026-11-30")
    assert day_row(app, HINGE_DAY, 3).held_on != dt.date(2026, 12, 2) and "the day before tests" in done
    next_monday = mark | {"first_on": "2026-12-07", "last_on": "2026-12-07"}
    sunday = client.post("/season/marks", data=next_monday, follow_redirects=True).text.split('data-day="2026-12-06"')[
        1
    ]
    assert "the day before tests: nothing for the legs" in sunday.split("</li>")[0]
    camp = {"week": "2026-12-07", "kind": "camp", "first_on": "2026-12-07", "last_on": "2026-12-11", "words": ""}
    page = client.post("/season/marks", data=camp, follow_redirects=True).text
    assert "is in a camp: about half the sets, a little lighter, as a draft." in page and "camp: light" in page
    fit(client, "2026-12-07")
    assert {cell.kind for cell in cells_of(app, day_row(app, SQUAT_DAY, 4)) if cell.state in LIFTED} == {
        ExposureKind.DELOAD
    }


# --- matches and stretches


def test_matches_are_changed_dropped_and_taken_back(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        match = db.scalars(select(Match).where(Match.played_on == dt.date(2026, 12, 12))).one()
    form = {
        "week": "2026-12-07",
        "played_on": "2026-12-13",
        "opponent": "Lark Field",
        "competition": "cup",
        "important": "y",
    }
    page = client.post(f"/season/matches?match={match.id}", data=form, follow_redirects=True).text
    assert (
        "Sun 13 Dec" in page
        and "Sat 12 Dec" not in client.get("/season/?week=2026-12-07").text.split('id="matches"')[1]
    )
    client.post(undo_of(page))
    with reading(app) as db:
        assert db.get_one(Match, match.id).played_on == dt.date(2026, 12, 12)
    dropped = client.post(f"/season/matches/{match.id}/drop", data={"week": "2026-12-07"}, follow_redirects=True).text
    assert "The match is dropped" in dropped
    assert client.post(f"/season/matches/{match.id}/drop").status_code == 404
    client.post(undo_of(dropped))
    with reading(app) as db:
        assert not db.get_one(Match, match.id).dropped


def test_what_cannot_be_is_said_beside_the_field_and_nothing_is_lost(app: Flask, client: FlaskClient) -> None:
    bad = client.post("/season/matches", data={"played_on": "2031-01-01", "opponent": "Northgate"})
    assert bad.status_code == 422 and "The season runs from" in bad.text and "Northgate" in bad.text
    assert client.post("/season/matches", data={"played_on": "soon"}).status_code == 422
    phase = {"kind": "power", "first_on": "2026-11-01", "last_on": "2026-11-20", "words": "sharp"}
    bad = client.post("/season/marks", data=phase)
    assert bad.status_code == 422 and "is there already" in bad.text and "sharp" in bad.text
    for other in ({"last_on": "2026-10-01"}, {"kind": "what"}, {"weekdays": ["9"]}, {"first_on": "2030-01-01"}):
        assert client.post("/season/marks", data=phase | other).status_code == 422, other
    with reading(app) as db:
        assert not db.scalars(select(SeasonMark).where(SeasonMark.words == "sharp")).all()
    squat = day_row(app, SQUAT_DAY, 3)
    assert client.post(f"/season/sessions/{squat.session_id}/99", data={"what": "out"}).status_code == 404
    assert client.post(f"/season/sessions/{squat.session_id}/3", data={"what": "move", "to": "far"}).status_code == 404
    for wrong in ({}, {"what": "move"}, {"what": "move", "to": "9"}, {"what": "fly", "to": "1"}):
        assert client.post(f"/season/sessions/{squat.session_id}/3", data=wrong).status_code == 404, wrong
    assert day_row(app, SQUAT_DAY, 3).held_on == dt.date(2026, 11, 30)


def test_a_phase_dropped_does_not_come_back_over_another(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        phase = db.scalars(select(SeasonMark).where(SeasonMark.kind == "strength")).one()
    dropped = client.post(f"/season/marks/{phase.id}/drop", follow_redirects=True).text
    form = {"kind": "power", "first_on": "2026-08-20", "last_on": "2026-08-30", "weekdays": ["0", "2"]}
    assert client.post("/season/marks", data=form).status_code == 302
    assert "Another phase is on those days now" in client.post(undo_of(dropped), follow_redirects=True).text


def test_who_may_change_the_season(
    app: Flask, client: FlaskClient, assistant: FlaskClient, physio: FlaskClient
) -> None:
    assert assistant.get("/season/").status_code == 200 and physio.get("/season/").status_code == 403
    assert "Add a match" not in assistant.get("/season/").text
    hinge = day_row(app, HINGE_DAY, 3)
    for somebody in (assistant, physio):
        for address in ("/season/matches", "/season/marks", "/season/fit", f"/season/sessions/{hinge.session_id}/3"):
            assert somebody.post(address, data={"week": TWO_MATCHES}).status_code == 403, address
    other_squad(app)
    other = app.test_client()
    other.post("/sign-in", data={"sign_in": "other", "password": "long enough"})
    assert other.post("/season/matches/1/drop").status_code == 404
    assert other.post("/season/marks/1/drop").status_code == 404
    assert other.post(f"/season/sessions/{hinge.session_id}/3", data={"what": "out"}).status_code == 404
    assert "No block plans this week" in other.get("/season/").text


def test_a_fixture_list_from_a_calendar_program(app: Flask, client: FlaskClient) -> None:
    event = "BEGIN:VEVENT\r\nUID:{0}\r\nDTSTART:{0}T180000Z\r\nSUMMARY:{1}\r\nLOCATION:Away\r\n{2}END:VEVENT\r\n"
    text = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n" + event.format("20270310", "Two Rivers", "CATEGORIES:cup\r\n")
    text += event.format("20270317", "Gone", "STATUS:CANCELLED\r\n") + "END:VCALENDAR\r\n"
    page = client.post("/import/", data={"pasted": text, "kind": ""}).text
    assert "2027-03-10" in page and "Two Rivers" in page and "Gone" not in page


# --- who trained


def test_who_trained_says_what_the_log_says(app: Flask, client: FlaskClient) -> None:
    """Counted again from cells and sets one by one, without the query."""
    page = client.get("/season/trained").text
    ayla = athlete_id(app, "Ayla Demirel")
    planned, done = set(), set()
    with reading(app) as db:
        for cell in db.scalars(select(Cell).where(Cell.athlete_id == ayla, Cell.live, Cell.state.in_(LIFTED))):
            exercise = db.get_one(Exercise, cell.exercise_id)
            held = exercise.session_in(cell.week)
            if held.day_in(cell.week) < dt.date(2026, 11, 23) and not exercise.spare:
                planned.add((held.id, cell.week))
                if db.scalars(select(SetEntry).where(SetEntry.cell_id == cell.id, SetEntry.standing)).first():
                    done.add((held.id, cell.week))
    assert len(planned) > len(done) > 30
    assert f"{len(done)} of {len(planned)}" in page.split("Ayla Demirel")[1][:200]


def test_who_is_away_is_not_missed_and_a_session_left_out_is_not_expected(app: Flask, client: FlaskClient) -> None:
    jorunn = client.get("/season/trained").text.split("Jorunn Petit")[1].split("</tr>")[0]
    assert jorunn.count("is-away") >= 8 and "running missed" not in jorunn
    tove = athlete_id(app, "Tove Lindqvist")

    def expected() -> int:
        with reading(app) as db:
            squad = db.get_one(Squad, 1)
            here = context_of(db, squad, Rules(), dt.date(2026, 11, 26), None)
            return next(row.expected for row in attendance(db, here) if row.athlete.id == tove)

    before = expected()
    change_day(client, day_row(app, HINGE_DAY, 2), THIS_WEEK, what="out")
    assert expected() == before - 1


# --- blocks back from a match


def test_blocks_back_from_the_match_that_counts_are_taken_as_templates(app: Flask, client: FlaskClient) -> None:
    page = client.get("/season/").text
    part = page.split('id="back"')[1].split("</section>")[0]
    assert "Keep what was built" in part and "4 Jan, " in part  # the first free week after the November wave
    address = part.split('href="')[1].split('"')[0].replace("&amp;", "&")
    form = client.get(address).text
    assert 'value="2027-01-04"' in form and "Keep what was built" in form
    assert client.get("/season/?back=999999").status_code == 200
    assert client.get("/block/new?template=keep&weeks=9999").status_code == 200


# --- what came of a block


def test_sheet_and_week_check_say_that_a_week_does_not_fit(app: Flask, client: FlaskClient) -> None:
    def check(week: str, piece: bool) -> str:
        headers = {"HX-Request": "true", "HX-Target": "week-check"} if piece else {}
        return client.get(f"/block/3/check?week={week}", headers=headers).text

    assert "Matches ask for 2 changes" in check(TWO_MATCHES, True)
    assert "This week does not fit around its matches" in check(TWO_MATCHES, False)
    fit(client, TWO_MATCHES)
    assert "Matches ask for" not in check(TWO_MATCHES, True) and "does not fit" not in check(TWO_MATCHES, False)


def test_a_taper_keeps_the_loads_and_takes_about_half_the_sets(app: Flask, client: FlaskClient) -> None:
    """The match of 12 December counts."""
    week = "2026-12-07"
    page = client.get(f"/season/?week={week}").text
    assert "Squat day (Mon 7 Dec) is 5 days before a match that counts: the loads stay, about half the sets" in page
    squat = day_row(app, SQUAT_DAY, 4)
    was = {
        (c.exercise_id, c.athlete_id): c
        for c in cells_of(app, squat)
        if c.state in LIFTED and c.kind is ExposureKind.WORK
    }
    done = fit(client, week, session=squat.session_id, act="taper")
    now = {(c.exercise_id, c.athlete_id): c for c in cells_of(app, squat) if (c.exercise_id, c.athlete_id) in was}
    assert len(was) > 20 and all(
        now[key].load_kg == one.load_kg and now[key].reps == one.reps for key, one in was.items()
    )
    assert all(now[key].sets < one.sets for key, one in was.items() if one.sets > 2)
    assert "Squat day (Mon 7 Dec) is 5 days" not in done and "Hinge day (Wed 9 Dec) is 3 days" in done
    assert any("taper" in str(step) for step in next(iter(now.values())).working)
    client.post(undo_of(done))
    back = {(c.exercise_id, c.athlete_id): c.sets for c in cells_of(app, squat)}
    assert all(back[key] == one.sets for key, one in was.items())
