"""Another movement in an exercise's place: for everybody from its page, for one athlete from the advice; parameters folded."""

import re

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.progression.cell import StandIn
from backsquat.storage.models import Block, Cell, Exercise
from tests.demo_club import athlete_id, reading
from tests.pages.test_block_planner import plan


def test_an_exercise_is_exchanged_in_its_place_and_back(app: Flask, client: FlaskClient) -> None:
    block = plan(client, app, ("0", "Back squat", "wave"), ("0", "Nordic", "window"))
    old = next(one.id for one in block.exercises if one.movement == "back_squat")
    answer = client.post(f"/block/exercises/{old}/exchange", data={"into": "front squat"}, follow_redirects=True)
    assert "Front squat in its place, as a draft." in answer.text

    def standing() -> list[tuple[str, str, int]]:
        with reading(app) as db:
            exercises = db.get_one(Block, block.id).exercises
            return [(one.movement, one.progression, one.weekday) for one in exercises]

    assert standing() == [("front_squat", "wave", 0), ("nordic", "window", 0)]
    found = re.findall(r'action="(/undo/\d+[^"]*)"', answer.text)
    client.post(found[-1])
    assert standing() == [("back_squat", "wave", 0), ("nordic", "window", 0)]


def test_a_name_nobody_knows_exchanges_nothing(app: Flask, client: FlaskClient) -> None:
    block = plan(client, app, ("0", "Back squat", "wave"))
    answer = client.post(f"/block/exercises/{block.exercises[0].id}/exchange", data={"into": "flying carpet"})
    assert answer.status_code == 422 and "flying carpet" in answer.text
    with reading(app) as db:
        assert [one.movement for one in db.get_one(Block, block.id).exercises] == ["back_squat"]


def test_the_advice_gives_a_movement_to_one_athlete_from_this_week_on(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    page = client.get(f"/movements/choose?athlete={marit}&family=squat&all=1").text
    links = [link.replace("&amp;", "&") for link in re.findall(r'href="(/block/exercises/\d+/own-work/[^"]+)"', page)]
    to_front = next(link for link in links if "Front+squat" in link or "Front%20squat" in link)
    assert "what=Back" not in "".join(links)  # never itself in its own place
    form = client.get(to_front).text
    assert 'value="Front squat"' in form and '<option value="2" selected>3</option>' in form
    exercise_id = int(to_front.split("/")[3])
    client.post(to_front.split("?")[0], data={"what": "Front squat", "do": "give", "from_week": "2"})
    with reading(app) as db:
        mine = select(Cell.week).where(
            Cell.exercise_id == exercise_id, Cell.athlete_id == marit, Cell.current, Cell.stands_in == StandIn.CHOSEN
        )
        assert min(db.scalars(mine)) >= 2
        assert db.get_one(Exercise, exercise_id).movement == "back_squat"


def test_parameters_that_matter_are_open_and_what_was_set_with_them(app: Flask, client: FlaskClient) -> None:
    block = plan(client, app, ("0", "Back squat", "wave"))
    at = f"/block/exercises/{block.exercises[0].id}"
    shown, folded = client.get(at).text.split("more, as they usually are", 1)
    assert 'name="weeks"' in shown and 'name="sets"' in shown and 'name="tempo"' in folded
    typed = {"progression": "wave", "for": "all", "tempo": "3-1-1-0", "sets": "4", "rest_s": "180"}
    client.post(at, data=typed)
    shown, _ = client.get(at).text.split("more, as they usually are", 1)
    assert 'name="tempo"' in shown
