"""Deciding otherwise: each answer says where it leads before it is taken, and a missing reason loses nothing."""

import re

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.decision import Code
from backsquat.storage.models import Cell, DecisionRow, Exercise
from tests.demo_club import current_cells, live_cell, reading, user_id

PIECE = {"HX-Request": "true"}


def judged(app: Flask, client: FlaskClient) -> tuple[DecisionRow, Cell]:
    """Marit's squats of today, done as planned: a proposal waits."""
    cell = live_cell(app, "Marit Holm", 2)
    for n in range(cell.sets):
        data = {"client_id": f"s{n}", "load": f"{cell.load_amount}", "reps": str(cell.reps), "reserve_reps": "2"}
        assert client.post(f"/floor/cells/{cell.id}/sets", data=data | {"pain": "0"}).status_code == 302
    with reading(app) as db:
        newest = select(DecisionRow).where(DecisionRow.cell_id == cell.id).order_by(DecisionRow.id.desc())
        return db.scalars(newest).first(), cell  # type: ignore[return-value]


def leads(page: str) -> dict[str, str]:
    """Answer → the load it says it leads to, in the next working week."""
    found = re.findall(r'value="(up|stay|down)".*?<b>([^<]*)</b>', page, re.S)
    return {code: words.split(" × ")[0].split()[-1] for code, words in found}


def test_every_answer_keeps_the_number_it_promised(app: Flask, client: FlaskClient) -> None:
    row, cell = judged(app, client)
    page = client.get(f"/review/decisions/{row.id}/otherwise", headers=PIECE).text
    assert "<html" not in page
    promised = leads(page)
    assert set(promised) == {"up", "stay", "down"}
    assert float(promised["down"]) < float(promised["up"])
    before = [c.id for c in current_cells(app, "Marit Holm", cell.exercise_id)]
    assert before == [c.id for c in current_cells(app, "Marit Holm", cell.exercise_id)], "looking changes nothing"
    client.post(f"/review/decisions/{row.id}", data={"code": "down", "reason": "tired"})
    following = next(c for c in current_cells(app, "Marit Holm", cell.exercise_id)[3:] if c.kind == "work")
    assert f"{following.load_amount:f}".rstrip("0").rstrip(".") == promised["down"].rstrip("0").rstrip(".")


def test_without_a_reason_the_choice_stays_and_nothing_is_decided(app: Flask, client: FlaskClient) -> None:
    row, cell = judged(app, client)
    back = f"/floor/?lift={cell.exercise_id}"
    answer = client.post(f"/review/decisions/{row.id}", data={"code": "down", "reason": " ", "back": back})
    assert answer.status_code == 422 and 'value="down" checked' in re.sub(r"\s+", " ", answer.text)
    assert f'name="back" value="{back}"' in answer.text, "and leads back to the floor"
    with reading(app) as db:
        assert not db.get_one(DecisionRow, row.id).settled
    then = client.post(f"/review/decisions/{row.id}", data={"code": "down", "reason": "tired", "back": back})
    assert then.headers["Location"].endswith(back)


def test_on_a_level_the_answers_name_the_levels(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        row = db.scalars(select(DecisionRow).where(DecisionRow.ladder != "")).first()
        assert row is not None
    page = client.get(f"/review/decisions/{row.id}/otherwise").text
    assert "Stay on this level" in page and "<html" in page


def test_a_stop_is_not_decided_otherwise_and_strangers_see_none(app: Flask, client: FlaskClient) -> None:
    assistant = app.test_client()
    assistant.post(f"/demo-sign-in/{user_id(app, 'lund')}")
    row, _ = judged(app, client)
    assert assistant.get(f"/review/decisions/{row.id}/otherwise").status_code == 403
    assert client.get("/review/decisions/99999/otherwise").status_code == 404
    with app.extensions["database"].writing() as db:
        db.get_one(DecisionRow, row.id).code = Code.STOP
    assert 'type="radio"' not in client.get(f"/review/decisions/{row.id}/otherwise", headers=PIECE).text


def test_going_back_gets_the_whole_page_and_pieces_are_kept_apart(client: FlaskClient) -> None:
    restored = PIECE | {"HX-History-Restore-Request": "true"}
    for address in ("/floor/", "/movements/", "/block/3"):
        target = {"HX-Target": "panel"} if "block" in address else {}
        assert "<html" not in client.get(address, headers=PIECE | target).text
        answer = client.get(address, headers=restored | target)
        assert "<html" in answer.text and "HX-Request" in answer.headers["Vary"]


def test_who_was_stopped_is_never_shown_as_done(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    data = {
        "client_id": "x", "load": f"{cell.load_amount}", "reps": "2", "reserve_reps": "1",
        "pain": "6", "pain_region": "knee", "pain_character": "sharp",
    }  # fmt: skip
    client.post(f"/floor/cells/{cell.id}/sets", data=data)
    page = client.get(f"/floor/?lift={cell.exercise_id}&athlete={cell.athlete_id}").text
    line = page.split("<b>Marit</b>")[1].split("</a>")[0]
    assert "stopped" in line and "done" not in line


def test_stay_is_the_same_again_and_the_coachs_own_number_holds(app: Flask, client: FlaskClient) -> None:
    row, cell = judged(app, client)
    page = client.get(f"/review/decisions/{row.id}/otherwise", headers=PIECE).text
    assert 'name="own_load"' in page
    bad = client.post(f"/review/decisions/{row.id}", data={"code": "own", "own_load": "61.3", "reason": "sure"})
    assert (
        bad.status_code == 422 and 'value="61.3"' in bad.text and 'value="own" checked' in re.sub(r"\s+", " ", bad.text)
    )
    said = {"code": "own", "own_load": "60", "reason": "I watched it"}
    assert client.post(f"/review/decisions/{row.id}", data=said).status_code == 302
    following = next(c for c in current_cells(app, "Marit Holm", cell.exercise_id) if c.week == cell.week + 1)
    assert (float(following.load_amount or 0), following.origin, following.live) == (60.0, "coach", True)
    client.post(f"/block/{_block_of(app, cell)}/replan", data={})
    again = next(c for c in current_cells(app, "Marit Holm", cell.exercise_id) if c.week == cell.week + 1)
    assert float(again.load_amount or 0) == 60.0, "planning again leaves it"


def test_stay_repeats_load_and_reps(app: Flask, client: FlaskClient) -> None:
    row, cell = judged(app, client)
    assert client.post(f"/review/decisions/{row.id}", data={"code": "stay", "reason": "slow"}).status_code == 302
    work = [c for c in current_cells(app, "Marit Holm", cell.exercise_id) if c.week > cell.week and c.kind == "work"]
    assert (work[0].load_amount, work[0].reps) == (cell.load_amount, cell.reps)


def _block_of(app: Flask, cell: Cell) -> int:
    with reading(app) as db:
        return db.get_one(Exercise, cell.exercise_id).block_id
