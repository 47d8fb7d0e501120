"""Describing the room."""

from html.parser import HTMLParser

import pytest
from flask import Flask
from flask.testing import FlaskClient

from tests.demo_club import ROOM, entries, live_cell


def test_a_room_is_kept_says_what_follows_and_can_be_undone(client: FlaskClient) -> None:
    page = client.post("/room/", data=ROOM, follow_redirects=True).text
    assert "smallest step 5 kg in all, that is 2.5 a side" in page
    undo = page.split('action="/undo/')[1].split('"')[0]
    client.post(f"/undo/{undo}")
    assert "smallest step 2.5 kg in all" in client.get("/room/").text
    again = client.post(f"/undo/{undo}")
    assert again.status_code == 409 and "Nothing to undo" in again.text


def test_a_room_in_pounds(client: FlaskClient) -> None:
    pounds = ROOM | {"unit": "lb", "bar_amount_0": "45", "plate_amount_0": "45", "plate_amount_1": "2.5"}
    page = client.post("/room/", data=pounds, follow_redirects=True).text
    assert "smallest step 5 lb in all, that is 2.5 a side" in page


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"bar_amount_0": ""}, "at least one bar"), ({"plate_amount_0": "", "plate_amount_1": ""}, "at least one pair"),
        ({"plate_pairs_0": "-1"}, "from 1 to 20"), ({"plate_pairs_0": "lots"}, "whole number"), ({"bar_amount_0": "900"}, "from 1 to 50"),
        ({"plate_amount_0": "zwanzig"}, "Write a number"), ({"plate_amount_1": "20"}, "listed twice"), ({"racks": "0"}, "from 1 to 30"),
        ({"collars": "99"}, "0 to 10"), ({"name": ""}, "fill this in"), ({"plate_amount_0": "1.23456"}, "at most 3 decimals"),
        ({f"plate_amount_{n}": f"{n + 1}.{n}37" for n in range(9)} | {f"plate_pairs_{n}": "20" for n in range(9)}, "remove the rarest"),
    ],
)  # fmt: skip
def test_impossible_rooms(client: FlaskClient, changes: dict[str, str], words: str) -> None:
    response = client.post("/room/", data=ROOM | changes)
    assert response.status_code == 422
    assert words in response.text


def test_published_numbers_stay_when_the_room_changes(app: Flask, client: FlaskClient) -> None:
    before = live_cell(app, "Marit Holm", 4)
    client.post("/room/", data=ROOM)
    after = live_cell(app, "Marit Holm", 4)
    assert (after.id, after.load_kg, after.working) == (before.id, before.load_kg, before.working)
    assert "can no longer make this load" in client.get(f"/block/?cell={after.id}").text


def test_a_room_in_pounds_plans_shows_and_logs_pounds(app: Flask, client: FlaskClient) -> None:
    plates = {"45": 6, "25": 2, "10": 4, "5": 2, "2.5": 2}
    pounds = {
        "name": "Hall",
        "unit": "lb",
        "collars": "0",
        "racks": "4",
        "bar_name_0": "Bar",
        "bar_amount_0": "45",
        "bar_code_0": "bar45",
    }
    for n, (mass, pairs) in enumerate(plates.items()):
        pounds |= {f"plate_amount_{n}": mass, f"plate_pairs_{n}": str(pairs)}
    assert client.post("/room/", data=pounds).status_code == 302
    client.post("/block/3/replan")
    client.post("/block/3/publish")
    cell = live_cell(app, "Marit Holm", 2)
    assert (cell.load_unit, cell.bar) == ("lb", "bar45")
    assert cell.load_amount is not None and cell.load_amount % 5 == 0
    assert cell.load_kg == pytest.approx(float(cell.load_amount) * 0.45359237)
    assert "lb with the bar" in client.get("/block/").text
    assert "lb × 4" in client.get("/floor/?rack=3&athlete=1").text
    client.post(
        f"/floor/cells/{cell.id}/sets", data={"client_id": "lb", "load": "185", "reps": "4", "reserve_reps": "2"}
    )
    (entry,) = entries(app, cell.id)
    assert (str(entry.load_amount), entry.load_unit) == ("185", "lb")
    assert entry.load_kg == pytest.approx(83.9146, abs=1e-4)
    assert "185 lb × 4" in client.get("/athletes/1").text


def test_a_large_room_of_usual_plates_is_quick(client: FlaskClient) -> None:
    masses = ["25", "20", "15", "10", "7.5", "5", "2.5", "2", "1.5", "1.25", "1", "0.5"]
    large = (
        ROOM
        | {f"plate_amount_{n}": mass for n, mass in enumerate(masses)}
        | {f"plate_pairs_{n}": "20" for n in range(12)}
    )
    assert "different loads" in client.post("/room/", data=large, follow_redirects=True).text


class Inputs(HTMLParser):
    """The named fields of a page with what they hold."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.found: dict[str, str] = {}
        self.feed(page)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = dict(attrs)
        name = given.get("name") or ""
        if tag == "input" and given.get("type") != "checkbox" and name not in ("csrf_token", "station", "found"):
            self.found[name] = given.get("value") or ""


def demo_form(client: FlaskClient) -> dict[str, str]:
    """The room's form as it stands."""
    typed = Inputs(client.get("/room/").text).found
    return typed | {"unit": "kg", "stack_code_0": "lying_curl", "stack_code_1": "knee_extension"}


def test_a_room_describes_every_implement_and_says_what_is_wrong(app: Flask, client: FlaskClient) -> None:
    form = demo_form(client)
    for change, words in (
        ({"dumbbells": "5 ten"}, "Masses with spaces"),
        ({"kettlebells": "0 8"}, "Masses with spaces"),
        ({"dumbbells": "12*99"}, "Masses with spaces"),
        ({"stack_low_0": "50", "stack_high_0": "20"}, "Lowest, step and heaviest"),
        ({"stack_step_0": "0"}, "Lowest, step and heaviest"),
        ({"band_short_0": "40", "band_long_0": "10"}, "the long one the greater"),
        ({"band_long_0": "x"}, "Write a number"),
    ):
        response = client.post("/room/", data=form | change)
        assert response.status_code == 422 and words in response.text, (change, words)
        assert next(iter(change.values())).split()[0] in response.text
    assert client.post("/room/", data=form | {"dumbbells": "10 20*1 30"}).status_code == 302
    assert 'value="10 20*1 30"' in client.get("/room/").text


def test_every_usual_room_can_be_saved_as_it_is_offered(app: Flask, client: FlaskClient) -> None:
    from backsquat.library.shelf import equipment
    from backsquat.library.usual_rooms import usual_rooms
    from backsquat.pages.room.forms import form_like

    page = client.get("/room/?room=further").text
    for code, usual in usual_rooms().items():
        assert f"like={code}" in page and set(usual.equipment) <= set(equipment()), code
        form = form_like(usual)
        assert form.read() is not None, (code, form.errors)
        shown = client.get(f"/room/?room=further&like={code}").text
        assert f'value="{usual.plates[-1][0]}"' in shown
        sent = {"room": "further", "equipment": usual.equipment, **form.typed}
        assert client.post("/room/", data=sent).status_code == 302, code
    assert client.get("/room/?room=further&like=palace").status_code == 200
    assert "Start from" not in client.get("/room/").text  # a room that is described is changed, not begun again
