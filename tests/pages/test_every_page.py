"""Every page with any week and any nonsense in its address answers, without a query in a loop."""

from collections.abc import Callable
from html.parser import HTMLParser

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import event

from tests.demo_club import athlete_id

PAGES = [
    "/",
    "/?show=needs-me",
    "/room/",
    "/block/",
    "/block/new",
    "/floor/",
    "/review/",
    "/rules",
    "/cautions",
    "/season/",
    "/season/trained",
    "/block/what-if?idea=without.2026-12-07.on",
    "/block/2/outcome",
    "/block/3/outcome?names=no",
    "/season/?week=2026-11-30",
    "/floor/send",
    "/season/matches/12/minutes",
    "/technique/",
    "/technique/17",
    "/technique/8?lift=split",
    "/technique/17?lift=hinge&close=0&was_close=1&load_kg=nan",
    "/technique/17/stills",
    "/technique/17/then",
    "/technique/17/distances",
    "/technique/stills/2",
    "/athletes/1",
    "/athletes/new",
    "/athletes/1/edit",
    "/athletes/1/test",
    "/health-list/stops/1/clear",
    "/movements/",
    "/movements/?q=hinge&family=hinge&room=on&athlete=17&now=on&axis=back",
    "/movements/back_squat",
    "/movements/hack_squat?athlete=17",
    "/movements/choose",
    "/movements/choose?athlete=17&family=curl&goal=hips&progression=upright",
    "/movements/new",
    "/movements/new?copy=goblet_squat",
    "/movements/goblet_squat/edit",
    "/screen/",
    "/screen/athlete/17",
    "/screen/squad/knee_to_wall",
    "/screen/own",
    "/screen/own?edit=balance",
    "/ladders/17",
    "/ladders/1",
    "/health-list/",
    "/health-list/13",
    "/health-list/10",
    "/block/3/exercises",
    "/block/exercises/5",
    "/block/exercises/6?progression=earned",
    "/block/3/compare",
    "/block/3/compare?progression=wave&progression=moon&try=effort",
    "/block/3/check",
    "/block/3/check?of=done",
    "/block/3/versions",
    "/block/3/versions?first=1&other=2",
    "/block/3/replan",
    "/block/3/athletes/1",
    "/block/new?template=road_to_bar",
    "/milestones/",
    "/room/?room=2",
    "/room/?room=further",
    "/block/exercises/7?progression=fixed&athlete=5",
    "/block/3?lift=7",
]
WEEKS = ["", "2026-07-06", "2026-11-30", "2027-03-01", "nonsense"]
FAR = ["2026-07-15", "1999-01-01", "9999-12-31", "2026-99-99"]  # read by one function, so tried on a few pages


class Checker(HTMLParser):
    """Collects what the content policy forbids and what refers elsewhere."""

    def __init__(self) -> None:
        super().__init__()
        self.wrong: list[str] = []
        self.ids: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        values = dict(attrs)
        if "style" in values or any(name.startswith("on") for name in values):
            self.wrong.append(f"{tag} {attrs}")
        if tag == "script" and "src" not in values:
            self.wrong.append("inline script")
        for name in ("src", "href", "action", "hx-get", "hx-post"):
            if (values.get(name) or "").startswith(("http:", "https:", "//")):
                self.wrong.append(f"{tag} {values[name]}")
        if "id" in values:
            self.ids.append(values["id"] or "")


@pytest.mark.parametrize("path", PAGES)
def test_pages_answer_in_every_week(client: FlaskClient, path: str) -> None:
    for week in WEEKS + (FAR if path in ("/", "/block/", "/floor/", "/block/3/check") else []):
        response = client.get(path + ("&" if "?" in path else "?") + f"week={week}")
        assert response.status_code == 200, (path, week)


@pytest.mark.parametrize("path", PAGES)
def test_pages_keep_the_content_policy_and_the_machine(client: FlaskClient, path: str) -> None:
    checker = Checker()
    checker.feed(client.get(path).text)
    assert not checker.wrong
    assert len(checker.ids) == len(set(checker.ids)), "an id stands twice"


@pytest.mark.parametrize(
    "path",
    [
        "/?show=<script>",
        "/floor/?rack=99&lift=abc&athlete=-1",
        "/floor/?rack=-5",
        "/block/?lift=999999&cell=999999",
        "/block/?cell=x",
        "/movements/?q=<script>&family=x&sides=9&athlete=17",
        "/movements/choose?athlete=1&family=legs&goal=x&progression=y",
        "/screen/athlete/17?day=never",
        "/screen/athlete/17?day=2099-01-01",
        "/screen/own?edit=nothing",
    ],
)
def test_nonsense_in_the_address_is_no_error(client: FlaskClient, path: str) -> None:
    response = client.get(path)
    assert response.status_code == 200
    assert "<script>" not in response.text.split("</head>")[1].replace('<script src="', "")


@pytest.mark.parametrize(
    "path",
    [
        "/athletes/999",
        "/block/999",
        "/athletes/1/test/999999",
        "/nowhere",
        "/health-list/stops/99/clear",
        "/movements/moon_squat",
        "/movements/moon_squat/edit",
        "/screen/squad/nothing",
        "/screen/athlete/999",
        "/ladders/999",
        "/health-list/999",
        "/movements/new?copy=moon_squat",
    ],
)
def test_what_is_not_there_says_so(client: FlaskClient, path: str) -> None:
    response = client.get(path)
    assert response.status_code == 404
    assert "nothing here" in response.text


def test_the_rail_moves_every_page(client: FlaskClient) -> None:
    for path in ("/", "/block/", "/floor/", "/review/", "/room/", "/athletes/1"):
        page = client.get(path + "?week=2026-10-05").text
        assert "Week 14 · 5 Oct" in page, path
        assert "week=2026-10-05" in page.split("Squad</a>")[0], "the menu keeps the week"
    assert "Autumn wave</h1>" in client.get("/block/?week=2026-10-05").text


def counted(app: Flask, run: Callable[[], object]) -> int:
    count = 0

    def add(*_args: object) -> None:
        nonlocal count
        count += 1

    engine = app.extensions["database"].engine
    event.listen(engine, "before_cursor_execute", add)
    try:
        run()
    finally:
        event.remove(engine, "before_cursor_execute", add)
    return count


@pytest.mark.parametrize(
    "path",
    [
        "/",
        "/block/",
        "/block/3/athletes/1",
        "/block/3/check",
        "/block/3/exercises",
        "/block/3/versions",
        "/milestones/",
        "/floor/",
        "/session/",
        "/session/?session=6&athlete=5",
        "/review/",
        "/screen/",
        "/screen/squad/balance",
        "/health-list/",
    ],
)
def test_the_number_of_queries_does_not_grow_with_the_squad(app: Flask, client: FlaskClient, path: str) -> None:
    before = counted(app, lambda: client.get(path))
    with app.extensions["database"].writing() as db:
        db.connection().exec_driver_sql("UPDATE athletes SET active = 0 WHERE id % 2")
    assert counted(app, lambda: client.get(path)) >= before - 2  # half the squad, as many queries
    assert before <= 56


def test_names_are_escaped_everywhere(app: Flask, client: FlaskClient) -> None:
    evil = "<img src=x onerror=alert(1)> & 'co'"
    with app.extensions["database"].writing() as db:
        db.connection().exec_driver_sql("UPDATE athletes SET name = ? WHERE id = 1", (evil,))
        db.connection().exec_driver_sql("UPDATE blocks SET name = ?", (evil[:40],))
    me = athlete_id(app, evil)
    own = (
        "/screen/",
        f"/screen/athlete/{me}",
        f"/ladders/{me}",
        f"/health-list/{me}",
        f"/movements/choose?athlete={me}",
    )
    for path in ("/", "/block/", "/floor/?rack=3", "/review/", f"/athletes/{me}", *own):
        assert "<img" not in client.get(path).text, path


BIG = "9" * 25  # more digits than any row has


@pytest.mark.parametrize(
    ("path", "data"),
    [
        (f"/room/?room={BIG}", None), ("/block/3/check/ease", {"athlete": BIG}), (f"/room/assignments/{BIG}/end", {}),
        (f"/floor/athletes/{BIG}/check-in", {"sleep": "1", "soreness": "1", "stress": "1", "back": "0"}),
        (f"/room/{BIG}/away", {}), (f"/block/exercises/5/athletes/{BIG}/back", {}), (f"/block/{BIG}", None),
        ("/room/stations", {"room": BIG, "station": "Rack 1"}), (f"/athletes/{BIG}", None),
    ],
)  # fmt: skip
def test_a_number_too_long_for_any_row_is_not_there(
    client: FlaskClient, app: Flask, path: str, data: dict[str, str] | None
) -> None:
    app.config["PROPAGATE_EXCEPTIONS"] = False
    response = client.get(path) if data is None else client.post(path, data=data)
    assert response.status_code == 404 and "There is nothing here" in response.text
