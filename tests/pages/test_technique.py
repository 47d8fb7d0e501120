"""Technique: set-ups compared, pictures with consent, points read, sent on by the coach's word, erased for good."""

import datetime as dt
import io
import re
from dataclasses import replace
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from PIL import Image
from sqlalchemy import func, select
from sqlalchemy.orm import undefer
from werkzeug.test import TestResponse

from backsquat.config import Config
from backsquat.core.rules import Rules
from backsquat.core.technique.body import body_of
from backsquat.core.technique.linkage import HeldPosture, Squat, squat_posture
from backsquat.core.technique.still import Spot
from backsquat.devices.drawn import Drawn, Shot, draw
from backsquat.storage.models import (
    Athlete,
    AuditLine,
    BodyLength,
    Consent,
    Reading,
    ScreenResult,
    SetEntry,
    Still,
    StillMark,
)
from tests.demo_club import athlete_id, other_squad, reading
from tests.pages.test_own_phone import on_phone

LIV, MARIT, NOOR = "Liv Aasen", "Marit Holm", "Noor Visser"


def figure(depth_deg: float = 12.0, shot: Shot | None = None, load_kg: float = 0.0) -> Drawn:
    """A drawn photograph of a squat of known depth."""
    held = HeldPosture.BACK_HIGH if load_kg else HeldPosture.NOTHING
    posture = squat_posture(body_of(170, 65), Squat(held, load_kg, 20, 36, depth_deg), Rules())
    return draw(posture.points, shot or Shot())


def add(client: FlaskClient, athlete: int, content: bytes | None = None, **said: Any) -> TestResponse:
    content = figure().content if content is None else content
    data = {"kind": "squat", "taken_on": "2026-11-23", "faces": "right", "wedge_mm": "20", "movement": ""} | said
    data["picture"] = (io.BytesIO(content), "squat.jpg")
    return client.post(f"/technique/{athlete}/stills", data=data, content_type="multipart/form-data")


def added(client: FlaskClient, athlete: int, content: bytes | None = None, **said: Any) -> int:
    answer = add(client, athlete, content, **said)
    assert answer.status_code == 302
    return int(answer.headers["Location"].split("/")[-1].split("?")[0])


def placed(client: FlaskClient, still: int, drawn: Drawn, **more: str) -> str:
    points = {spot.value: f"{x:.1f} {y:.1f}" for spot, (x, y) in drawn.points.items() if spot is not Spot.REAR_KNEE}
    answer = client.post(f"/technique/stills/{still}", data=points | more, follow_redirects=True)
    assert answer.status_code == 200
    return answer.text


def agree(client: FlaskClient, athlete: int, **said: str) -> str:
    data = said or {"by": "the athlete"}
    return client.post(f"/technique/{athlete}/pictures-agreed", data=data, follow_redirects=True).text


def still_row(app: Flask, still: int) -> Still:
    with reading(app) as db:
        return db.scalars(select(Still).where(Still.id == still).options(undefer(Still.picture))).one()


def count(app: Flask, table: Any) -> int:
    with reading(app) as db:
        return db.scalar(select(func.count()).select_from(table)) or 0


# --- set-ups


def test_two_set_ups_and_what_the_wedge_does(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, LIV)
    page = client.get(f"/technique/{liv}").text
    assert "more upright" in page and "from hips and back to the thighs" in page
    assert "knee to wall 9" in page and "cm, measured" in page and "Nobody has measured" not in page
    flat = client.get(f"/technique/{liv}?wedge_mm=0").text
    assert "No difference that anybody would see." in flat
    numbers = [float(one) for one in re.findall(r'data-number="(?:was|now) lean_deg">(\d+)<', page)]
    assert numbers[0] > numbers[1] + 3
    said = client.get(f"/technique/{liv}?wedge_mm=30", headers={"HX-Request": "true", "HX-Target": "said"}).text
    assert said.startswith("<div id=") and "<html" not in said


def test_a_wedge_is_kept_for_the_athlete_and_shown_where_they_lift(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, LIV)
    kept = client.post(
        f"/technique/{liv}/keep", data={"movement": "back_squat", "wedge_mm": "30"}, follow_redirects=True
    )
    assert "Kept for Liv Aasen, back squat: 30 mm." in kept.text
    assert "30 mm" in client.get(f"/athletes/{liv}?lift=back_squat").text
    assert 'value="30"' in client.get(f"/technique/{liv}").text, "the next look begins there"


@pytest.mark.parametrize("text", ["nan", "inf", "1e999", "--", "9" * 400, "\x00", "30'"])
def test_nonsense_in_the_address_is_the_default(client: FlaskClient, text: str) -> None:
    for lift in ("squat", "hinge", "split", "moon"):
        query = {"lift": lift, "wedge_mm": text, "load_kg": text, "was_depth_deg": text, "thigh_cm": text, "held": text}
        assert client.get("/technique/17", query_string=query).status_code == 200


def test_who_was_never_measured_is_told_so_and_lengths_are_kept(app: Flask, client: FlaskClient) -> None:
    noor = athlete_id(app, NOOR)
    assert "Nobody has measured the height" in client.get(f"/technique/{noor}").text
    wrong = client.post(f"/technique/{noor}/lengths", data={"thigh": "4.5"})
    assert wrong.status_code == 422 and "25 to 65" in wrong.text
    for data, said in (({"thigh": "44,5", "foot": "x"}, 422), ({"thigh": "44,5"}, 302), ({"thigh": "44,5"}, 302)):
        assert client.post(f"/technique/{noor}/lengths", data=data).status_code == said
    with reading(app) as db:
        rows = db.scalars(select(BodyLength).where(BodyLength.athlete_id == noor)).all()
    assert [(row.what, row.length_cm) for row in rows] == [("thigh", 44.5)], "kept once, and nothing of what was wrong"
    client.post(f"/technique/{noor}/lengths", data={"thigh": ""})
    assert "44.5" not in client.get(f"/technique/{noor}/distances").text


def test_an_empty_squad_is_told_what_the_page_is_for(app: Flask) -> None:
    user, _ = other_squad(app)
    client = app.test_client()
    client.post(f"/demo-sign-in/{user}")
    assert client.get("/technique/").status_code == 200


# --- pictures


def test_no_picture_without_consent_and_the_coach_writes_down_whose(app: Flask, client: FlaskClient) -> None:
    noor, before = athlete_id(app, NOOR), count(app, Still)
    assert "First: does Noor agree to pictures?" in client.get(f"/technique/{noor}/stills").text
    refused = add(client, noor)
    assert refused.status_code == 409 and "has not agreed" in refused.text and count(app, Still) == before
    assert "Whose consent is it?" in agree(client, noor, by=" ")
    assert "Noor Visser agrees to pictures" in agree(client, noor)
    assert added(client, noor) and count(app, Still) == before + 1
    assert "consent recorded" in client.get("/audit/").text


def test_a_picture_is_made_again_and_nothing_else_of_the_file_is_kept(app: Flask, client: FlaskClient) -> None:
    out, image = io.BytesIO(), Image.open(io.BytesIO(figure().content)).resize((3000, 3600))
    exif = Image.Exif()
    exif[0x010F], exif[0x0112] = "Camera of K. Aasen", 6  # its maker, and that it is turned
    exif.get_ifd(0x8825)[1] = "N"
    image.save(out, "JPEG", exif=exif, comment=b"secret place")
    still = added(client, athlete_id(app, LIV), out.getvalue())
    row = still_row(app, still)
    assert b"Aasen" not in row.picture and b"secret" not in row.picture and b"Exif" not in row.picture
    assert (row.width, row.height) == (1280, 1067), "turned upright, and no larger than is needed"
    answer = client.get(f"/technique/stills/{still}/picture")
    assert answer.mimetype == "image/jpeg" and answer.headers["Cache-Control"] == "no-store"


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"%PDF-1.7 no picture", "no picture that can be read"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "no picture that can be read"),
        (b"", "no picture that can be read"),
        (figure().content[:900], "no picture that can be read"),
        (b"\xff\xd8" + b"x" * 12_050_000, "too large"),
    ],
    ids=["pdf", "svg", "empty", "cut", "large"],
)
def test_what_is_no_picture_is_said_so_and_nothing_typed_is_lost(
    app: Flask, client: FlaskClient, content: bytes, said: str
) -> None:
    before = count(app, Still)
    answer = add(client, athlete_id(app, LIV), content, note="heels up a little")
    assert answer.status_code == 422 and said in answer.text and "heels up a little" in answer.text
    assert count(app, Still) == before


def test_half_a_picture_is_none_also_after_a_pdf_was_made(app: Flask, client: FlaskClient) -> None:
    assert client.get("/floor/paper/card?pdf=a5&athlete=1").status_code == 200  # which has others take half pictures
    assert add(client, athlete_id(app, LIV), figure().content[:900]).status_code == 422


def test_a_small_file_with_a_huge_picture_in_it_is_refused(app: Flask, client: FlaskClient) -> None:
    out = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(out, "PNG")
    assert len(out.getvalue()) < 100_000
    assert add(client, athlete_id(app, LIV), out.getvalue()).status_code == 422


def test_what_is_said_of_a_picture_is_checked(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, LIV)
    for wrong in ({"taken_on": "2027-01-01"}, {"wedge_mm": "900"}, {"load_kg": "-3"}, {"kind": "portrait"},
                  {"taken_on": "1990-01-01"}, {"movement": "moon_squat"}, {"note": "x" * 300}):  # fmt: skip
        assert add(client, liv, **wrong).status_code == 422, wrong


def test_points_say_depth_and_angles_and_are_only_added(app: Flask, client: FlaskClient) -> None:
    liv, drawn = athlete_id(app, LIV), figure(12)
    still = added(client, liv, drawn.content)
    assert "Place hip and shoulder" in client.get(f"/technique/stills/{still}").text
    page = placed(client, still, drawn)
    assert "deep" in page and "Trunk lean" in page and "± " in page
    before = count(app, StillMark)
    placed(client, still, drawn)
    assert count(app, StillMark) == before, "kept again, nothing is new"
    moved = Drawn(
        drawn.content, drawn.points | {Spot.HIP: (drawn.points[Spot.HIP][0], drawn.points[Spot.KNEE][1] - 40)}
    )
    assert "short" in placed(client, still, moved) and count(app, StillMark) == before + 1


def test_points_that_cannot_be_are_said_beside_them(app: Flask, client: FlaskClient) -> None:
    still = added(client, athlete_id(app, LIV))
    for typed, said in (
        ({"hip": "9000 10"}, "outside the picture"),
        ({"hip": "somewhere"}, "two numbers"),
        ({"hip": "1 2 3"}, "two numbers"),
        ({}, "at least one point"),
        ({"hip": "300 300", "plate_cm": "-4"}, "from 10 to 60"),
        ({"hip": "300 300", "plate_cm": "x"}, "Write a number"),
    ):
        answer = client.post(f"/technique/stills/{still}", data=typed | {"knee": "400 420"} if typed else {})
        assert answer.status_code == 422 and said in answer.text, typed
        assert not typed or "400.0 420.0" in answer.text, "what was right is still there"
    live = client.post(f"/technique/stills/{still}/said", data={"hip": "nan nan"})
    assert live.status_code == 200 and "outside the picture" in live.text and count(app, StillMark) == 7


def test_a_number_goes_to_the_screens_by_the_coachs_word_alone(app: Flask, client: FlaskClient) -> None:
    liv, drawn = athlete_id(app, LIV), figure(14)
    still = added(client, liv, drawn.content)
    before = count(app, ScreenResult)
    page = placed(client, still, drawn)
    assert count(app, ScreenResult) == before and "On to the screens" in page
    assert 'value="standing_squat" id="to-standing_squat" ><label' in page.replace("  ", " "), "never ticked by itself"
    data = {"screen": ["trunk_squat", "squat_wedge"]}
    done = client.post(f"/technique/stills/{still}/screens", data=data, follow_redirects=True).text
    assert "Recorded: trunk angle, held squat, wedge under the heels." in done
    with reading(app) as db:
        day = dt.date(2026, 11, 23)
        rows = db.scalars(select(ScreenResult).where(ScreenResult.athlete_id == liv, ScreenResult.done_on == day))
        found = {row.screen: (row.value, row.note) for row in rows}
    assert found["squat_wedge"][0] == 20 and found["trunk_squat"][1].startswith("from a picture, ±")
    assert client.post(f"/technique/stills/{still}/screens", data={"screen": "brace"}).status_code == 409


@pytest.mark.parametrize(("depth_deg", "load_kg"), [(0.5, 0.0), (-14.0, 0.0), (14.0, 60.0)])
def test_no_doubtful_or_loaded_picture_speaks_for_the_readiness_check(
    app: Flask, client: FlaskClient, depth_deg: float, load_kg: float
) -> None:
    """Only a bare squat that is deep beyond a click's doubt is offered as the shape that a readiness check asks for."""
    liv, drawn = athlete_id(app, LIV), figure(depth_deg, load_kg=load_kg)
    still = added(client, liv, drawn.content, load_kg=f"{load_kg:g}")
    page = placed(client, still, drawn)
    assert 'id="to-trunk_squat"' in page
    for screen in ("standing_squat", "squat_wedge"):
        assert f'id="to-{screen}"' not in page
        assert client.post(f"/technique/stills/{still}/screens", data={"screen": screen}).status_code == 409


def test_a_short_picture_doubts_the_sets_of_its_day(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, MARIT)
    with reading(app) as db:
        entry = db.scalars(
            select(SetEntry)
            .where(
                SetEntry.athlete_id == marit,
                SetEntry.movement == "back_squat",
                SetEntry.standing,
                SetEntry.reps_to_depth > 0,
            )
            .order_by(SetEntry.done_on.desc())
        ).first()
    assert entry is not None
    for depth, doubted in ((-14.0, True), (12.0, False)):
        drawn = figure(depth, load_kg=80)
        said = {"taken_on": entry.done_on.isoformat(), "movement": "back_squat", "load_kg": "80"}
        still = added(client, marit, drawn.content, **said)
        assert ("reps of that day to depth; this picture says short" in placed(client, still, drawn)) is doubted
        log = client.get(f"/athletes/{marit}?lift=back_squat").text
        assert f"depth in a picture: {'short' if doubted else 'deep'}" in log


# --- whose they are


def test_an_athlete_sees_the_own_pictures_and_nobody_elses(app: Flask, client: FlaskClient) -> None:
    phone = on_phone(app, client, MARIT)
    with reading(app) as db:
        own = db.scalars(select(Still.id).where(Still.athlete_id == athlete_id(app, MARIT))).one()
        others = db.scalars(select(Still.id).where(Still.id != own)).all()
    assert "My pictures" in phone.get("/technique/mine").text
    assert phone.get(f"/technique/mine/{own}/picture").status_code == 200
    assert {phone.get(f"/technique/mine/{one}/picture").status_code for one in others} == {403}
    for path in (f"/technique/stills/{own}", f"/technique/stills/{own}/picture", "/technique/", "/technique/17"):
        assert phone.get(path).status_code == 403, path


def test_another_squad_finds_nothing_there(app: Flask) -> None:
    user, _ = other_squad(app)
    client = app.test_client()
    client.post(f"/demo-sign-in/{user}")
    for path in ("/technique/stills/2", "/technique/stills/2/picture", "/technique/17", "/technique/17/then"):
        assert client.get(path).status_code == 404, path
    assert client.post("/technique/stills/2/erase", data={"sure": "yes"}).status_code == 404


def test_a_physio_looks_and_places_nothing(app: Flask, physio: FlaskClient) -> None:
    page = physio.get("/technique/stills/2").text
    assert "Keep points" not in page and "Trunk lean" in page and "Erase" not in page
    assert physio.post("/technique/stills/2", data={"hip": "300 300"}).status_code == 403
    assert physio.post("/technique/stills/2/erase", data={"sure": "yes"}).status_code == 403


def test_pictures_open_with_a_second_factor_only(app: Flask, client: FlaskClient) -> None:
    before: Config = app.extensions["settings"]
    app.extensions["settings"] = replace(before, second_factor=True)
    try:
        for path in (
            "/technique/stills/2",
            "/technique/stills/2/picture",
            "/technique/17/stills",
            "/technique/17/then",
        ):
            assert client.get(path).status_code == 302, path
        assert client.get("/technique/17").status_code == 200, "a drawn figure is nobody's body"
    finally:
        app.extensions["settings"] = before


def test_looking_leaves_a_line(app: Flask, client: FlaskClient) -> None:
    before = count(app, Reading)
    client.get("/technique/stills/2")
    client.get("/technique/17/then")
    client.get(f"/technique/{athlete_id(app, NOOR)}/stills")  # nothing to see
    assert count(app, Reading) == before + 2
    with reading(app) as db:
        lines = db.scalars(select(AuditLine).where(AuditLine.what == "pictures_seen")).all()
    assert len(lines) == 2 and lines[-1].about == {"athlete": 17}


def test_withdrawing_consent_erases_every_picture_and_keeps_the_numbers(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, LIV)
    shown = agree(client, liv, withdraw="1")
    assert "Withdrawn. 4 pictures of Liv Aasen are erased" in shown
    with reading(app) as db:
        rows = db.scalars(select(Still).where(Still.athlete_id == liv).options(undefer(Still.picture))).all()
    assert len(rows) == 4 and all(row.picture == b"" and row.erased_at for row in rows)
    assert client.get("/technique/stills/2/picture").status_code == 404
    assert "Trunk lean" in client.get("/technique/stills/2").text and add(client, liv).status_code == 409
    assert "<image" not in client.get(f"/technique/{liv}/then").text
    agree(client, liv, by="K. Aasen")  # agreed again, what is gone stays gone
    assert client.get("/technique/stills/2/picture").status_code == 404
    assert client.post("/technique/stills/2", data={"hip": "300 300"}).status_code == 409


def test_lifting_and_pictures_are_two_consents(app: Flask, client: FlaskClient) -> None:
    """Neither stands for the other, and taking one back leaves the other."""
    liv, suri = athlete_id(app, LIV), athlete_id(app, "Suri Valdez")
    assert add(client, suri).status_code == 409, "her guardian has agreed to lifting, to nothing else"
    agree(client, liv, withdraw="1")
    with reading(app) as db:
        rows = db.scalars(select(Consent).where(Consent.athlete_id == liv))
        stand = {row.purpose: row.withdrawn_on is None for row in rows}
        assert stand == {"lifting": True, "pictures from the side": False}
        assert db.get_one(Athlete, liv).consent


def test_one_picture_is_erased_once_somebody_is_sure(app: Flask, client: FlaskClient) -> None:
    assert client.post("/technique/stills/2/erase").status_code == 409 and still_row(app, 2).picture
    assert "is erased" in client.post("/technique/stills/2/erase", data={"sure": "yes"}, follow_redirects=True).text
    assert still_row(app, 2).picture == b"" and still_row(app, 1).picture


def test_everything_about_somebody_holds_their_pictures_and_erasing_takes_them(app: Flask, client: FlaskClient) -> None:
    liv = athlete_id(app, LIV)
    told = client.get(f"/athletes/{liv}/everything.json").json
    assert told and len(told["stills"]) == 4 and told["stills"][0]["picture"].startswith("/9j/") and told["still_marks"]
    client.post(f"/athletes/{liv}/erase", data={"name": LIV})
    with reading(app) as db:
        assert not db.scalars(select(Still).where(Still.athlete_id == liv)).all()
        kept = set(db.scalars(select(Still.id)))
        assert {mark.still_id for mark in db.scalars(select(StillMark))} <= kept
