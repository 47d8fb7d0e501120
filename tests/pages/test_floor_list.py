"""The floor's running list: supersets at once, both sides as one set, everything told of a set, work left out and back."""

import datetime as dt
import re
from collections.abc import Callable
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.cell import State
from backsquat.core.rules import Rules
from backsquat.core.sessions.running import ActKind
from backsquat.storage.models import Block, Cell, DecisionRow, Exercise, SessionAct, SetEntry
from backsquat.work.plan.sheet import sheet_of
from tests.demo_club import athlete_id, entries, live_cell, reading

MONDAY = 5
SPLIT, ROW, CALF = "rear_raised_dumbbells", "plank_row", "calf_raise"


@pytest.fixture
def on_wednesday(app: Flask, monkeypatch: pytest.MonkeyPatch) -> Callable[[], None]:
    """Two days later, when called."""
    return lambda: monkeypatch.setattr(app.extensions["clock"], "fixed_day", dt.date(2026, 11, 25))


def on_monday(app: Flask, movement: str) -> Cell:
    """What Ines does of a movement on the demo's Monday."""
    with reading(app) as db:
        exercises = select(Exercise.id).where(Exercise.session_id == MONDAY, Exercise.movement == movement)
        ines = athlete_id(app, "Ines Okafor")
        mine = (Cell.exercise_id.in_(exercises), Cell.athlete_id == ines, Cell.week == 2, Cell.live)
        return db.scalars(select(Cell).where(*mine)).one()


def tell(client: FlaskClient, cell: Cell, n: int, **told: Any) -> int:
    values = {"load": "16", "reserve_reps": "1", "client_id": f"t{cell.id}-{n}", "pain_character": "dull"}
    return client.post(f"/floor/cells/{cell.id}/sets", data=values | told).status_code


def sides(client: FlaskClient, cell: Cell, n: int, left: int = 8, right: int = 8, **told: Any) -> int:
    return tell(client, cell, n, left_reps=str(left), right_reps=str(right), **told)


def shown(client: FlaskClient, **where: Any) -> str:
    return " ".join(client.get("/floor/", query_string=where).text.split())


def squatted(client: FlaskClient, app: Flask, name: str) -> None:
    cell = live_cell(app, name, 2)
    for n in range(cell.sets):
        tell(client, cell, n, load=str(cell.load_amount), reps=str(cell.reps))


def now(page: str) -> str:
    """What comes now, as the card says it."""
    card = page.split('class="card-name"')[1].split("</p>")[0]
    return " ".join(re.sub("<[^>]+>", " ", card).split())[4:]  # without the tag's letter


def test_one_list_from_the_first_squat_to_the_spare_minutes(app: Flask, client: FlaskClient) -> None:
    ines = athlete_id(app, "Ines Okafor")
    page = shown(client, athlete=ines)
    listed = re.findall(r"run-row[^>]*>", page)
    assert len(listed) == 8 and "is-circuit" in page and "is-superset" in page  # warm-up and seven items
    assert now(page).startswith("Back squat 1 of 3")
    squatted(client, app, "Ines Okafor")
    assert now(shown(client, athlete=ines)).startswith("Rear-foot-elevated split squat")
    sides(client, live_cell(app, "Ines Okafor", 2, SPLIT), 1)
    assert "Plank row set 1 of 2 · no rest before it" in now(shown(client, after=ines, rack=3)), (
        "the partner, whoever waits"
    )
    sides(client, on_monday(app, ROW), 1)
    after = shown(client, after=ines, rack=3)
    assert "Ines" not in after.split("lifter is-up")[1].split("</b>")[0], "the round is done: the next lifter is up"
    assert "set 2 of 2" in now(shown(client, athlete=ines))


def test_left_and_right_are_one_planned_set_with_their_own_reps(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Ines Okafor", 2, SPLIT)
    assert sides(client, cell, 1, 8, 6, left_supported="y") == 302
    (entry,) = entries(app, cell.id)
    assert (entry.left_reps, entry.right_reps, entry.reps, entry.side) == (8, 6, 6, "")
    assert entry.supported and entry.notes["left_supported"] and entry.estimate_kg is None
    assert "8 left, 6 right" in shown(client, athlete=cell.athlete_id, lift=cell.exercise_id)
    # and one side after the other, as two taps: still one planned set
    assert sides(client, cell, 2, 8, 0) == 302
    page = shown(client, athlete=cell.athlete_id, lift=cell.exercise_id)
    assert 'aria-label="1 of 2 sets done"' in page and "right_reps" in page
    assert 'name="left_reps"' not in page.split('class="done-form"')[1].split("</form>")[0], "only the right is left"
    assert sides(client, cell, 3, 0, 8) == 302
    assert [(one.set_number, one.side) for one in entries(app, cell.id)] == [(1, ""), (2, "left"), (2, "right")]
    assert 'aria-label="2 of 2 sets done"' in shown(client, athlete=cell.athlete_id, lift=cell.exercise_id)
    with reading(app) as db:
        judged = db.scalars(select(DecisionRow).where(DecisionRow.cell_id == cell.id)).all()
        assert len(judged) == 1, "judged once both sets are whole, and not before"
        assert judged[0].facts["sets"] == 2, "two planned sets, whatever halves they came in"


def test_reps_of_a_side_are_said_to_be_of_a_side_wherever_they_stand(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Ines Okafor", 2, SPLIT)
    wall = " ".join(client.get("/floor/paper/wall").text.split())
    mine = wall.split("Ines Okafor</th>")[1].split("</tr>")[0].split("<td")
    split = next(one for one in mine if "split squat" in one)
    assert f"<b>{cell.sets} × {cell.reps} each side</b> <b>{cell.load_amount:g} kg a hand</b>" in split
    assert "each side" not in next(one for one in mine if "Back squat" in one)
    for rack in wall.split("<table>")[1:]:  # one that does less has as many columns: on paper the first row sets them
        assert len({row.count("<td") for row in rack.split("</table>")[0].split("<tr>")[1:]}) == 1
    listed = shown(client, athlete=cell.athlete_id).split(f"lift={cell.exercise_id}")[1].split("</li>")[0]
    assert f"× {cell.reps} each side" in listed
    sides(client, cell, 1, 8, 8)
    assert "16 × 8 each side" in " ".join(client.get(f"/athletes/{cell.athlete_id}").text.split())


def test_sides_that_differ_show_on_the_athletes_page(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Ines Okafor", 2, SPLIT)
    sides(client, cell, 1, 8, 3)
    page = " ".join(client.get(f"/athletes/{cell.athlete_id}").text.split())
    assert "Rear-foot-elevated split squat, dumb-bells beside: right weaker" in page


def test_a_supported_side_is_no_measure_of_a_free_one(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Ines Okafor", 2, SPLIT)
    sides(client, cell, 1, 8, 3, right_supported="y")
    page = " ".join(client.get(f"/athletes/{cell.athlete_id}").text.split())
    assert "dumb-bells beside: right weaker" not in page


def test_everything_told_of_a_set_is_kept_and_read_next_time(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Ines Okafor", 2, SPLIT)
    told = {"felt": "lower back", "soreness": "3", "note": "left knee drifts from rep 5", "step_cm": "38"}
    page = client.get(f"/floor/?athlete={cell.athlete_id}&lift={cell.exercise_id}").text
    felt = re.findall(r'<option value="([^"]+)">', page.split('name="felt"')[1].split("</select>")[0])
    told["felt"] = felt[-1]
    faults = re.findall(r'name="fault" value="([^"]+)"', page)[:2]
    assert sides(client, cell, 1, fault=faults, **told) == 302
    (entry,) = entries(app, cell.id)
    assert entry.faults == faults and entry.fault in faults
    assert entry.notes == {"felt": felt[-1], "soreness": 3, "note": told["note"], "step_cm": 38.0}
    with reading(app) as db:
        db.get_one(SetEntry, entry.id)
    wrong = {"soreness": "40", "step_cm": "900", "note": "x" * 200, "left_reps": "99"}
    for name, value in wrong.items():
        answer = client.post(
            f"/floor/cells/{cell.id}/sets",
            data={
                "load": "16",
                "left_reps": "8",
                "right_reps": "8",
                "client_id": f"w{name}",
                "athlete": str(cell.athlete_id),
                "lift": str(cell.exercise_id),
                name: value,
            },
        )
        assert answer.status_code == 422 and value in answer.text, name


def test_a_wrong_place_is_answered_with_its_fix_and_asked_again(app: Flask, client: FlaskClient) -> None:
    before, cell = live_cell(app, "Ines Okafor", 1, SPLIT), live_cell(app, "Ines Okafor", 2, SPLIT)
    page = client.get(f"/floor/?athlete={cell.athlete_id}&lift={cell.exercise_id}").text
    felt = re.findall(r'<option value="([^"]+)">', page.split('name="felt"')[1].split("</select>")[0])
    with reading(app) as db:
        old = db.scalars(select(SetEntry).where(SetEntry.cell_id == before.id)).first()
        assert old is not None
    data = {"load": "16", "left_reps": "8", "right_reps": "8", "client_id": "felt", "felt": felt[-1]}
    assert client.post(f"/floor/sets/{old.id}/correct", data=data).status_code == 302
    again = shown(client, athlete=cell.athlete_id, lift=cell.exercise_id)
    assert f"Last time felt in the {felt[-1]}" in again and "Did it help?" in again
    sides(client, cell, 1, helped="yes")
    assert entries(app, cell.id)[0].notes == {"helped": "yes"}


def test_work_left_out_needs_a_reason_waits_on_the_shelf_and_comes_back(
    app: Flask, client: FlaskClient, on_wednesday: Callable[[], None]
) -> None:
    cell = on_monday(app, CALF)
    assert client.post(f"/floor/cells/{cell.id}/skip", data={"reason": "  "}, follow_redirects=True).status_code == 200
    with reading(app) as db:
        assert db.scalars(select(SessionAct)).all() == []
    for _ in range(2):  # twice is once
        client.post(f"/floor/cells/{cell.id}/skip", data={"reason": "no time"})
    with reading(app) as db:
        (act,) = db.scalars(select(SessionAct)).all()
        assert act.what is ActKind.SKIPPED and act.facts == {"movement": CALF, "sets": 2, "reason": "no time"}
    page = shown(client, athlete=cell.athlete_id)
    assert "left out: no time" in page and "is-shelf" not in page, "on the shelf from the next session on"
    on_wednesday()
    wednesday = shown(client, athlete=cell.athlete_id)
    assert "Calf raise with end hold, 2 sets from 23 Nov: no time" in wednesday
    data = {"session": "6", "in_week": "2", "sets": "2", "reps": "15", "load": "0", "reserve_reps": "2"}
    bad = client.post(f"/floor/shelf/{act.id}/take", data=data | {"reps": ""}, follow_redirects=True)
    assert bad.status_code == 200 and "is-shelf" in bad.text
    assert client.post(f"/floor/shelf/{act.id}/take", data=data).status_code == 302
    assert "is-shelf" not in shown(client, athlete=cell.athlete_id)
    with reading(app) as db:
        done = db.scalars(
            select(SetEntry).where(SetEntry.athlete_id == cell.athlete_id, SetEntry.done_on == dt.date(2026, 11, 25))
        ).all()
        assert [(one.movement, one.reps) for one in done] == [(CALF, 15), (CALF, 15)]


def test_a_tick_that_belongs_to_no_exercise_is_taken_back(app: Flask, client: FlaskClient) -> None:
    cell = on_monday(app, CALF)
    with reading(app) as db:
        held = db.get_one(Exercise, cell.exercise_id).session_id
    with app.extensions["database"].writing() as db:
        facts: dict[str, Any] = {"done_on": dt.date(2026, 11, 23), "at": dt.datetime(2026, 11, 23, 9), "by_id": 1}
        db.add(
            SessionAct(
                athlete_id=cell.athlete_id,
                session_id=held,
                week=0,
                what=ActKind.DRILL,
                facts={"movement": "crawling"},
                **facts,
            )
        )
        db.flush()
        act_id = db.scalars(select(SessionAct.id)).one()
    assert client.post(f"/floor/acts/{act_id}/back").status_code == 302


def test_what_was_left_out_can_be_done_after_all_or_let_go(
    app: Flask, client: FlaskClient, on_wednesday: Callable[[], None]
) -> None:
    cell = on_monday(app, CALF)
    client.post(f"/floor/cells/{cell.id}/skip", data={"reason": "tired"})
    with reading(app) as db:
        act_id = db.scalars(select(SessionAct.id)).one()
    assert client.post(f"/floor/acts/{act_id}/back").status_code == 302
    shown(client)  # what was said is read
    assert "left out" not in shown(client, athlete=cell.athlete_id)
    assert client.post(f"/floor/acts/{act_id}/back").status_code == 404, "it stands no more"
    client.post(f"/floor/cells/{cell.id}/skip", data={"reason": "tired"})
    with reading(app) as db:
        act_id = max(db.scalars(select(SessionAct.id)))
    on_wednesday()
    assert client.post(f"/floor/shelf/{act_id}/let-go", data={"session": "6", "in_week": "2"}).status_code == 302
    assert "is-shelf" not in shown(client, athlete=cell.athlete_id)


def test_the_shelf_offers_nothing_that_was_stopped_since(
    app: Flask, client: FlaskClient, on_wednesday: Callable[[], None]
) -> None:
    cell = on_monday(app, CALF)
    client.post(f"/floor/cells/{cell.id}/skip", data={"reason": "no time"})
    hurts = {"pain": "6", "pain_region": "calf", "pain_character": "sharp", "painful": "1"}
    squat = live_cell(app, "Ines Okafor", 2)
    tell(client, squat, 1, load=str(squat.load_amount), reps="2", **hurts)
    on_wednesday()
    assert "is-shelf" not in shown(client, athlete=cell.athlete_id)


def test_ramp_sets_trial_reps_and_the_warm_up_are_ticked_once(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Ines Okafor", 2)
    page = shown(client, athlete=cell.athlete_id)
    assert "Ramp 20 × 8 done" in page
    for _ in range(2):
        assert client.post(f"/floor/cells/{cell.id}/tick", data={"what": "ramp", "n": "1"}).status_code == 302
    assert "Ramp 20 × 8 done" not in shown(client, athlete=cell.athlete_id)
    assert client.post(f"/floor/cells/{cell.id}/tick", data={"what": "skipped"}).status_code == 404
    split = live_cell(app, "Ines Okafor", 2, SPLIT)
    assert "Trial rep done" in shown(client, athlete=split.athlete_id, lift=split.exercise_id)
    client.post(f"/floor/cells/{split.id}/tick", data={"what": "trial"})
    assert "Trial rep done" not in shown(client, athlete=split.athlete_id, lift=split.exercise_id)
    client.post(f"/floor/sessions/{MONDAY}/athletes/{cell.athlete_id}/warm-up", data={"in_week": "2"})
    with reading(app) as db:
        kinds = [act.what for act in db.scalars(select(SessionAct).order_by(SessionAct.id))]
        assert kinds == [ActKind.RAMP, ActKind.TRIAL, ActKind.DRILL]


def test_the_first_set_finds_the_load_and_it_is_there_next_time(app: Flask, client: FlaskClient) -> None:
    cell = on_monday(app, ROW)
    first = shown(client, athlete=cell.athlete_id, lift=cell.exercise_id)
    begin = f"{cell.start_amount:g} {cell.load_unit}"
    assert f"Find the load: begin with {begin}, then take what leaves RIR 4" in first
    assert f'name="load" value="{cell.start_amount:g}"' in first
    sides(client, cell, 1, 8, 8, load="16", reserve_reps="4")
    page = shown(client, athlete=cell.athlete_id, lift=cell.exercise_id)
    assert "found: about" in page and 'name="load" value="16"' in page.split("done-form")[1].split("</form>")[0]
    next_week = shown(client, athlete=cell.athlete_id, lift=cell.exercise_id, week="2026-11-30")
    assert "last time 16 × 8" in next_week and "Find the load" not in next_week


@pytest.mark.parametrize("path", ["tick", "skip"])
def test_nobody_elses_cells_and_no_unknown_ones(client: FlaskClient, path: str) -> None:
    assert client.post(f"/floor/cells/999999/{path}", data={"what": "ramp", "reason": "x"}).status_code == 404
    assert client.post("/floor/shelf/999999/take", data={}).status_code == 404
    assert client.post("/floor/acts/999999/back").status_code == 404
    assert client.post("/floor/sessions/999/athletes/1/warm-up").status_code == 404


def test_a_set_done_another_way_on_purpose_keeps_its_own_record_line(app: Flask, client: FlaskClient) -> None:
    client.post("/session/exercises/5", data={"style": "pause", "range": "half"})
    client.post("/block/3/publish")
    cell = live_cell(app, "Ines Okafor", 2)
    page = shown(client, athlete=cell.athlete_id)
    assert "half range, pause in it, pause at the bottom" in page
    tell(client, cell, 1, load=str(cell.load_amount), reps=str(cell.reps))
    entry = entries(app, cell.id)[0]
    assert entry.manner == "half, pause" and entry.depth_standard.endswith(", half") and entry.estimate_kg is None


def test_one_more_set_after_the_decision_is_kept_and_marked(app: Flask, client: FlaskClient) -> None:
    squatted(client, app, "Ines Okafor")
    cell = live_cell(app, "Ines Okafor", 2)
    assert "One more set" in shown(client, athlete=cell.athlete_id, lift=cell.exercise_id)
    tell(client, cell, 9, load=str(cell.load_amount), reps="4")
    assert entries(app, cell.id)[-1].flags == ["extra"]


def test_the_session_page_offers_what_waits_on_the_shelf(
    app: Flask, client: FlaskClient, on_wednesday: Callable[[], None]
) -> None:
    cell = on_monday(app, CALF)
    client.post(f"/floor/cells/{cell.id}/skip", data={"reason": "no time"})
    on_wednesday()
    page = " ".join(client.get(f"/session/?session=6&athlete={cell.athlete_id}").text.split())
    assert "On the shelf" in page and "from 23 Nov: no time" in page
    with reading(app) as db:
        act_id = db.scalars(select(SessionAct.id)).one()
    back = client.post(f"/floor/shelf/{act_id}/let-go", data={"back": "/session/?session=6"})
    assert back.headers["Location"] == "/session/?session=6"
    assert "On the shelf" not in client.get(f"/session/?session=6&athlete={cell.athlete_id}").text


def test_body_weight_is_never_under_the_empty_bar(app: Flask, client: FlaskClient) -> None:
    """Calf raises at body weight led to a target a little under nought, and to words about a bar."""
    calf = on_monday(app, CALF)
    for n in range(2):
        sides(client, calf, n, 12, 12, load="0", reserve_reps="0")
    client.post("/block/3/replan", data={"exercise": str(calf.exercise_id)})
    with reading(app) as db:
        coming = (Cell.exercise_id == calf.exercise_id, Cell.athlete_id == calf.athlete_id, Cell.current, Cell.week > 2)
        states = set(db.scalars(select(Cell.state).where(*coming)))
        assert states <= {"work", "load"}, states


def test_zero_is_no_load_to_put_up(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        assert not db.scalars(select(Cell.id).where(Cell.load_kg == 0)).all(), "no plan of the demo says 0 kg"
        monday = select(Exercise.id).where(Exercise.session_id == MONDAY)
        without = select(Cell).where(Cell.exercise_id.in_(monday), Cell.week == 2, Cell.live, Cell.state == State.WORK)
        cell = db.scalars(without.where(Cell.start_amount.is_(None), Cell.hold_s == 0).limit(1)).one()
    page = shown(client, athlete=cell.athlete_id, lift=cell.exercise_id)
    assert "floor-load" not in page and f"{cell.reps} <span" in page and "at 0" not in page
    rows = [row.split("run-dose")[1].split("</span>")[0] for row in page.split("run-row")[1:] if "run-dose" in row]
    assert rows and not [row for row in rows if row.split(">")[1].startswith("0 ×")]


def test_work_by_the_clock_stays_by_the_clock_after_its_decision(app: Flask, client: FlaskClient) -> None:
    crawl = on_monday(app, "crawling")
    for n in range(2):
        tell(client, crawl, n, load="0", reps="1", hold_s="60", reserve_reps="")
    with reading(app) as db:
        decision = db.scalars(select(DecisionRow).where(DecisionRow.cell_id == crawl.id)).one()
        assert decision.reason == "clock_done"
    client.post(f"/review/decisions/{decision.id}")
    with reading(app) as db:
        coming = (Cell.exercise_id == crawl.exercise_id, Cell.athlete_id == crawl.athlete_id, Cell.live, Cell.week > 2)
        assert set(db.scalars(select(Cell.hold_s).where(*coming))) == {60}


def test_spare_work_that_was_not_reached_is_not_missed(app: Flask) -> None:
    with reading(app) as db:
        block = db.get_one(Block, 3)
        by_movement = {exercise.movement: exercise for exercise in block.exercises if exercise.session_id == MONDAY}
        wednesday = dt.date(2026, 11, 25)

        def missed(movement: str) -> bool:
            sheet = sheet_of(db, 1, block, by_movement[movement], wednesday, Rules())
            return any(cell.missed for row in sheet.rows for cell in row.cells)

        assert missed(CALF) and not missed("free_exploration")


def test_work_begun_and_stopped_since_is_offered_no_more(app: Flask, client: FlaskClient) -> None:
    """One squat was done; then the split squat hurt, in a place the squat loads as well."""
    squat, split = live_cell(app, "Ines Okafor", 2), live_cell(app, "Ines Okafor", 2, SPLIT)
    tell(client, squat, 1, load=str(squat.load_amount), reps=str(squat.reps))
    sides(client, split, 1, pain="6", pain_region="knee", pain_character="sharp", painful="1")
    page = shown(client, athlete=squat.athlete_id, lift=squat.exercise_id)
    assert "Stopped since" in page and "done-form" not in page and "Different<" not in page
    assert not now(shown(client, rack=3, athlete=squat.athlete_id)).startswith("Back squat")
