"""The week check with its fixes, versions brought back, milestones for everybody."""

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select

from backsquat.core.rules import Rules
from backsquat.storage.models import Athlete, Milestone, PlanVersion, SetEntry
from backsquat.work.plan.week_check import audit_block_week
from backsquat.work.sessions.blocks import block_of
from tests.demo_club import live_cell, reading
from tests.pages.test_block_planner import cells, plan


def test_the_week_check_counts_what_is_planned_and_what_was_done(app: Flask, client: FlaskClient) -> None:
    planned = client.get("/block/3/check?week=2026-11-16").text
    done = client.get("/block/3/check?week=2026-11-16&of=done").text
    assert "hard sets for the quads" in planned and "as done" in done and "Add " not in done
    assert "Nothing is logged in this week yet" in client.get("/block/3/check?week=2026-12-14&of=done").text
    client.post("/rules", data={"name": "sets_quads_low", "value": "0"})
    assert "hard sets for the quads" not in client.get("/block/3/check?week=2026-11-16").text


def test_a_fix_takes_a_set_off_and_one_undo_puts_all_back(app: Flask, client: FlaskClient) -> None:
    client.post("/rules", data={"name": "sets_quads_high", "value": "2"})
    before = [(cell.id, cell.sets) for cell in cells(app, 6)]
    page = client.post(
        "/block/3/check/fix", data={"code": "sets_high", "about": "quads", "week": "2026-12-07"}, follow_redirects=True
    ).text
    assert "Fixed, as a draft" in page
    assert [cell.sets for cell in cells(app, 6)][3:] != [sets for _, sets in before][3:]
    change = page.split('action="/undo/')[-1].split('"')[0].split("?")[0]
    client.post(f"/undo/{change}")
    assert [cell.sets for cell in cells(app, 6)] == [sets for _, sets in before]
    nothing = client.post("/block/3/check/fix", data={"code": "sets_high", "about": "moon"})
    assert nothing.status_code == 409


def test_a_version_is_brought_back_as_a_draft_and_the_past_stays(app: Flask, client: FlaskClient) -> None:
    block = plan(client, app, ("0", "Back squat", "wave"))
    exercise = block.exercises[0].id
    client.post(f"/block/{block.id}/publish")
    first = [cell.load_kg for cell in cells(app, exercise)]
    client.post(f"/block/cells/{cells(app, exercise)[1].id}", data={"load": "60", "bar": "bar20"})
    client.post(f"/block/{block.id}/publish")
    assert "1 number differs" in client.get(f"/block/{block.id}/versions?first=1&other=2").text
    client.post(f"/block/{block.id}/versions/1/restore")
    assert [cell.load_kg for cell in cells(app, exercise)] == first
    assert not cells(app, exercise)[1].live
    assert client.post(f"/block/{block.id}/versions/1/restore").status_code == 409
    assert client.post(f"/block/{block.id}/versions/9/restore").status_code == 404
    with reading(app) as db:
        assert db.scalar(select(func.count()).where(PlanVersion.block_id == block.id)) == 2


def test_a_milestone_for_everybody_is_judged_shown_replaced_and_undone(app: Flask, client: FlaskClient) -> None:
    rule = {"what": "Back squat", "kind": "body_masses", "amount": "1,5", "due_on": "2027-02-06"}
    for change, words in (
        ({"what": "Moon"}, "No movement of this name"),
        ({"amount": ""}, "fill this in"),
        ({"amount": "9"}, "from 0.3 to 4"),
        ({"due_on": "2020-01-01"}, "must be after today"),
        ({"kind": "level", "what": "Knee extension machine"}, "on no ladder"),
    ):
        response = client.post("/milestones/", data=rule | change)
        assert response.status_code == 422 and words.lower() in response.text.lower(), words
    page = client.post("/milestones/", data=rule, follow_redirects=True).text
    assert "Set for 20 athletes" in page
    with reading(app) as db:
        open_ones = select(func.count()).where(Milestone.movement == "back_squat", ~Milestone.dropped)
        assert db.scalar(open_ones) == 20 == db.scalar(select(func.count()).select_from(Athlete))
    assert client.get("/block/3/milestones?lift=5").text.count("milestone-note") == 20
    change = page.split('action="/undo/')[1].split('"')[0].split("?")[0]
    client.post(f"/undo/{change}")
    with reading(app) as db:
        assert db.scalar(open_ones) == 12, "the athletes' own come back"
    level = {"what": "Goblet squat", "kind": "level", "amount": "", "due_on": "2027-02-06"}
    page = client.post("/milestones/", data=level, follow_redirects=True).text
    assert "Goblet squat, level earned" in page and "done" in page


def test_a_left_and_a_right_half_are_one_set_done(app: Flask, client: FlaskClient) -> None:
    """Monday's split squat, two sets logged side by side."""
    cell = live_cell(app, "Petra Skov", 2, "rear_raised_dumbbells")
    for number in range(2):
        for side in ("left", "right"):
            data = {"load": "12", "reps": "8", "side": side, "client_id": f"{number}{side}", "pain_character": "dull"}
            assert client.post(f"/floor/cells/{cell.id}/sets", data=data).status_code == 302
    with reading(app) as db:
        assert db.scalar(select(func.count(SetEntry.id)).where(SetEntry.cell_id == cell.id)) == 4
        block = block_of(db, 1, 3)
        week = next(
            one for one in audit_block_week(db, 1, block, 2, Rules(), done=True) if one.athlete.name == "Petra Skov"
        )
    assert [item.sets for item in week.items] == [2]
