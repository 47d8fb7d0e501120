"""What is kept from one request to the next says what would be read now, whatever was written, and by whom."""

import re
import sqlite3

import pytest
from flask import Flask
from flask.testing import FlaskClient

from backsquat.config import DEMO_DAY
from tests.demo_club import live_cell, other_squad
from tests.draws import some
from tests.pages.test_every_page import PAGES

SHOWN = ("/", "/block/", "/floor/", "/floor/pack")
WRITES = (  # of each table that these pages read, as another program would; each shows on one of them at least
    "UPDATE exercises SET variation = 'heels on a plate'",
    f"INSERT INTO missed_answers (athlete_id, session_id, week, answer, taken_back, by_id, at) SELECT DISTINCT "
    f"a.id, d.session_id, d.week, 'leave', 0, 1, '{DEMO_DAY} 08:00:00' FROM session_days d, athletes a",
    "UPDATE screen_results SET replaced = 1 WHERE screen IN ('brace', 'pelvis')",
    "INSERT INTO rule_changes (squad_id, name, value, by_id, at) VALUES (1, 'retest_days', '1', 1, '2026-11-23 08:00:00')",
    "UPDATE rooms SET racks = 1",
    "UPDATE plates SET pairs = 0",
    "UPDATE room_assignments SET athlete_id = NULL, weekday = NULL, first_on = '2026-01-01', last_on = NULL, ended = 0",
    "DELETE FROM belief_days WHERE done_on > '2026-11-01'",
    "UPDATE stops SET cleared_on = '2026-11-22'",
    "UPDATE limits SET ended = 1",
    "UPDATE absences SET withdrawn = 1",
    "DELETE FROM level_moves",
    "UPDATE readiness_clearances SET ended = 1",
    "UPDATE body_masses SET mass_kg = '150'",
    "UPDATE set_entries SET standing = 0 WHERE done_on > '2026-11-10'",
    "UPDATE decisions SET settled = 1",
    f"INSERT INTO session_acts (athlete_id, session_id, exercise_id, week, done_on, what, facts, taken_back, by_id, at) "
    f"SELECT c.athlete_id, s.session_id, c.exercise_id, c.week, '{DEMO_DAY}', 'skipped', '{{\"reason\": \"late\"}}', 0, 1, "
    f"'{DEMO_DAY} 08:00:00' FROM cells c JOIN exercise_weeks s ON s.exercise_id = c.exercise_id AND s.week = c.week "
    f"JOIN session_days d ON d.session_id = s.session_id AND d.week = s.week WHERE c.live AND d.held_on = '{DEMO_DAY}'",
    f"INSERT INTO own_days (session_id, week, athlete_id, held_on, by_id, at) SELECT d.session_id, d.week, a.id, "
    f"'2026-11-27', 1, '{DEMO_DAY} 08:00:00' FROM session_days d, athletes a WHERE d.held_on = '{DEMO_DAY}' AND a.id > 10",
    "UPDATE milestones SET amount = '3'",
    "UPDATE cells SET load_kg = 20, load_amount = '20' WHERE load_kg > 20",
    "UPDATE exercises SET removed = 1 WHERE position = 1",
    "UPDATE exercise_weeks SET spare = 1 - spare",
    "UPDATE session_days SET left_out = 1 WHERE held_on > '2026-11-24'",
    "UPDATE block_sessions SET minutes = 30",
    "UPDATE blocks SET name = 'Another'",
    "DELETE FROM plan_versions",
    "UPDATE matches SET dropped = 1",
    "UPDATE athletes SET active = 0 WHERE id IN (1, 2)",
    "UPDATE athletes SET born_on = '2012-01-01', consent = 0",
    "UPDATE memberships SET role = 'physio' WHERE user_id = 1",
)

LOOKED_AT = ("/health-list/13", "/health-list/10")  # these say who looked before
WEEKS = ("2026-10-05", "2026-11-16", "2026-11-30")
FAR_FROM_IT = ("/technique", "/movements", "/block/what-if", "/block/3/compare")  # or read the same on the way


def says(client: FlaskClient, path: str) -> tuple[int, str]:
    """A page without what is new each time."""
    answer = client.get(path)
    return answer.status_code, re.sub(r'(content|value)="[\w.-]{60,}"|[0-9a-f-]{36}|"at":"[^"]+"', "", answer.text)


def test_every_page_says_the_same_as_when_it_is_read_again(client: FlaskClient, app: Flask) -> None:
    """Also after all the others: none of them changes what is kept for the next."""
    asking = [path for path in PAGES if path not in LOOKED_AT and not path.startswith(FAR_FROM_IT)]
    asking += ["/floor/pack"]
    asking += [f"{path}?week={week}" for path in ("/", "/floor/", "/session/", "/season/") for week in WEEKS]
    for path in asking:
        client.get(path)
    for path in asking:
        kept = says(client, path)
        app.extensions["database"].forget()
        assert says(client, path) == kept, path


def test_whatever_is_written_by_whatever_program_shows_on_the_next_page(client: FlaskClient, app: Flask) -> None:
    unseen, before = [], [says(client, path) for path in SHOWN]
    for write in some(WRITES, 2):
        connection = sqlite3.connect(app.extensions["database"].path)
        assert connection.execute(write).rowcount > 0, write
        connection.commit()
        connection.close()
        now = [says(client, path) for path in SHOWN]
        app.extensions["database"].forget()
        assert now == [says(client, path) for path in SHOWN], write
        if now == before:
            unseen.append(write)
        before = now
    assert not unseen, "\n".join(unseen)


def test_a_device_of_who_may_not_read_of_pain_takes_none_of_it_along(
    app: Flask, client: FlaskClient, assistant: FlaskClient
) -> None:
    """Who may asks first: what was kept for them is for nobody else."""
    cell = live_cell(app, "Marit Holm", 2)
    said = {
        "load": str(cell.load_amount),
        "reps": "4",
        "client_id": "hurt",
        "pain": "2",
        "pain_region": "knee",
        "pain_character": "dull",
    }
    assert client.post(f"/floor/cells/{cell.id}/sets", data=said).status_code == 302
    told = ["pain 2, knee" in one.get("/floor/pack").text for one in (client, assistant)]
    assert told == [True, False]


def test_two_sessions_of_one_day_have_their_own_lists(client: FlaskClient, app: Flask) -> None:
    path = app.extensions["database"].path
    with sqlite3.connect(path) as connection:
        held = "SELECT DISTINCT s.session_id FROM exercise_weeks s JOIN exercises b ON b.id = s.exercise_id WHERE b.block_id = 3"
        first, second = sorted(id for (id,) in connection.execute(held))[:2]
        connection.execute(f"UPDATE session_days SET held_on = '{DEMO_DAY}' WHERE session_id = {second} AND week = 2")
    shown = [says(client, f"/floor/?session={one}") for one in (first, second)]
    for one, kept in zip((first, second), shown, strict=True):
        app.extensions["database"].forget()
        assert says(client, f"/floor/?session={one}") == kept
    assert shown[0] != shown[1]


@pytest.mark.parametrize("path", ["/floor/", "/", "/season/", "/floor/pack"])
def test_nobody_is_shown_what_was_kept_for_somebody_else(app: Flask, path: str) -> None:
    """Who may see less, the head coach, then another squad's coach, in the same application."""
    shown = []
    for person in (4, 1, other_squad(app)[0]):
        client = app.test_client()
        client.post(f"/demo-sign-in/{person}")
        kept = says(client, path)
        assert kept[0] in (200, 302, 403)
        app.extensions["database"].forget()
        assert says(client, path) == kept
        client.get(path)
        shown.append(kept)
    assert len(set(shown)) == 3
