"""Screens through the web: autosave, bad values, findings, the readiness check, what is due, the squad's own screens."""

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import ScreenResult
from tests.demo_club import athlete_id, reading

DAY = "2026-11-23"


def post(client: FlaskClient, person: int, **values: str) -> tuple[int, str]:
    data = {name.replace("__", ":"): value for name, value in values.items()} | {"day": DAY, "panel": "findings"}
    response = client.post(f"/screen/athlete/{person}", data=data, headers={"X-Autosave": "1"})
    return response.status_code, response.text


def rows(app: Flask, person: int, screen: str) -> list[tuple[float | None, bool]]:
    with reading(app) as db:
        found = db.scalars(
            select(ScreenResult)
            .where(ScreenResult.athlete_id == person, ScreenResult.screen == screen, ScreenResult.done_on == DAY)
            .order_by(ScreenResult.id)
        )
        return [(row.value, row.replaced) for row in found]


def test_one_field_is_kept_and_the_findings_follow(app: Flask, client: FlaskClient) -> None:
    alma = athlete_id(app, "Alma Brekke")
    assert post(client, alma, v__lying_squat__="yes")[0] == 200
    status, panel = post(client, alma, v__standing_squat__="no")
    assert status == 200 and "Pattern, not range" in panel and "Press-down squat".lower() in panel
    status, panel = post(client, alma, v__knee_to_wall__left="7,5")
    assert "Short ankle: left 7.5 cm" in panel and "Lend a 30 mm wedge" in panel
    assert "knee to wall left 7.5 cm, 23 Nov" in panel and "Lands on these levels" in panel


def test_another_value_of_the_day_takes_its_place_and_an_empty_one_takes_it_back(
    app: Flask, client: FlaskClient
) -> None:
    alma = athlete_id(app, "Alma Brekke")
    for value in ("12", "12", "14", ""):
        assert post(client, alma, v__jump__=value)[0] == 200
    assert rows(app, alma, "jump") == [(12, True), (14, True), (None, False)]
    assert 'value="14"' not in client.get(f"/screen/athlete/{alma}").text


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("v:jump:", "high"), ("v:jump:", "-3"), ("v:jump:", "nan"), ("v:jump:", "1e9"), ("v:pelvis:", "4"),
        ("v:pelvis:", "1.5"), ("v:brace:", "2"), ("v:balance:left", "901"),
    ],
)  # fmt: skip
def test_impossible_values_are_refused_in_a_sentence(app: Flask, client: FlaskClient, field: str, value: str) -> None:
    response = client.post("/screen/athlete/20", data={field: value, "day": DAY}, headers={"X-Autosave": "1"})
    assert response.status_code == 422 and "Write" in response.text
    assert rows(app, 20, field.split(":")[1]) == []


def test_nonsense_is_no_error(client: FlaskClient) -> None:
    for data in ({"v:nothing:": "1"}, {"v:balance:up": "1"}, {"v:jump:left": "3"}):
        assert client.post("/screen/athlete/20", data=data, headers={"X-Autosave": "1"}).status_code == 404
    assert client.post("/screen/athlete/20", data={"x": "1"}).status_code == 302
    before_birth = client.post(
        "/screen/athlete/20", data={"v:jump:": "3", "day": "1990-01-01"}, headers={"X-Autosave": "1"}
    )
    assert before_birth.status_code == 422


def test_without_scripts_the_whole_page_is_sent_at_once(app: Flask, client: FlaskClient) -> None:
    data = {"v:jump:": "30", "v:balance:left": "25", "v:balance:right": "x", "day": DAY}
    page = client.post("/screen/athlete/20", data=data, follow_redirects=True).text
    assert rows(app, 20, "jump") == [(30, False)] and rows(app, 20, "balance") == [(25, False)]
    assert "balance: Write a number" in page


def test_a_screen_opens_and_shuts_the_readiness_check(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    assert "100" in client.get("/floor/?athlete=1").text
    status, panel = post(client, marit, v__knees_track__="no")
    assert status == 200 and 'is-behind">not yet' in panel
    floor = client.get("/floor/").text
    assert "Back squat: not ready for the bar" in " ".join(floor.split("Marit Holm</a>")[-1].split())
    assert post(client, marit, v__knees_track__="yes")[0] == 200
    assert "not ready for the bar" not in client.get("/floor/").text.split("Marit Holm</a>")[-1][:80]


def test_the_due_list_puts_the_never_screened_first(app: Flask, client: FlaskClient) -> None:
    page = client.get("/screen/").text.split("<tbody>")[1]
    assert page.index("Alma Brekke") < page.index("Petra Skov") < page.index("Marit Holm")
    assert "never screened" in page


def test_history_shows_change_against_the_tests_error(app: Flask, client: FlaskClient) -> None:
    petra = athlete_id(app, "Petra Skov")
    with reading(app) as db:
        last = db.scalars(
            select(ScreenResult)
            .where(ScreenResult.athlete_id == petra, ScreenResult.screen == "jump", ~ScreenResult.replaced)
            .order_by(ScreenResult.done_on.desc())
        ).first()
        assert last and last.value
    post(client, petra, v__jump__=f"{last.value + 1:g}")
    assert "within the test&#39;s error" in client.get(f"/screen/athlete/{petra}").text
    post(client, petra, v__jump__=f"{last.value + 3:g}")
    page = client.get(f"/screen/athlete/{petra}").text
    assert f"+3 since {last.done_on.day} {last.done_on:%b}" in page


def test_a_screen_of_the_squads_own_is_run_like_the_others(app: Flask, client: FlaskClient) -> None:
    data = {
        "name": "Wall sit",
        "how": "Back on the wall, thighs level, seconds held.",
        "kind": "seconds",
        "pass_at": "45",
        "two_sided": "on",
        "gap": "10",
        "error": "3",
        "drills": "goblet_squat",
    }
    assert client.post("/screen/own", data=data).status_code == 302
    assert "Wall sit" in client.get("/screen/athlete/17").text
    status, panel = post(client, 17, v__own_wall_sit__left="30")
    assert status == 200 and "Wall sit, left: not passed" in panel
    bad = client.post("/screen/own", data=data | {"name": "x", "pass_at": "much", "drills": "moon"})
    assert bad.status_code == 422 and bad.text.count('class="problem"') >= 3 and 'value="much"' in bad.text
    client.post("/screen/own/own_wall_sit/retire", data={"retired": "1"})
    assert "Wall sit" not in client.get("/screen/athlete/17").text
    client.post("/screen/own", data={**data, "name": "Held squat", "kind": "seconds", "edit": "deep_squat_hold"})
    assert "Held squat" in client.get("/screen/athlete/17").text
    client.post("/screen/own/deep_squat_hold/restore")
    assert "Held squat</span>" not in client.get("/screen/athlete/17").text
    assert client.post("/screen/own/own_wall_sit/restore").status_code == 409
