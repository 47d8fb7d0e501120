"""How a movement looks: pictures and frames of clips on its page and on cards; an athlete's own still on the own card."""

import datetime as dt
import io
import re
from dataclasses import replace
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from PIL import Image
from sqlalchemy import select, update
from sqlalchemy.orm import undefer

from backsquat.storage.models import Consent, MovementFrame, Still
from tests.demo_club import athlete_id, other_squad, reading, undo_of
from tests.pages.test_own_phone import on_phone
from tests.pages.test_technique import LIV, MARIT, add, agree, figure

CARD = "/floor/paper/card?athlete={}"


def colour(red: int) -> bytes:
    out = io.BytesIO()
    exif = Image.Exif()
    exif[0x010F] = "secret maker"
    Image.new("RGB", (1200, 900), (red, 90, 90)).save(out, "JPEG", exif=exif)
    return out.getvalue()


def keep(client: FlaskClient, *pictures: bytes, movement: str = "back_squat", **said: str) -> Any:
    data: dict[str, Any] = {"words": "from the side", "agreed": "yes"} | said
    data["picture"] = [(io.BytesIO(content), f"{n}.jpg") for n, content in enumerate(pictures)]
    address = f"/movements/{movement}/pictures"
    return client.post(address, data=data, content_type="multipart/form-data", follow_redirects=True)


def frames(app: Flask) -> list[MovementFrame]:
    with reading(app) as db:
        query = select(MovementFrame).order_by(MovementFrame.id).options(undefer(MovementFrame.pixels))
        return list(db.scalars(query))


def test_frames_stand_in_their_order_and_hold_pixels_only(app: Flask, client: FlaskClient) -> None:
    page = keep(client, *(colour(40 * n) for n in range(6))).text
    assert "Picture kept" in page and page.count('src="/movements/pictures/') == 6 and "from the side, 6 of 6" in page
    found = frames(app)
    assert [one.number for one in found] == list(range(6)) and max(found[0].width, found[0].height) == 480
    reds = [Image.open(io.BytesIO(one.pixels)).convert("RGB").getpixel((9, 9)) for one in found]
    assert [one[0] // 40 for one in reds] == [0, 1, 2, 3, 4, 5] or sorted(reds) == reds  # type: ignore[index, type-var]
    assert all(b"secret" not in one.pixels for one in found)
    assert client.get(f"/movements/pictures/{found[0].id}").mimetype == "image/jpeg"
    client.post(undo_of(page))
    assert client.get(f"/movements/pictures/{found[0].id}").status_code == 404


@pytest.mark.parametrize(
    ("pictures", "said", "status", "words"),
    [
        ((), {}, 200, "Choose a picture"),
        ((b"GIF89a no",), {}, 200, "no picture that can be read"),
        (tuple(colour(1) for _ in range(9)), {}, 200, "From one picture to 8 frames"),
        ((colour(1),), {"agreed": ""}, 409, "Has everybody in it agreed?"),
        ((colour(1),), {"words": "x" * 200}, 200, "under 80 characters"),
        ((colour(1),), {"movement": "moon_squat"}, 404, "nothing here"),
    ],
)
def test_what_cannot_be_is_said_and_nothing_is_kept(
    app: Flask, client: FlaskClient, pictures: tuple[bytes, ...], said: dict[str, str], status: int, words: str
) -> None:
    answer = keep(client, *pictures, **said)
    assert answer.status_code == status and words in answer.text and not frames(app)


def test_a_card_shows_how_it_looks_as_file_and_as_pdf_too(app: Flask, client: FlaskClient) -> None:
    keep(client, *(colour(40 * n) for n in range(6)))
    marit = athlete_id(app, MARIT)
    for way in ("", "&file=1"):
        page = client.get(CARD.format(marit) + way).text
        squat = page.split("<h2>Back squat")[1].split("</section>")[0]
        assert squat.count("data:image/jpeg;base64,") == 3, "the first, one between, the last"
        assert "/movements/pictures/" not in page
    with_it = client.get(CARD.format(marit) + "&pdf=a5").data
    assert with_it.startswith(b"%PDF") and b"/Image" in with_it
    assert "data:image/jpeg" not in client.get("/floor/paper/wall").text


def test_an_own_still_stands_on_the_own_card_and_on_nobody_elses(app: Flask, client: FlaskClient) -> None:
    marit, ines = athlete_id(app, MARIT), athlete_id(app, "Ines Okafor")
    with reading(app) as db:
        still = db.scalars(select(Still.id).where(Still.athlete_id == marit)).one()
    assert "data:image/jpeg" not in client.get(CARD.format(marit)).text
    done = client.post(f"/technique/stills/{still}/card", data={"on": "yes"}, follow_redirects=True).text
    assert "On the own card from now on." in done and "Take it off" in done
    assert client.get(CARD.format(marit)).text.count("data:image/jpeg") >= 1
    assert "data:image/jpeg" not in client.get(CARD.format(ines)).text
    both = client.get("/floor/paper/card").text  # everybody's cards for the coach: hers alone has it
    cards = re.split(r"<article", both)
    assert {MARIT in card for card in cards if "data:image/jpeg" in card} == {True}
    phone = on_phone(app, client, "Ines Okafor")
    assert "data:image/jpeg" not in phone.get(CARD.format(marit)).text, "another's phone gets nothing of her"
    agree(client, marit, withdraw="1")
    assert "data:image/jpeg" not in client.get(CARD.format(marit)).text


def test_a_card_is_no_way_round_the_second_factor_or_consent(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, MARIT)
    with reading(app) as db:
        still = db.scalars(select(Still.id).where(Still.athlete_id == marit)).one()
    client.post(f"/technique/stills/{still}/card", data={"on": "yes"})
    phone, before = on_phone(app, client, MARIT), app.extensions["settings"]
    assert "data:image/jpeg" in phone.get(CARD.format(marit)).text, "her own, on her own phone"
    app.extensions["settings"] = replace(before, second_factor=True)
    try:
        assert "data:image/jpeg" not in client.get(CARD.format(marit)).text
        assert "data:image/jpeg" not in client.get(CARD.format(marit) + "&file=1").text
        assert "data:image/jpeg" in phone.get(CARD.format(marit)).text
    finally:
        app.extensions["settings"] = before
    with app.extensions["database"].writing() as db:  # a consent that ended, and a picture nobody erased
        db.execute(update(Consent).where(Consent.athlete_id == marit).values(withdrawn_on=dt.date(2026, 11, 23)))
    assert "data:image/jpeg" not in client.get(CARD.format(marit)).text
    assert client.get(f"/technique/stills/{still}/picture").status_code == 404


def test_a_still_without_a_movement_stands_on_no_card(app: Flask, client: FlaskClient) -> None:
    still = int(add(client, athlete_id(app, LIV), figure().content).headers["Location"].split("/")[-1].split("?")[0])
    assert client.post(f"/technique/stills/{still}/card", data={"on": "yes"}).status_code == 409


def test_another_squad_sees_no_frame(app: Flask, client: FlaskClient) -> None:
    keep(client, colour(1))
    user, _ = other_squad(app)
    other = app.test_client()
    other.post(f"/demo-sign-in/{user}")
    found = frames(app)[0]
    assert other.get(f"/movements/pictures/{found.id}").status_code == 404
    assert other.post(f"/movements/pictures/{found.picture_id}/drop").status_code == 404
