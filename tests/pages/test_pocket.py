"""What a device takes along and hands in later: each thing once, for the cell it was done for, kept whatever came between."""

import datetime as dt
import json
import re
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Cell, DecisionRow, SessionAct, SetEntry, SignIn, Stop
from tests.demo_club import athlete_id, entries, live_cell, reading, user_id
from tests.pages.test_health import LIMIT
from tests.pages.test_own_phone import on_phone

MARIT = "Marit Holm"
NOW_MS = 1_790_000_000_000  # what the device's clock says when it hands in; nothing depends on its being right


def thing(cell: Cell, nth: int, what: str = "set", ago_s: int = 60, **fields: Any) -> dict[str, Any]:
    told = {"load": cell.load_amount, "reps": cell.reps, "reserve_reps": 2, "pain_character": "dull"} | fields
    return {
        "client_id": f"device-{what}-{cell.id}-{nth}", "what": what, "cell": cell.id, "athlete": cell.athlete_id,
        "tapped_ms": NOW_MS - 1000 * ago_s, "fields": {name: [str(value)] for name, value in told.items()},
    }  # fmt: skip


def place(client: FlaskClient) -> str:
    return str(client.get("/floor/pulse").get_json()["place"])


def hand_in(client: FlaskClient, *things: dict[str, Any], **about: Any) -> Any:
    parcel = {"format": 1, "place": place(client), "device_ms": NOW_MS, "things": list(things)} | about
    answer = client.post("/floor/waiting", data=json.dumps(parcel), content_type="application/json")
    return answer.get_json() | {"status": answer.status_code}


def test_the_pack_stops_at_each_athletes_own_line_of_pain(app: Flask, client: FlaskClient, physio: FlaskClient) -> None:
    """What stops whom is marked in the pain form the server made: a device compares no numbers."""

    def stopping(name: str) -> list[str]:
        pack = client.get("/floor/pack").get_json()
        turn = pack["sessions"][0]["athletes"][str(athlete_id(app, name))]["work"][0]
        return re.findall(r'value="([^"]+)"\s+data-stops', pack["parts"][turn["pain"]])

    marit, ayla = stopping(MARIT), stopping("Ayla Demirel")
    assert marit == ayla and marit[:2] == ["sharp", "electric"] and "dull 2" not in marit and "dull 10" in marit
    data = {"pain_line": "2", "by": "M. Ferro, physio"}
    physio.post(f"/health-list/{athlete_id(app, MARIT)}/pain-line", data=data)
    assert stopping(MARIT) == [*marit[:7], *(f"dull {n}" for n in range(2, 11))]
    assert stopping("Ayla Demirel") == ayla


def test_what_is_handed_in_twice_is_stored_once_and_in_order(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    sets = [thing(cell, n, ago_s=600 - 200 * n, reps=cell.reps - n, seen=n) for n in range(3)]
    first = hand_in(client, *sets[:2])
    assert [one["taken"] for one in first["answers"].values()] == [True, True]
    again = hand_in(client, *sets)
    assert [one["taken"] for one in again["answers"].values()] == [True] * 3
    found = entries(app, cell.id)
    assert [(one.set_number, one.reps, one.flags) for one in found] == [
        (1, cell.reps, []), (2, cell.reps - 1, []), (3, cell.reps - 2, []),
    ]  # fmt: skip
    ago = [round((one.at - one.happened_at).total_seconds()) for one in found if one.happened_at]
    assert ago == [600, 400, 200] and all(one.device_at for one in found)
    with reading(app) as db:  # complete: judged once
        assert len(db.scalars(select(DecisionRow).where(DecisionRow.cell_id == cell.id)).all()) == 1


@pytest.mark.parametrize("ago_s", [-500_000, 40 * 86_400])
def test_a_clock_that_says_nonsense_leaves_the_time_open_and_keeps_the_set(
    app: Flask, client: FlaskClient, ago_s: int
) -> None:
    cell = live_cell(app, MARIT, 2)
    assert hand_in(client, thing(cell, 0, ago_s=ago_s))["answers"]
    (entry,) = entries(app, cell.id)
    assert entry.happened_at is None and entry.done_on == dt.date(2026, 11, 23)


def test_mondays_sets_that_come_on_wednesday_are_mondays(
    app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    cell = live_cell(app, MARIT, 2)
    monkeypatch.setattr(app.extensions["clock"], "fixed_day", dt.date(2026, 11, 25))
    hand_in(client, thing(cell, 0, ago_s=2 * 86_400))
    assert [one.done_on for one in entries(app, cell.id)] == [dt.date(2026, 11, 23)]


def test_a_set_another_device_logged_too_is_kept_beside_it_and_both_are_seen(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    data = {
        "load": str(cell.load_amount),
        "reps": str(cell.reps),
        "client_id": "on-the-tablet",
        "pain_character": "dull",
    }
    client.post(f"/floor/cells/{cell.id}/sets", data=data)
    answer = hand_in(client, thing(cell, 0, seen=0))
    assert "another device" in answer["answers"][f"device-set-{cell.id}-0"]["words"]
    assert [one.flags for one in entries(app, cell.id)] == [[], ["also_logged"]]
    assert "another device had logged one meanwhile" in client.get("/review/").text


def test_a_set_for_an_earlier_number_counts_for_the_one_that_holds_now(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    client.post(f"/block/cells/{cell.id}", data={"load": str(cell.load_amount - 5), "reason": "a cold"})
    client.post(f"/block/{_block(app, cell)}/publish", data={})
    now = live_cell(app, MARIT, 2)
    assert now.id != cell.id
    hand_in(client, thing(cell, 0, seen=0))
    assert not entries(app, cell.id)
    (entry,) = entries(app, now.id)
    assert "replanned" in entry.flags and entry.load_amount == cell.load_amount


def _block(app: Flask, cell: Cell) -> int:
    from backsquat.storage.models import Exercise

    with reading(app) as db:
        return db.get_one(Exercise, cell.exercise_id).block_id


def test_a_set_of_somebody_stopped_meanwhile_is_kept_and_shown_to_coach_and_physio(
    app: Flask, client: FlaskClient, physio: FlaskClient
) -> None:
    cell = live_cell(app, MARIT, 2)
    pain = {"painful": 1, "pain": 6, "pain_region": "knee", "pain_character": "sharp"}
    hand_in(client, thing(cell, 0, seen=0, **pain))
    hand_in(client, thing(cell, 1, seen=1))
    assert [one.flags for one in entries(app, cell.id)] == [[], ["stopped"]]
    assert "Lifted in spite of it" in physio.get("/health-list/").text
    assert "stopped at the time" in client.get("/review/").text


def test_a_stop_is_a_stop_also_from_a_device(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    before = client.get("/floor/pulse").get_json()
    hand_in(client, thing(cell, 0, painful=1, pain=2, pain_region="knee", pain_character="locking"))
    after = client.get("/floor/pulse").get_json()
    assert after["stops"] == before["stops"] + 1 and after["pulse"] != before["pulse"]
    assert "stopped" in client.get(f"/floor/?athlete={cell.athlete_id}").text


def test_what_cannot_have_been_is_not_taken_and_says_why_and_holds_nothing_up(app: Flask, client: FlaskClient) -> None:
    cell, other = live_cell(app, MARIT, 2), live_cell(app, "Ines Okafor", 2)
    wrong = [
        thing(cell, 0, reps=200),
        thing(cell, 1, load="a lot"),
        thing(cell, 2, painful=1, pain=5, pain_region=""),
        thing(cell, 3) | {"athlete": other.athlete_id},
        thing(cell, 4) | {"cell": 10**6},
        thing(live_cell(app, MARIT, 3), 5),  # next week's: done all the same, its session was moved meanwhile
    ]
    sent = [*wrong, thing(other, 6)]
    answers = hand_in(client, *sent)["answers"]
    assert [answers[one["client_id"]]["taken"] for one in sent] == [False] * 5 + [True] * 2
    assert all(answers[one["client_id"]]["words"] for one in wrong)
    assert not entries(app, cell.id) and len(entries(app, other.id)) == 1
    (early,) = entries(app, live_cell(app, MARIT, 3).id)
    assert early.flags == ["moved"] and early.done_on == dt.date(2026, 11, 23)


def test_one_bad_thing_never_costs_the_others_their_answer(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    bad = [
        thing(cell, 0) | {"tapped_ms": 2**52},
        thing(cell, 1, note="\ud800"),
        thing(cell, 2) | {"what": "dance"},
        7,
        None,
    ]
    answers = hand_in(client, *bad, thing(cell, 3))["answers"]
    first, last = (f"device-set-{cell.id}-{n}" for n in (0, 3))
    assert answers[last]["taken"] and answers[first]["taken"], "a clock beyond the calendar is only a wrong clock"
    assert next(one.device_at for one in entries(app, cell.id)) is None
    assert sum(not one["taken"] for one in answers.values()) == 3


def test_what_the_device_sent_itself_is_no_other_device(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    hand_in(client, thing(cell, 0, seen=0))
    mine = [f"device-set-{cell.id}-0"]
    answer = hand_in(client, thing(cell, 1, seen=0) | {"mine": mine})["answers"][f"device-set-{cell.id}-1"]
    assert answer["words"] == ""


def test_a_set_of_somebody_else_waits_for_its_owner(app: Flask, client: FlaskClient) -> None:
    petra = live_cell(app, "Petra Skov", 2)
    phone = on_phone(app, client, MARIT)
    answer = hand_in(phone, thing(petra, 0))["answers"][f"device-set-{petra.id}-0"]
    assert answer["waits"] and not answer["taken"] and not entries(app, petra.id)
    assert hand_in(client, thing(petra, 0))["answers"][f"device-set-{petra.id}-0"]["taken"]


def test_pain_from_a_device_locks_whatever_became_of_the_work(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    before = client.get("/floor/pulse").get_json()["stops"]
    hurt = thing(cell, 0, said="sharp", pain_region="knee") | {"what": "pain", "cell": 10**6}
    for _ in range(2):
        assert hand_in(client, hurt)["answers"][hurt["client_id"]]["taken"]
    assert client.get("/floor/pulse").get_json()["stops"] == before + 1
    assert not entries(app, cell.id), "no load, no reps: nobody said any"
    dull = thing(cell, 1, said="dull 2", pain_region="hip") | {"what": "pain"}
    nowhere = thing(cell, 2, said="dull", pain_region="") | {"what": "pain"}
    answers = hand_in(client, dull, nowhere)["answers"]
    assert answers[dull["client_id"]]["taken"] and not answers[nowhere["client_id"]]["taken"]
    assert client.get("/floor/pulse").get_json()["stops"] == before + 1


def test_a_doubtful_load_is_kept_with_a_mark_as_nobody_can_be_asked(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    answer = hand_in(client, thing(cell, 0, load="101.37"))["answers"][f"device-set-{cell.id}-0"]
    assert answer["taken"] and "not from this room" in answer["words"]


def test_for_other_data_nothing_is_taken(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    assert hand_in(client, thing(cell, 0), place="another")["status"] == 409
    assert hand_in(client, thing(cell, 0), format=3)["status"] == 400
    assert hand_in(client, *(thing(cell, n) for n in range(21)))["status"] == 400
    answer = client.post("/floor/waiting", data=b"\xff{", content_type="application/json")
    assert answer.status_code == 400 and not entries(app, cell.id)


def test_ramp_sets_work_left_out_and_ended_come_once_too(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    things = [
        thing(cell, 0, "ramp", n=2), thing(cell, 1, "ramp", n=2), thing(cell, 2), thing(cell, 3, "end"),
    ]  # fmt: skip
    hand_in(client, *things)
    hand_in(client, *things)
    ines = live_cell(app, "Ines Okafor", 2)
    hand_in(client, thing(ines, 0, "skip", reason="no time"))
    hand_in(client, thing(ines, 0, "skip", reason="no time"))
    assert not hand_in(client, thing(ines, 1, "skip", reason=" "))["answers"][f"device-skip-{ines.id}-1"]["taken"]
    with reading(app) as db:
        acts = db.scalars(select(SessionAct).where(SessionAct.athlete_id.in_([cell.athlete_id, ines.athlete_id])))
        assert [(act.what.value, act.facts.get("n"), act.facts.get("reason")) for act in acts] == [
            ("ramp", 2, None), ("skipped", None, "no time"),
        ]  # fmt: skip
        assert len(db.scalars(select(DecisionRow).where(DecisionRow.cell_id == cell.id)).all()) == 1


def test_the_pack_holds_the_lists_the_floor_shows(app: Flask, client: FlaskClient) -> None:
    pack, marit = client.get("/floor/pack").get_json(), athlete_id(app, MARIT)
    monday, wednesday = pack["sessions"]
    assert (monday["day"], wednesday["day"]) == ("2026-11-23", "2026-11-25")
    mine = monday["athletes"][str(marit)]
    squat = mine["work"][0]
    cell = live_cell(app, MARIT, 2)
    assert (squat["cell"], squat["load"], squat["reps"]) == (cell.id, f"{cell.load_amount:g}", cell.reps)
    assert [step[:2] for step in mine["steps"][:3]] == [
        [cell.exercise_id, 1],
        [cell.exercise_id, 2],
        [cell.exercise_id, 3],
    ]
    assert mine["steps"][0][2] == 0 and mine["steps"][1][2] > 0  # no rest before the first set
    assert len(mine["steps"]) == sum(one["sets"] for one in mine["work"])
    page = " ".join(client.get(f"/floor/?athlete={marit}").text.split())
    assert all(words in page for words in re.findall(r'aria-label="(Ramp [^"]+)"', " ".join(squat["card"].split())))
    squats = pack["movements"]["back_squat"]
    assert (
        "back_squat" in squats["locks"]["knee"] and squats["safety"] and squats["easier"] and "<li>" in squats["set_up"]
    )
    assert any(one["name"] == "Beatriz Solheim" for one in monday["kept_off"])  # the stops known now go along
    hand_in(client, thing(cell, 0))
    later = client.get("/floor/pack").get_json()["sessions"][0]["athletes"][str(marit)]
    assert later["work"][0]["done"] == 1 and len(later["steps"]) == len(mine["steps"]) - 1


def test_the_pulse_tells_a_change_for_who_is_shown_and_for_nobody_else(app: Flask, client: FlaskClient) -> None:
    marit, ines = live_cell(app, MARIT, 2), live_cell(app, "Ines Okafor", 2)

    def pulse(*athletes: int) -> str:
        return str(client.get(f"/floor/pulse?athletes={','.join(map(str, athletes))}").get_json()["pulse"])

    seen = [pulse(marit.athlete_id), pulse(ines.athlete_id), pulse()]

    def changed() -> list[bool]:
        now = [pulse(marit.athlete_id), pulse(ines.athlete_id), pulse()]
        found = [a != b for a, b in zip(seen, now, strict=True)]
        seen[:] = now
        return found

    hand_in(client, thing(marit, 0))
    assert changed() == [True, False, True]
    client.post(f"/floor/sets/{entries(app, marit.id)[0].id}/take-back")
    assert changed() == [True, False, True]
    hand_in(client, thing(ines, 0, "skip", reason="tired"))
    assert changed() == [False, True, True]
    client.post(f"/block/cells/{marit.id}", data={"load": str(marit.load_amount - 5), "reason": "a cold"})
    assert changed() == [False] * 3  # a draft is nobody's number yet
    client.post(f"/block/{_block(app, marit)}/publish", data={})
    assert changed() == [True, False, True]


def test_the_pulse_tells_what_a_physio_does(app: Flask, client: FlaskClient, physio: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    who = cell.athlete_id
    hand_in(client, thing(cell, 0, painful=1, pain=6, pain_region="knee", pain_character="sharp"))
    with reading(app) as db:
        stop = db.scalars(select(Stop.id).where(Stop.athlete_id == who).order_by(Stop.id.desc())).first()

    def pulse() -> str:
        return str(client.get(f"/floor/pulse?athletes={who}").get_json()["pulse"])

    known = pulse()
    for path, data in (
        (
            f"/health-list/stops/{stop}/clear",
            {"by": "D. Ferro", "role": "physio", "on": "2026-11-23", "limits": "none"},
        ),
        (f"/health-list/{who}/limits", LIMIT),
        (f"/health-list/{who}/away", {"first_on": "2026-11-23", "why": "illness"}),
    ):
        assert physio.post(path, data=data).status_code == 302, path
        assert pulse() != known, path
        known = pulse()


def test_asking_whether_anything_changed_keeps_nobody_signed_in(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        for row in db.scalars(select(SignIn)):
            row.seen_at -= dt.timedelta(minutes=30)
            before = row.seen_at
    client.get("/floor/pulse")
    with reading(app) as db:
        assert db.scalars(select(SignIn.seen_at)).all()[-1] == before
    client.get("/floor/")
    with reading(app) as db:
        assert db.scalars(select(SignIn.seen_at)).all()[-1] > before


def test_physios_hear_that_something_changed_but_log_nothing(app: Flask, physio: FlaskClient) -> None:
    assert physio.get("/floor/pulse").status_code == 200
    assert physio.get("/floor/pack").status_code == 403
    assert physio.post("/floor/waiting", data="{}").status_code == 403


def test_what_a_browser_keeps_for_when_there_is_no_line_names_nobody(app: Flask, client: FlaskClient) -> None:
    nobody = app.test_client()
    worker = nobody.get("/floor/worker.js")
    assert worker.headers["Service-Worker-Allowed"] == "/" and "text/javascript" in worker.headers["Content-Type"]
    files = json.loads(worker.text.split("const FILES = ")[1].split(";")[0])
    assert len(files) > 20 and all(nobody.get(one).status_code == 200 for one in files)
    shell = nobody.get("/floor/pocket").text
    assert not any(word in shell for word in ("Amari", "Kestrel", MARIT))
    for kind in ("pocket.js", "outbox.js", "floor.js", "idb.min.js", "floor.css"):
        assert any(kind in one for one in files) and (kind in shell)
    manifest = nobody.get("/floor/manifest.webmanifest").get_json(force=True)
    assert manifest["display"] == "standalone" and manifest["start_url"].startswith("/floor/")
    assert {nobody.get(icon["src"]).status_code for icon in manifest["icons"]} == {200}


def test_signing_out_leaves_only_what_still_waits(app: Flask) -> None:
    for waits, cleared in (("0", '"cache", "storage"'), ("2", '"cache"')):
        client = app.test_client()
        client.post(f"/demo-sign-in/{user_id(app, 'lund')}")
        assert client.post("/sign-out", data={"waiting": waits}).headers["Clear-Site-Data"] == cleared


def test_without_a_sign_in_what_waits_is_answered_so_that_it_stays(app: Flask, client: FlaskClient) -> None:
    cell, here = live_cell(app, MARIT, 2), place(client)
    nobody = app.test_client()
    parcel = {"format": 1, "place": here, "device_ms": NOW_MS, "things": [thing(cell, 0)]}
    answer = nobody.post(
        "/floor/waiting", data=json.dumps(parcel), content_type="application/json", headers={"HX-Request": "true"}
    )
    assert answer.status_code == 401
    with reading(app) as db:
        assert db.scalars(select(SetEntry).where(SetEntry.cell_id == cell.id)).first() is None


def test_something_unreadable_among_what_waits_holds_nothing_else_up(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, MARIT, 2)
    wrong: dict[str, Any] = {"client_id": "x", "what": "dance", "cell": "none"}
    answers = hand_in(client, wrong, {}, thing(cell, 0))["answers"]
    assert not answers["x"]["taken"] and answers[f"device-set-{cell.id}-0"]["taken"]
    assert len(entries(app, cell.id)) == 1
