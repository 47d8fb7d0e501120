"""The session page: in time, moved and undone, on the demo and on a squad made from nothing."""

import json

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Block, BlockSession, Cell, Exercise, ExerciseWeek
from tests.demo_club import athlete_id, live_cell, reading, undo_of

MONDAY, WEDNESDAY = 5, 6  # sessions of the November wave
SQUAT, SPLIT, HINGE, CURL = 5, 6, 7, 8  # exercises


def order(app: Flask, session_id: int = MONDAY) -> list[tuple[str, int, bool, str]]:
    with reading(app) as db:
        block = db.get_one(Block, 3)
        exercises = [exercise for exercise in block.exercises if exercise.session_id == session_id]
        return [(exercise.movement, exercise.superset, exercise.circuit, exercise.role.value) for exercise in exercises]


def move(client: FlaskClient, what: str, key: int, to: int | str = 0, session_id: int = MONDAY, **more: object) -> int:
    data = {"what": what, "key": str(key), "to": str(to), **more}
    return client.post(f"/session/{session_id}/move", data=data).status_code


def test_the_demos_days_are_real_sessions(client: FlaskClient) -> None:
    monday = client.get(f"/session/?session={MONDAY}").text
    assert "Squat day" in monday and 'aria-label="circuit"' in monday and "Warm-up" in monday and ">spare" in monday
    assert "2 × 8 each side (16 in all)" in monday and "Fits," in monday
    wednesday = client.get(f"/session/?session={WEDNESDAY}").text
    assert "Over by" in wednesday and "Take it" in wednesday


def test_taking_a_proposal_brings_it_in_and_one_undo_puts_it_back(app: Flask, client: FlaskClient) -> None:
    before = order(app, WEDNESDAY)
    page = client.get(f"/session/?session={WEDNESDAY}").text
    first = page.split('class="proposals"')[1].split("</form>")[0]
    values = dict(part.split('"')[::2][:2] for part in first.split('name="')[2:5] if "value" in part)
    fields = {name: first.split(f'name="{name}" value="')[1].split('"')[0] for name in ("what", "key", "to")}
    assert values and client.post(f"/session/{WEDNESDAY}/move", data=fields).status_code == 302
    assert "Over by" not in client.get(f"/session/?session={WEDNESDAY}").text
    assert order(app, WEDNESDAY) != before
    shown = client.get(f"/session/?session={WEDNESDAY}").text
    change = shown.split('action="/block/3/undo/')[1].split('"')[0].split("?")[0]
    back = client.post(f"/block/3/undo/{change}", data={"back": f"/session/?session={WEDNESDAY}"})
    assert back.headers["Location"].startswith("/session/") and order(app, WEDNESDAY) == before
    elsewhere = client.post(f"/block/3/redo/{change}", data={"back": "https://example.org/session/"})
    assert elsewhere.headers["Location"].startswith("/block/") and order(app, WEDNESDAY) != before


def test_every_move_is_kept_undone_and_waits_for_publish(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        on_floor = [(one.exercise_id, one.position, one.superset) for one in db.scalars(select(ExerciseWeek))]
    before = order(app)
    for what, key, to in (
        ("later", SQUAT, 0), ("earlier", SQUAT, 0), ("leave_superset", SPLIT, 0), ("superset", SPLIT, SQUAT), ("circuit", SPLIT, 1),
        ("rest", SPLIT, 75), ("spare", SPLIT, 1), ("spare", SPLIT, 0), ("before", SPLIT, SQUAT), ("up", SPLIT, 0),
    ):  # fmt: skip
        assert move(client, what, key, to) == 302, what
    assert order(app) != before
    with reading(app) as db:
        assert [(one.exercise_id, one.position, one.superset) for one in db.scalars(select(ExerciseWeek))] == on_floor
    client.post("/block/3/publish")
    with reading(app) as db:
        week = {one.exercise_id: one for one in db.scalars(select(ExerciseWeek).where(ExerciseWeek.week == 3))}
        for exercise in db.scalars(select(Exercise).where(Exercise.session_id == MONDAY)):
            assert (week[exercise.id].superset, week[exercise.id].position) == (exercise.superset, exercise.position)
        past = db.scalars(select(ExerciseWeek).where(ExerciseWeek.week == 1, ExerciseWeek.exercise_id == SPLIT)).one()
        assert past.superset == 1, "what is past keeps the superset it was done in"


@pytest.mark.parametrize(
    ("data", "status"),
    [
        ({"what": "fly", "key": "5"}, 404), ({"what": "later", "key": "999"}, 422), ({"what": "later"}, 422),
        ({"what": "rest", "key": "5", "to": "9000"}, 422), ({"what": "superset", "key": "5", "to": "x"}, 422),
        ({"what": "sets", "key": "999", "to": "2"}, 404), ({"what": "day", "key": "5", "to": "9999"}, 404),
        ({"what": "gather", "key": "5", "others": "77"}, 422), ({"what": "window", "key": "7"}, 404),
    ],
)  # fmt: skip
def test_bad_moves_are_refused_in_words(client: FlaskClient, data: dict[str, str], status: int) -> None:
    answer = client.post(f"/session/{MONDAY}/move", data=data)
    assert answer.status_code == status and "Traceback" not in answer.text


def test_a_superset_is_full_at_three_and_says_so(client: FlaskClient) -> None:
    assert move(client, "superset", SQUAT, SPLIT) == 302
    answer = client.post(f"/session/{MONDAY}/move", data={"what": "superset", "key": "10", "to": str(SPLIT)})
    assert answer.status_code == 422 and "A superset holds at most 3" in answer.text


def test_a_hinge_goes_to_another_day_and_a_trim_plans_again(app: Flask, client: FlaskClient) -> None:
    assert move(client, "day", HINGE, MONDAY, WEDNESDAY) == 302
    with reading(app) as db:
        assert db.get_one(Exercise, HINGE).session_id == MONDAY
    page = client.get(f"/session/?session={MONDAY}&week=2026-12-07").text
    assert "after a heavy squat: lower-back index" in " ".join(page.split()), "said where both stand in one session"
    assert move(client, "sets", CURL, 2, WEDNESDAY) == 302
    with reading(app) as db:
        sets = db.scalars(select(Cell.sets).where(Cell.exercise_id == CURL, Cell.current, Cell.week == 4)).all()
        assert sets.count(2) > len(sets) / 2, "who does something else in its stead keeps that dose"


def test_another_place_offers_its_window(app: Flask, client: FlaskClient) -> None:
    move(client, "before", SPLIT, SQUAT)
    page = client.get(f"/session/?session={MONDAY}").text
    assert "were for another place" in page and "Take what is usual here" in page
    assert move(client, "window", SPLIT) == 302
    with reading(app) as db:
        assert db.get_one(Exercise, SPLIT).parameters["low"] == 4


def test_the_sessions_own_facts(app: Flask, client: FlaskClient) -> None:
    for wrong in ({"minutes": "5"}, {"minutes": "60", "supersets": "wild"}, {"minutes": "x"}):
        assert client.post(f"/session/{MONDAY}/facts", data=wrong).status_code == 422
    data = {"name": "Legs", "minutes": "45", "supersets": "same", "hips_first": "1"}
    assert client.post(f"/session/{MONDAY}/facts", data=data).status_code == 302
    page = client.get(f"/session/?session={MONDAY}").text
    assert "Legs" in page and "Over by" in page
    with reading(app) as db:
        held = db.get_one(BlockSession, MONDAY)
        assert (held.minutes, held.supersets, held.hips_first) == (45, "same", True)


def test_one_athlete_sees_the_own_session(app: Flask, client: FlaskClient) -> None:
    liv = client.get(f"/session/?session={MONDAY}&athlete={athlete_id(app, 'Liv Aasen')}").text
    assert "Goblet squat" in liv and "Back squat</a>" not in liv
    petra = client.get(f"/session/?session={MONDAY}&athlete={athlete_id(app, 'Petra Skov')}").text
    assert f">{int(live_cell(app, 'Petra Skov', 2).load_amount or 0)}<" in petra
    assert client.get(f"/session/?session={MONDAY}&athlete=999").status_code == 404


def test_a_manner_acts_on_time_first_load_and_the_record(app: Flask, client: FlaskClient) -> None:
    def minutes() -> float:
        page = client.get(f"/session/?session={MONDAY}").text
        return float(page.split("<b>")[1].split(" min")[0])

    before = minutes()
    with reading(app) as db:
        of = select(Cell.athlete_id, Cell.load_kg).where(Cell.exercise_id == SQUAT, Cell.week == 5, Cell.load_kg > 0)
        loads = dict(db.execute(of.where(Cell.live)).all())
    wrong = client.post(f"/session/exercises/{SQUAT}", data={"style": "wild", "tempo": "x", "wedge_mm": "900"})
    assert wrong.status_code == 422 and "Choose one of" in wrong.text and "Four numbers" in wrong.text
    assert client.post(f"/session/exercises/{SQUAT}", data={"style": "pause", "stance": "long"}).status_code == 302
    assert minutes() > before and "pause at the bottom" in client.get(f"/session/?session={MONDAY}").text
    with reading(app) as db:
        eased = dict(db.execute(of.where(Cell.current)).all())
    shares = [eased[who] / loads[who] for who in loads if who in eased]
    assert min(shares) < 0.95, "a pause starts lighter"
    assert max(shares) <= 1, "and nobody heavier"


def loads_of(app: Flask) -> dict[tuple[int, int], float | None]:
    with reading(app) as db:
        rows = select(Cell.athlete_id, Cell.week, Cell.load_kg).where(Cell.exercise_id == SQUAT, Cell.current)
        return {(who, week): kg for who, week, kg in db.execute(rows)}


def current(app: Flask, who: int, week: int) -> int:
    with reading(app) as db:
        place = (Cell.exercise_id == SQUAT, Cell.athlete_id == who, Cell.week == week, Cell.current)
        return db.scalars(select(Cell.id).where(*place)).one()


def said_left(app: Flask, client: FlaskClient, who: int) -> int:
    panel = client.get(f"/block/3?lift={SQUAT}&cell={current(app, who, 4)}").text.split("RIR about ")[1]
    return int(panel[: panel.index(" ")].rstrip(",<"))


def test_a_manner_moves_the_loads_to_come_before_they_are_published(app: Flask, client: FlaskClient) -> None:
    """A running block: this week's decided numbers follow, the coach's own stay, undo brings all of it back."""
    own = live_cell(app, "Petra Skov", 5)
    client.post(f"/block/cells/{own.id}", data={"load": "70", "bar": own.bar})
    marit, before = athlete_id(app, "Marit Holm"), loads_of(app)
    plain_left = said_left(app, client, marit)
    said = client.post(f"/session/exercises/{SQUAT}", data={"style": "pause"}, follow_redirects=True).text
    assert "The loads to come follow, as a draft" in said
    after = loads_of(app)
    moved = {key for key in before if after[key] != before[key]}
    kept = {(own.athlete_id, 5), (athlete_id(app, "Tove Lindqvist"), 5)}  # the coach's own
    coming = [key for key, kg in before.items() if (kg or 0) > 20 and key[1] in (4, 5, 6) and key not in kept]
    assert len(coming) > 30 and all((after[key] or 0) < (before[key] or 0) for key in coming)
    assert not kept & moved
    assert abs(said_left(app, client, marit) - plain_left) <= 1, "a lighter load with a pause leaves what was asked"
    assert after[marit, 4] == pytest.approx(0.9 * (before[marit, 4] or 0), abs=2.6)
    assert "for how it is done" in client.get(f"/block/3?lift={SQUAT}&cell={current(app, marit, 4)}").text
    client.post(undo_of(said))
    assert loads_of(app) == before


def test_one_athletes_manner_moves_only_their_loads(app: Flask, client: FlaskClient) -> None:
    marit, before = athlete_id(app, "Marit Holm"), loads_of(app)
    said = client.post(
        f"/session/exercises/{SQUAT}", data={"range": "front raised", "athlete": str(marit)}, follow_redirects=True
    ).text
    after = loads_of(app)
    assert {who for (who, week), kg in after.items() if kg != before[who, week]} == {marit}
    client.post(undo_of(said))
    assert loads_of(app) == before


def test_on_a_ladder_nobody_is_given_a_manner_of_their_own(app: Flask, client: FlaskClient) -> None:
    with reading(app) as db:
        ladder_id = db.scalars(select(Exercise.id).where(Exercise.ladder != "")).first()
    before, marit = loads_of(app), athlete_id(app, "Marit Holm")
    assert (
        client.post(f"/session/exercises/{ladder_id}", data={"style": "pause", "athlete": str(marit)}).status_code
        == 404
    )
    assert loads_of(app) == before


def test_templates_carry_circuits_rests_and_manners(app: Flask, client: FlaskClient) -> None:
    client.post(f"/session/exercises/{SQUAT}", data={"style": "pause"})
    move(client, "rest", SPLIT, 75)
    client.post("/block/3/template", data={"name": "Ours", "words": ""})
    listing = client.get("/block/new").text
    code = listing.split("template=own_")[1].split('"')[0].split("&")[0] if "template=own_" in listing else "ours"
    entry = client.get(f"/block/templates/{code}.json")
    if entry.status_code == 200:
        exercises = json.loads(entry.text)["exercises"]
        assert any(exercise.get("circuit") for exercise in exercises) and any(
            exercise.get("rest_s") == 75 for exercise in exercises
        )
        assert any(exercise.get("manner") == {"style": "pause"} for exercise in exercises)


def test_a_session_is_put_on_another_day_too_and_taken_away_again(app: Flask, client: FlaskClient) -> None:
    assert client.post(f"/session/{MONDAY}/again", data={"day": "0"}).status_code == 422
    assert client.post(f"/session/{MONDAY}/again", data={"day": "9"}).status_code == 422
    page = client.post(f"/session/{MONDAY}/again", data={"day": "4"}, follow_redirects=True).text
    assert "Put on Friday too" in page and "Fri</span>" in page
    with reading(app) as db:
        block = db.get_one(Block, 3)
        mine = [exercise for exercise in block.exercises if exercise.weekday == 0]
        again = [exercise for exercise in block.exercises if exercise.weekday == 4]
        assert [exercise.movement for exercise in again] == [exercise.movement for exercise in mine]
        assert [exercise.circuit for exercise in again] == [exercise.circuit for exercise in mine]
    change = page.split('action="/block/3/undo/')[1].split('"')[0].split("?")[0]
    client.post(f"/block/3/undo/{change}")
    with reading(app) as db:
        assert not [exercise for exercise in db.get_one(Block, 3).exercises if exercise.weekday == 4]


def test_supersets_for_the_same_muscles_start_the_second_lighter(app: Flask, client: FlaskClient) -> None:
    client.post(f"/session/{WEDNESDAY}/facts", data={"name": "", "minutes": "50", "supersets": "same"})
    assert move(client, "superset", CURL, HINGE, WEDNESDAY) == 302
    page = " ".join(client.get(f"/session/?session={WEDNESDAY}").text.split())
    assert "the second of its superset, with the load of a first" in page
    assert move(client, "window", CURL, 0, WEDNESDAY) == 302
    with reading(app) as db:
        assert db.get_one(Exercise, CURL).parameters["start_share"] == 0.85
    assert "the second of its superset" not in client.get(f"/session/?session={WEDNESDAY}").text


def test_one_athlete_does_it_another_way(app: Flask, client: FlaskClient) -> None:
    petra, ines = athlete_id(app, "Petra Skov"), athlete_id(app, "Ines Okafor")
    data = {"style": "pause", "stance": "long", "athlete": str(petra)}
    assert client.post(f"/session/exercises/{SQUAT}", data=data).status_code == 302
    assert "long stance" in client.get(f"/session/?session={MONDAY}&athlete={petra}").text
    assert "long stance" not in client.get(f"/session/?session={MONDAY}&athlete={ines}").text
    assert "selected>by" in " ".join(client.get(f"/session/exercises/{SQUAT}?athlete={petra}").text.split())
    floor = client.get(f"/floor/?athlete={petra}").text
    assert "pause at the bottom" in floor
    # another progression of her own keeps her way; back to the exercise's progression takes it away
    client.post(
        f"/block/exercises/{SQUAT}", data={"progression": "wave", "for": "some", "athlete": str(petra), "sets": "3"}
    )
    assert "long stance" in client.get(f"/session/?session={MONDAY}&athlete={petra}").text
    client.post(f"/block/exercises/{SQUAT}/athletes/{petra}/back")
    assert "long stance" not in client.get(f"/session/?session={MONDAY}&athlete={petra}").text


def test_another_movement_takes_a_exercises_place_and_one_undo_puts_it_back(
    app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    with reading(app) as db:  # a full block may still change one for another
        monkeypatch.setattr("backsquat.work.plan.exercises.EXERCISES_MOST", len(db.get_one(Block, 3).exercises))
    before, fields = order(app), {"what": "swap", "key": str(SPLIT), "to": "0", "into": "step_up_loaded"}
    assert client.post(f"/session/{MONDAY}/move", data=fields).status_code == 302
    after = order(app)
    assert after[1] == ("step_up_loaded", *before[1][1:]) and [after[0], *after[2:]] == [before[0], *before[2:]]
    with reading(app) as db:
        new = db.scalars(select(Exercise).where(Exercise.movement == "step_up_loaded")).one()
        assert db.scalars(select(Cell.id).where(Cell.exercise_id == new.id, Cell.current)).first(), "planned at once"
    shown = client.get(f"/session/?session={MONDAY}").text
    assert "in another&#39;s place" in shown
    change = shown.split('action="/block/3/undo/')[1].split('"')[0].split("?")[0]
    client.post(f"/block/3/undo/{change}")
    assert order(app) == before
    for wrong in ({"into": "nothing_like_it"}, {"into": ""}, {"key": "999"}):
        assert client.post(f"/session/{MONDAY}/move", data=fields | wrong).status_code == 404


def test_a_repeated_session_whose_lift_climbs_by_exposure_shows_what_it_does_to_the_first_day(
    app: Flask, client: FlaskClient
) -> None:
    plain = client.post(f"/session/{MONDAY}/again", data={"day": "3"})
    assert plain.headers["Location"].startswith("/session/"), "a wave stands for itself on each day"
    client.post(f"/block/exercises/{HINGE}", data={"progression": "fixed", "sets": "3", "day": "2"})
    answer = client.post(f"/session/{WEDNESDAY}/again", data={"day": "4"})
    assert "/block/3/replan?" in answer.headers["Location"] and f"exercise={HINGE}" in answer.headers["Location"]
    page = client.get(answer.headers["Location"]).text
    assert "lifts that go on from day to day" in page and "Romanian deadlift" in page
