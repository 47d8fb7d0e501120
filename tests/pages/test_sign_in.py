"""Sign-ins kept on the server, a second factor, links, people, and slowing down who guesses."""

import datetime as dt
import re
from collections.abc import Iterator

import pyotp
import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select, update

from backsquat import create_app
from backsquat.clock import Clock
from backsquat.config import DEMO_DAY, Config
from backsquat.demo.club import PASSWORD
from backsquat.storage.models import AuditLine, Membership, OneTimeLink, SignIn, User
from tests.demo_club import athlete_id, entries, live_cell, other_squad, reading, user_id

GOOD = "violet ladder morning"
AMARI = {"sign_in": "amari", "password": PASSWORD}


def made(app: Flask, **changes: object) -> Flask:
    config = app.extensions["settings"]
    given = {"demo": True, "testing": True, "fixed_day": DEMO_DAY, "hash_cost": 1} | changes
    other = create_app(Config(config.data, **given))  # type: ignore[arg-type]
    other.config["WTF_CSRF_ENABLED"] = False
    return other


@pytest.fixture
def strict(app: Flask) -> Iterator[Flask]:
    """As one's own data are served: a second factor for whoever sees health notes."""
    other = made(app, demo=False, second_factor=True)
    yield other
    other.extensions["database"].close()


def signed_in(app: Flask, sign_in: str = "amari", password: str = PASSWORD) -> FlaskClient:
    client = app.test_client()
    assert client.post("/sign-in", data={"sign_in": sign_in, "password": password}).status_code == 302
    return client


def is_in(client: FlaskClient) -> bool:
    return client.get("/account").status_code == 200


def older(app: Flask, **by: float) -> None:
    """Let every sign-in be older than it is."""
    with app.extensions["database"].writing() as db:
        for row in db.scalars(select(SignIn)):
            for name, hours in by.items():
                setattr(row, name, getattr(row, name) - dt.timedelta(hours=hours))


def audited(app: Flask) -> list[str]:
    with reading(app) as db:
        return list(db.scalars(select(AuditLine.what).order_by(AuditLine.id)))


# --- how long it lasts


def test_a_sign_in_ends_after_idling_and_altogether(app: Flask, client: FlaskClient) -> None:
    older(app, seen_at=1.9)
    assert is_in(client), "not yet"
    older(app, seen_at=2.1)
    assert not is_in(client)
    again = signed_in(app)
    older(app, began_at=12.1)
    assert not is_in(again), "however busy"


def test_being_here_is_noted_now_and_then(app: Flask, client: FlaskClient) -> None:
    older(app, seen_at=1)
    client.get("/")
    with reading(app) as db:
        newest = db.scalars(select(SignIn).order_by(SignIn.id.desc())).first()
        assert newest is not None and Clock().real() - newest.seen_at < dt.timedelta(minutes=1)


def test_signing_out_ends_the_token_and_clears_the_browser(app: Flask, client: FlaskClient) -> None:
    cookie = client.get_cookie("backsquat")
    assert cookie is not None
    out = client.post("/sign-out")
    assert "storage" in out.headers["Clear-Site-Data"]
    thief = app.test_client()
    thief.set_cookie("backsquat", cookie.value)
    assert not is_in(thief), "a cookie kept aside is worth nothing"
    assert audited(app)[-1] == "sign_out"


def test_a_change_signs_out_everywhere_else(app: Flask, client: FlaskClient) -> None:
    phone = signed_in(app)
    assert client.post("/account/sign-out-everywhere", follow_redirects=True).status_code == 200
    assert is_in(client) and not is_in(phone)
    phone = signed_in(app)
    new = {"old": PASSWORD, "password": GOOD}
    assert client.post("/account/password", data=new).status_code == 302
    assert is_in(client) and not is_in(phone)
    assert is_in(signed_in(app, password=GOOD))


@pytest.mark.parametrize(
    ("data", "said"),
    [
        ({"old": "wrong", "password": GOOD}, "not your password"),
        ({"old": PASSWORD, "password": "short"}, "at least 10"),
        ({"old": PASSWORD, "password": "password123"}, "easy to guess"),
        ({"old": PASSWORD, "password": "amari amari"}, "easy to guess"),
        ({"old": PASSWORD, "password": "1234567890"}, "easy to guess"),
        ({"old": PASSWORD, "password": "x" * 201}, "200"),
        ({"old": PASSWORD, "password": ""}, "fill this in"),
    ],
)
def test_a_password_that_is_no_good_is_refused(client: FlaskClient, data: dict[str, str], said: str) -> None:
    answer = client.post("/account/password", data=data)
    assert answer.status_code == 422 and said in answer.text


def test_names_to_sign_in_with_in_any_case(app: Flask) -> None:
    assert is_in(signed_in(app, " AmArI "))


# --- who guesses


def test_guessing_from_elsewhere_never_keeps_the_rightful_out(app: Flask) -> None:
    mine = signed_in(app)
    mine.post("/sign-out")
    guesser = app.test_client()
    codes = [guesser.post("/sign-in", data=AMARI | {"password": f"guess {n}"}).status_code for n in range(12)]
    assert codes[0] == 422 and codes[-1] == 429
    assert guesser.post("/sign-in", data=AMARI).status_code == 429, "the right one is not looked at either"
    assert mine.post("/sign-in", data=AMARI).status_code == 302, "a browser that was in before has its own count"
    assert "sign_in_slowed" in audited(app)
    for _ in range(12):
        mine.post("/sign-out")
        last = mine.post("/sign-in", data=AMARI | {"password": "no"})
    assert last.status_code == 429, "it is slowed down for itself"


def test_one_address_is_slowed_whatever_names_it_tries(app: Flask) -> None:
    guesser = app.test_client()
    codes = [guesser.post("/sign-in", data={"sign_in": f"name {n}", "password": "x"}).status_code for n in range(42)]
    assert codes[-1] == 429
    assert guesser.get("/sign-in").status_code == 200


def test_a_forged_known_browser_is_none(app: Flask) -> None:
    client = app.test_client()
    client.set_cookie("backsquat-known", "made-up.signature")
    for _ in range(11):
        last = client.post("/sign-in", data=AMARI | {"password": "no"})
    assert last.status_code == 429


# --- the second factor


def set_up(client: FlaskClient) -> str:
    page = client.get("/account").text
    secret = re.search(r"<code>([A-Z2-7]{32})</code>", page)
    assert secret and "<svg" in page
    wrong = client.post("/account/second-factor", data={"code": "000000"})
    assert wrong.status_code == 422 and "not right" in wrong.text
    code = pyotp.TOTP(secret.group(1)).at(Clock().real())
    assert client.post("/account/second-factor", data={"code": code}).status_code == 302
    return secret.group(1)


def test_health_opens_with_a_second_factor_only(app: Flask, strict: Flask) -> None:
    client = signed_in(strict)
    rania = athlete_id(app, "Rania Haddad")
    secret_note = "Lower back sore after long bus trips"
    asked = client.get("/health-list/")
    assert asked.status_code == 302 and asked.location.startswith("/account")
    page = client.get(f"/health-list/{rania}").text
    assert secret_note not in page, "the page for everybody shows what everybody may see"
    assert client.get("/movements/choose").status_code == 302
    stop = client.post("/health-list/stops/1/clear", data={"by": "x"})
    assert stop.status_code == 302 and "/account" in stop.location
    set_up(client)
    assert secret_note in client.get(f"/health-list/{rania}").text
    assert client.get("/health-list/").status_code == 200
    lund = signed_in(strict, "lund")
    assert lund.get("/floor/").status_code == 200, "who sees none needs none"


def test_a_code_is_asked_for_and_good_once(app: Flask, strict: Flask) -> None:
    client = signed_in(strict)
    secret = set_up(client)
    phone = strict.test_client()
    first = phone.post("/sign-in?next=/block/", data=AMARI)
    assert "/sign-in/code" in first.location and not is_in(phone), "the password alone is not enough"
    used = pyotp.TOTP(secret).at(Clock().real())
    assert phone.post("/sign-in/code", data={"code": used}).status_code == 422, "it set the factor up: used"
    with app.extensions["database"].writing() as db:
        db.execute(update(User).values(second_used=0))
    done = phone.post("/sign-in/code?next=/block/", data={"code": used[:3] + " " + used[3:]})
    assert (done.status_code, done.location) == (302, "/block/") and is_in(phone)
    thief = strict.test_client()
    thief.post("/sign-in", data=AMARI)
    assert thief.post("/sign-in/code", data={"code": used}).status_code == 422, "overheard, it is good no more"
    codes = [thief.post("/sign-in/code", data={"code": f"{n:06}"}).status_code for n in range(12)]
    assert codes[-1] == 429, "and guessing is slowed down"
    cold = strict.test_client()
    assert "/sign-in" in cold.post("/sign-in/code", data={"code": used}).location


def test_who_is_signed_in_guesses_no_faster_than_who_is_not(strict: Flask) -> None:
    """A browser left open: the old password, and the code that takes the second factor off, are counted and noted."""
    here = signed_in(strict)
    wrong = {"old": "not this one", "password": "a longer one, really", "again": "a longer one, really"}
    found = [here.post("/account/password", data=wrong).text for _ in range(12)]
    assert "This is not your password" in found[0] and "Too many tries" in found[-1]
    with strict.extensions["database"].writing() as db:
        db.execute(update(User).values(second_factor=pyotp.random_base32()))
    off = [here.post("/account/second-factor/off", data={"code": f"{n:06}"}).text for n in range(12)]
    assert "This code is not right" in off[0] and "Too many tries" in off[-1]
    assert all("Second factor</h2>" in page for page in off), "said where it was typed"
    lines = audited(strict)
    assert lines.count("proof_failed") >= 20 and "proof_slowed" in lines
    with strict.extensions["database"].reader() as db:
        assert all(db.scalars(select(User.second_factor)))


# --- links and people


def link_in(page: str) -> str:
    found = re.search(r"/new-password/([\w-]+)", page)
    assert found
    return f"/new-password/{found.group(1)}"


def test_a_link_is_good_once_and_signs_out_everywhere(app: Flask, client: FlaskClient) -> None:
    lund = signed_in(app, "lund")
    address = link_in(client.post(f"/people/{user_id(app, 'lund')}/link").text)
    newer = link_in(client.post(f"/people/{user_id(app, 'lund')}/link").text)
    anybody = app.test_client()
    assert anybody.get(address).status_code == 404, "only the newest is good"
    assert anybody.post(newer, data={"password": "password123"}).status_code == 422
    assert anybody.post(newer, data={"password": GOOD}).status_code == 302
    assert anybody.post(newer, data={"password": GOOD}).status_code == 404
    assert not is_in(lund) and is_in(signed_in(app, "lund", GOOD))
    late = link_in(client.post(f"/people/{user_id(app, 'lund')}/link").text)
    with app.extensions["database"].writing() as db:
        db.execute(update(OneTimeLink).values(until=Clock().real() - dt.timedelta(minutes=1)))
    assert anybody.get(late).status_code == 404


def test_people_come_change_and_go(app: Flask, client: FlaskClient) -> None:
    who = {"name": "S. Ekholm", "sign_in": "Ekholm", "role": "assistant"}
    address = link_in(client.post("/people", data=who).text)
    assert app.test_client().post("/sign-in", data={"sign_in": "ekholm", "password": "none yet"}).status_code == 422
    app.test_client().post(address, data={"password": GOOD})
    ekholm = signed_in(app, "ekholm", GOOD)
    assert ekholm.get("/review/").status_code == 403
    new = user_id(app, "Ekholm")
    client.post(f"/people/{new}/role", data={"role": "physio"})
    assert not is_in(ekholm), "another role begins with another sign-in"
    ekholm = signed_in(app, "ekholm", GOOD)
    assert ekholm.get("/health-list/").status_code == 200
    client.post(f"/people/{new}/close")
    assert not is_in(ekholm)
    again = app.test_client().post("/sign-in", data={"sign_in": "ekholm", "password": GOOD})
    assert again.status_code == 422
    assert {"account_made", "role_changed", "account_closed", "password_reset"} <= set(audited(app))


@pytest.mark.parametrize(
    "who",
    [
        {"name": "", "sign_in": "x", "role": "assistant"},
        {"name": "X", "sign_in": " ", "role": "assistant"},
        {"name": "X", "sign_in": "AMARI", "role": "assistant"},
        {"name": "X", "sign_in": "x", "role": "owner"},
        {"name": "X" * 90, "sign_in": "x", "role": "physio"},
    ],
)
def test_nonsense_about_people_is_said_and_kept(client: FlaskClient, who: dict[str, str]) -> None:
    answer = client.post("/people", data=who)
    assert answer.status_code == 422 and "/new-password/" not in answer.text


def test_the_last_coach_stays_and_strangers_are_not_there(app: Flask, client: FlaskClient) -> None:
    me = user_id(app, "amari")
    for address, data in ((f"/people/{me}/role", {"role": "physio"}), (f"/people/{me}/close", {})):
        answer = client.post(address, data=data)
        assert answer.status_code == 409 and "needs a head coach" in answer.text
    stranger, _ = other_squad(app)
    for what in ("role", "close", "link"):
        assert client.post(f"/people/{stranger}/{what}", data={"role": "physio"}).status_code == 404
    assert client.post(f"/people/{user_id(app, 'lund')}/role", data={"role": "owner"}).status_code == 404


def test_a_coach_opens_no_account_of_somebody_in_another_squad_too(app: Flask, client: FlaskClient) -> None:
    lund = user_id(app, "lund")
    other_squad(app)
    with app.extensions["database"].writing() as db:
        squad = db.scalars(select(Membership.squad_id).where(Membership.squad_id != 1)).first()
        db.add(Membership(user_id=lund, squad_id=squad, role="physio"))
    answer = client.post(f"/people/{lund}/link")
    assert answer.status_code == 409 and "in another squad too" in answer.text
    client.post(f"/people/{lund}/close")
    with reading(app) as db:
        assert db.get_one(User, lund).active, "the other squad keeps them"
        assert db.scalars(select(Membership.squad_id).where(Membership.user_id == lund)).all() == [squad]


# --- an end in the middle of work


def test_an_ended_sign_in_on_the_floor_asks_in_place_and_loses_nothing(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Marit Holm", 2)
    data = {"client_id": "x", "load": "100", "reps": "3", "reserve_reps": "2", "pain": "0"}
    older(app, seen_at=3)
    piece = {"HX-Request": "true"}
    asked = client.post(f"/floor/cells/{cell.id}/sets", data=data, headers=piece)
    assert asked.status_code == 401 and asked.headers["HX-Retarget"] == "#sign-in-here"
    assert "Your sign-in has ended" in asked.text and "<html" not in asked.text
    wrong = client.post("/sign-in", data=AMARI | {"password": "no"}, headers=piece)
    assert wrong.status_code == 422 and "do not belong together" in wrong.text and "<html" not in wrong.text
    right = client.post("/sign-in", data=AMARI, headers=piece)
    assert right.status_code == 204 and "signed-in" in right.headers["HX-Trigger"]
    assert client.post(f"/floor/cells/{cell.id}/sets", data=data, headers=piece).status_code == 204
    assert len(entries(app, cell.id)) == 1


def test_signing_in_place_as_somebody_else_leaves_the_page_with_what_was_typed(app: Flask, client: FlaskClient) -> None:
    older(app, seen_at=3)
    piece = {"HX-Request": "true"}
    answer = client.post("/sign-in", data={"sign_in": "lund", "password": PASSWORD}, headers=piece)
    assert answer.status_code == 204 and answer.headers["HX-Redirect"] == "/" and "HX-Trigger" not in answer.headers


def test_a_form_sent_too_late_is_kept_for_who_typed_it_and_nobody_else(app: Flask, client: FlaskClient) -> None:
    older(app, seen_at=3)
    kept = client.post("/athletes/new", data={"name": "Signe <b>", "born_on": "2001-03-04", "password": "hush"})
    assert kept.status_code == 401 and "Signe &lt;b&gt;" in kept.text and "hush" not in kept.text
    me = str(user_id(app, "amari"))
    assert f'name="as_person" value="{me}"' in kept.text
    facts = {"name": "Signe Aalto", "born_on": "2001-03-04", "consent": "y", "as_person": me}
    lund = app.test_client()
    lund.post(f"/demo-sign-in/{user_id(app, 'lund')}")
    refused = lund.post("/athletes/new", data=facts)
    assert refused.status_code == 409 and "another person" in refused.text
    client.post("/sign-in", data=AMARI)
    assert client.post("/athletes/new", data=facts).status_code == 302


def test_forms_of_the_one_before_are_no_good_for_the_next(app: Flask) -> None:
    app.config["WTF_CSRF_ENABLED"] = True
    client = app.test_client()

    def token(path: str) -> str:
        found = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', client.get(path).text)
        assert found
        return found.group(1)

    client.post(f"/demo-sign-in/{user_id(app, 'lund')}", data={"csrf_token": token("/sign-in")})
    stale = token("/account")
    client.post("/sign-out", data={"csrf_token": stale})
    client.post("/demo-sign-in/1", data={"csrf_token": token("/sign-in")})
    assert client.post("/account/sign-out-everywhere", data={"csrf_token": stale}).status_code == 400


# --- behind a proxy, by TLS


def test_by_tls_cookies_are_secure_and_the_browser_is_told_to_stay_there(app: Flask) -> None:
    safe = made(app, https=True, proxied=True)
    client = safe.test_client()
    through = {"X-Forwarded-Proto": "https", "X-Forwarded-Host": "squat.club.example", "X-Forwarded-For": "10.0.0.7"}
    answer = client.post("/demo-sign-in/1", headers=through)
    cookies = answer.headers.getlist("Set-Cookie")
    assert cookies and all("Secure" in one and "HttpOnly" in one and "SameSite=Lax" in one for one in cookies)
    assert answer.headers["Strict-Transport-Security"].startswith("max-age=")
    safe.extensions["database"].close()
    plain = app.test_client().get("/sign-in")
    assert "Strict-Transport-Security" not in plain.headers and plain.headers["X-Frame-Options"] == "DENY"
