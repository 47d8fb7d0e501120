"""What leaves the application: the log, a sheet, the calendar, the library, PDF; and who may take it along."""

import csv
import datetime as dt
import io
import json
import re
import sys
import zlib

import pytest
from flask import Flask
from flask.testing import FlaskClient
from icalendar import Calendar
from openpyxl import load_workbook
from sqlalchemy import func, select

from backsquat.formats import pdf
from backsquat.formats.apart import heavy_work
from backsquat.pages import papers
from backsquat.storage.models import Athlete, BlockSession, Cell, SessionDay, SetEntry
from tests.crafted import a_workbook
from tests.demo_club import athlete_id, live_cell, other_squad, reading, undo_of

SEASON = "first=2026-07-01&last=2026-11-23"


def lines(client: FlaskClient, address: str) -> list[dict[str, str]]:
    answer = client.get(address)
    assert answer.status_code == 200, address
    return list(csv.DictReader(io.StringIO(answer.data.decode("utf-8-sig"))))


def test_the_log_holds_every_set_that_stands_and_no_other(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        first = db.scalars(select(SetEntry).where(SetEntry.cell_id.is_not(None)).limit(1)).one()
        first.standing = False
        db.get_one(Athlete, 1).name = "=cmd|' /C calc'!A0"
    with reading(app) as db:
        standing = db.scalar(select(func.count(SetEntry.id)).where(SetEntry.standing))
        mine = db.scalars(select(SetEntry).where(SetEntry.standing, SetEntry.athlete_id == 1)).all()
    found = lines(client, f"/export/log.csv?{SEASON}")
    assert len(found) == standing
    assert not [value for line in found for value in line.values() if value.startswith("=")]
    own = lines(client, f"/export/log.csv?{SEASON}&athlete=1")
    assert len(own) == len(mine) and {line["athlete"] for line in own} == {"'=cmd|' /C calc'!A0"}
    assert sorted(float(line["load (kg)"]) for line in own) == sorted(round(one.load_kg, 10) for one in mine)
    assert {line["date"] for line in lines(client, "/export/log.csv?first=2026-11-01&last=2026-11-10")} <= {
        f"2026-11-{day:02}" for day in range(1, 11)
    }


def test_a_workbook_has_numbers_days_and_text_as_such(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        db.get_one(Athlete, 1).name = "=1+1"
    book = load_workbook(io.BytesIO(client.get(f"/export/log.xlsx?{SEASON}").data))
    heads, *rows = list(book["log"].iter_rows())
    place = {cell.value: n for n, cell in enumerate(heads)}
    named = next(row for row in rows if row[place["athlete"]].value == "=1+1")
    assert named[place["athlete"]].data_type == "s"  # no formula
    assert isinstance(named[place["date"]].value, dt.datetime) and named[place["load"]].data_type == "n"
    with reading(app) as db:
        total = db.scalar(select(func.sum(SetEntry.load_kg)).where(SetEntry.standing))
    assert sum(row[place["load (kg)"]].value for row in rows) == pytest.approx(total)


def test_a_sheet_says_what_stands_on_it(app: Flask, client: FlaskClient, assistant: FlaskClient) -> None:
    with reading(app) as db:
        live = db.scalars(select(Cell).where(Cell.current, Cell.athlete_id == 3, Cell.week == 0)).all()
    found = [line for line in lines(assistant, "/export/sheet/3.csv") if line["athlete"] == "Tove Lindqvist"]
    loads = {line["load"] for line in found if line["week of block"] == "1" and line["load"]}
    assert loads and loads <= {f"{cell.load_amount:f}" for cell in live if cell.load_amount is not None}
    book = load_workbook(io.BytesIO(client.get("/export/sheet/3.xlsx").data))
    table = book[next(name for name in book.sheetnames if "Back squat" in name)]
    row = next(row for row in table.iter_rows(values_only=True) if row[0] == "Tove Lindqvist")
    assert re.fullmatch(r"\d × \d+ · [\d.]+ kg", str(row[1])), row
    assert book.sheetnames[-1] == "all lines"


def test_a_sheet_says_which_loads_are_the_coachs_own(app: Flask, client: FlaskClient) -> None:
    cell = live_cell(app, "Tove Lindqvist", 4)  # of week 6 the demo's coach has said something already
    assert client.post(f"/block/cells/{cell.id}", data={"load": "90"}).status_code in (200, 204, 302)
    found = [line for line in lines(client, "/export/sheet/3.csv") if line["athlete"] == "Tove Lindqvist"]
    mine = [line for line in found if line["number by"] == "the coach"]
    assert [(line["week of block"], line["load"]) for line in mine] == [("5", "90"), ("6", "82.5")]
    assert {line["number by"] for line in found} <= {"the coach", "the plan", "a decision"}
    book = load_workbook(io.BytesIO(client.get("/export/sheet/3.xlsx").data))
    table = book[next(name for name in book.sheetnames if "Back squat" in name)]
    row = next(row for row in table.iter_rows(values_only=True) if row[0] == "Tove Lindqvist")
    assert [n for n, said in enumerate(row) if "the coach's" in str(said)] == [5, 6] and "90 kg, the coach's" in str(
        row[5]
    )


def test_who_may_take_what_along(app: Flask, assistant: FlaskClient, physio: FlaskClient, client: FlaskClient) -> None:
    for address in ("/export/", "/export/log.csv", "/export/library.json"):
        assert assistant.get(address).status_code == physio.get(address).status_code == 403, address
    assert physio.get("/export/sheet/3.csv").status_code == 403
    for one in (assistant, physio):
        assert one.post("/export/squad.zip").status_code == one.post("/export/calendar").status_code == 403
    for wrong in ("/export/log.exe", "/export/sheet/99.csv", "/export/sheet/3.pdf", "/export/calendar/no.ics"):
        assert client.get(wrong).status_code == 404, wrong
    assert client.get("/export/log.csv?first=soon&last=&athlete=x").status_code == 200
    before = lines(client, f"/export/log.csv?{SEASON}")
    _, stranger = other_squad(app)
    with app.extensions["database"].writing() as db:
        one = db.scalars(select(SetEntry).where(SetEntry.standing).limit(1)).one()
        kept = [column.name for column in SetEntry.__table__.c if column.name not in ("id", "client_id", "cell_id")]
        copied = {name: getattr(one, name) for name in kept}
        db.add(SetEntry(**copied | {"client_id": "elsewhere", "athlete_id": stranger}))
    assert lines(client, f"/export/log.csv?{SEASON}") == before  # nothing of another squad
    assert lines(client, f"/export/log.csv?{SEASON}&athlete={stranger}") == []


def calendar(client: FlaskClient, address: str) -> list[tuple[str, dt.date]]:
    answer = client.get(address)
    assert answer.status_code == 200 and answer.mimetype == "text/calendar"
    events = Calendar.from_ical(answer.data).walk("VEVENT")
    return [(str(event["uid"]), event["dtstart"].dt) for event in events]


def test_a_calendar_is_read_by_its_address_until_it_is_taken_back(app: Flask, client: FlaskClient) -> None:
    page = client.post("/export/calendar").text
    address = re.findall(r'value="http://localhost(/export/calendar/[^"]+\.ics)"', page)[0]
    assert address not in client.get("/export/").text  # shown once
    stranger = app.test_client()
    days = calendar(stranger, address)
    assert calendar(stranger, address.replace("/export/", "/hand-out/")) == days, "as calendars hold it from before 1.0"
    assert len([key for key, _ in days if key.startswith("match-")]) == 29 and len(set(days)) == len(days)
    text = stranger.get(address).text
    with reading(app) as db:
        assert not [name for name in db.scalars(select(Athlete.name)) if name in text]
        moved = db.scalars(select(SessionDay).join(BlockSession).where(BlockSession.block_id == 3)).all()[-1]
    key = f"session-{moved.session_id}-{moved.week}@localhost"
    assert (key, moved.held_on) in days
    with app.extensions["database"].writing() as db:
        db.get_one(SessionDay, moved.id).held_on += dt.timedelta(days=1)
    assert (key, moved.held_on + dt.timedelta(days=1)) in calendar(stranger, address)  # the same thing, another day
    assert client.post("/export/calendar/1/end").status_code == 302
    assert stranger.get(address).status_code == 404
    assert client.post("/export/calendar/1/end").status_code == 404


def test_what_is_not_published_is_in_no_calendar(app: Flask, client: FlaskClient) -> None:
    block = {
        "name": "Draft", "first_week": "2027-01-04", "weeks": "4", "day_0": "0", "what_0": "Back squat",
        "progression_0": "wave", "role_0": "main", "sets_0": "3", "superset_0": "",
    }  # fmt: skip
    assert client.post("/block/new", data=block).status_code == 302
    page = client.post("/export/calendar").text
    address = re.findall(r'value="http://localhost(/export/calendar/[^"]+\.ics)"', page)[0]
    assert not [day for key, day in calendar(client, address) if key.startswith("session") and day.year == 2027]


def opened(client: FlaskClient, content: bytes) -> str:
    file = {"file": (io.BytesIO(content), "library.json")}
    return client.post("/import/library", data=file, follow_redirects=True).text


def test_own_movements_go_to_another_squad(app: Flask, client: FlaskClient) -> None:
    copied = client.get("/movements/new?copy=goblet_squat")
    assert copied.status_code == 200
    from backsquat.library.shelf import entries as shipped
    from tests.demo_club import user_id

    assert user_id(app, "amari")
    entry = shipped()["goblet_squat"].model_dump(mode="json") | {"name": "Sandbag squat", "aliases": []}
    held = {"format": "backsquat-library", "version": 1}
    new = {"kind": "movement", "code": "own_sandbag_squat", "entry": entry}
    known = {"kind": "movement", "code": "back_squat", "entry": shipped()["back_squat"].model_dump(mode="json")}
    page = opened(client, json.dumps(held | {"entries": [new, known]}).encode())
    assert "Added: Sandbag squat." in page and "1 here already" in page
    out = json.loads(client.get("/export/library.json").data)
    assert [one["code"] for one in out["entries"]] == ["own_sandbag_squat"]
    assert "Nothing added" in opened(client, client.get("/export/library.json").data)  # the same again
    assert client.get("/movements/own_sandbag_squat").status_code == 200
    assert client.post(undo_of(page)).status_code == 302
    assert json.loads(client.get("/export/library.json").data)["entries"] == []
    bad = {"kind": "movement", "code": "own_bad", "entry": {"name": "Bad"}}
    for wrong in (b"", b"[]", b"{}", b"\xff\x00", json.dumps(held | {"entries": [1]}).encode()):
        assert "no library of movements" in opened(client, wrong), wrong
    half = opened(client, json.dumps(held | {"entries": [new | {"entry": entry | {"name": "Other"}}, bad]}).encode())
    assert "own_bad" in half and json.loads(client.get("/export/library.json").data)["entries"] == []


def unpacked(pdf: bytes) -> bytes:
    """What its streams say."""
    streams = re.findall(rb"stream\r?\n(.*?)endstream", pdf, re.DOTALL)
    return b"".join(zlib.decompressobj().decompress(one) for one in streams if one[:1] == b"x")


def test_cards_and_wall_sheet_as_pdf(app: Flask, client: FlaskClient) -> None:
    one = athlete_id(app, "Tove Lindqvist")
    for address in (f"/floor/paper/card?pdf=a5&athlete={one}", "/floor/paper/wall?pdf=a4"):
        answer = client.get(address)
        assert answer.data.startswith(b"%PDF") and answer.mimetype == "application/pdf", address
        assert b"Barlow" in unpacked(answer.data)  # the shipped font is in it, not whatever the machine has
    assert client.get(f"/floor/paper/card?pdf=a3&athlete={one}").mimetype == "text/html"


def test_a_machine_that_can_make_no_pdf_says_so(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(sys.modules, "weasyprint", None)
    monkeypatch.setattr(papers, "as_pdf", pdf.laid_out)  # in this process, where the package is missing now
    answer = client.get("/floor/paper/wall?pdf=a4")
    assert answer.status_code == 409 and "cannot make a PDF" in answer.text and "Pango" in answer.text
    assert client.get("/floor/paper/wall").status_code == 200


def test_heavy_work_waits_at_few_places_and_beyond_them_is_told_at_once(client: FlaskClient) -> None:
    """Files and PDFs together: the threads that are left answer the floor."""
    book = io.BytesIO(a_workbook())
    with heavy_work(), heavy_work():
        assert client.get("/floor/paper/wall?pdf=a4").status_code == 200
        with heavy_work():
            told = client.get("/floor/paper/wall?pdf=a4")
            assert told.status_code == 409 and "try again" in told.text
            sent = client.post("/import/", data={"file": (book, "list.xlsx")})
            assert sent.status_code == 409 and "try again" in sent.text
            assert client.get("/floor/").status_code == 200
    assert client.get("/floor/paper/wall?pdf=a4").status_code == 200


def test_a_season_on_paper_says_what_the_athletes_page_says(
    app: Flask, client: FlaskClient, physio: FlaskClient
) -> None:
    one = athlete_id(app, "Sanne de Wit")
    page, report = client.get(f"/athletes/{one}").text, client.get(f"/athletes/{one}/season").text
    said = re.search(r"Back squat: ([\d.]+) kg <small>80 % range (\d+)–(\d+)", report)
    assert said and f"80 % range {said.group(2)}–{said.group(3)}" in page
    assert said.group(1) in re.sub(r"<[^>]+>", "", page).replace(" ", "")
    assert "Milestone:" in report and report.count('class="chart"') >= 3 and "Knee to wall" in report
    assert client.get(f"/athletes/{one}/season?pdf=a4").data.startswith(b"%PDF")
    newcomer = {"name": "Una Vale", "born_on": "2000-02-01", "newcomer": ""}
    client.post("/athletes/new", data=newcomer)
    assert "Nothing lifted or planned" in client.get(f"/athletes/{athlete_id(app, 'Una Vale')}/season").text
    assert physio.get(f"/athletes/{one}/season").status_code == 403


def test_pain_is_handed_out_with_a_second_factor_only(
    app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    with app.extensions["database"].writing() as db:
        hurt = db.scalars(select(SetEntry).where(SetEntry.standing).limit(1)).one()
        hurt.pain, hurt.pain_region = 5, "knee"
    read = f"/export/log.csv?{SEASON}"
    assert "knee" in {line["pain where"] for line in lines(client, read)}
    monkeypatch.setattr("backsquat.pages.request.second_factor_given", lambda: False)
    assert {(line["pain (0-10)"], line["pain where"]) for line in lines(client, read)} == {("", "")}


def test_a_sheet_hands_out_no_load_for_somebody_stopped_since(app: Flask, client: FlaskClient) -> None:
    def coming(name: str) -> list[dict[str, str]]:
        found = [line for line in lines(client, "/export/sheet/3.csv") if line["athlete"] == name]
        return [line for line in found if line["date"] >= "2026-11-23" and line["movement"] == "Back squat"]

    assert all(line["load"] for line in coming("Tove Lindqvist"))
    one = athlete_id(app, "Tove Lindqvist")
    test = {"movement": "back_squat", "load": "60", "reps": "5", "reserve_reps": "2", "done_on": "2026-11-23"}
    pain = {"client_id": "p", "pain": "7", "pain_region": "knee", "pain_character": "sharp"}
    assert client.post(f"/athletes/{one}/test", data=test | pain).status_code == 302
    stopped = coming("Tove Lindqvist")
    assert stopped and not [line for line in stopped if line["load"] or line["load (kg)"] or line["state"] != "not now"]
    book = load_workbook(io.BytesIO(client.get("/export/sheet/3.xlsx").data))
    assert "not now" in str(list(book["1 Back squat"].values))
