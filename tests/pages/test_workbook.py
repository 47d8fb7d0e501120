"""A workbook of several sheets, taken in one after the other; a word that stands in many lines is answered once."""

import datetime as dt
import io
import json
import re
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from openpyxl import Workbook
from sqlalchemy import select

from backsquat.core.errors import ImpossibleInput
from backsquat.formats.table import SHEETS_MOST, sheets_of, table_again, table_in
from backsquat.storage.models import ColumnName, Match, SetEntry
from tests.demo_club import athlete_id, other_squad, reading
from tests.pages.test_imports import fields

DAYS = (dt.date(2025, 9, 8), dt.date(2025, 9, 15))
LINES = (  # a day's lines: its date stands in a merged cell beside them
    (("M. Holm", "BSQ", "60x5@8"), ("M. Holm", "RFESS", "12x8"), ("Ines Okafor", "BSQ", "55x5@8")),
    (("M. Holm", "BSQ", "62,5x5@8"), ("Ines Okafor", "Flying lift", "50x8"), ("Ines Okafor", "BSQ", "57,5x5@8")),
)


def workbook() -> bytes:
    book = Workbook()
    notes, squad, log, games = (book.active, *(book.create_sheet(name) for name in ("Squad", "Log", "Games")))
    assert notes is not None
    notes.title, notes["B2"] = "Notes", "chalk"
    for row in (["Player", "DOB"], ["New Face", "12.3.2001"]):
        squad.append(row)
    log.append(["the autumn of last year"])
    log.append([])
    log.append(["Date", "Who", "Lift", "Set"])
    for day, lines in zip(DAYS, LINES, strict=True):
        first = log.max_row + 1
        for n, line in enumerate(lines):
            log.append([None if n else day, *line])
        log.merge_cells(start_row=first, end_row=first + len(lines) - 1, start_column=1, end_column=1)
    for row in (["Date", "Against"], [dt.date(2026, 12, 9), "Hill Court"]):
        games.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def send(client: FlaskClient, address: str, data: dict[str, Any]) -> tuple[int, str]:
    answer = client.post(address, data=data)
    return answer.status_code, answer.get_data(as_text=True)


def opened(client: FlaskClient) -> str:
    return send(client, "/import/", {"file": (io.BytesIO(workbook()), "autumn.xlsx")})[1]


def book_in(page: str) -> str:
    found = re.search(r'<textarea name="book"[^>]*>\s*(.*?)</textarea>', page, re.S)
    assert found
    return found[1].replace("&#34;", '"').replace("&amp;", "&")


def on_sheet(client: FlaskClient, page: str, at: int) -> str:
    status, page = send(client, "/import/sheet", {"book": book_in(page), "sheet": str(at)})
    assert status == 200
    return page


def asked(page: str) -> dict[str, str]:
    """Word → lines it stands in, of what is asked once."""
    found = re.findall(r'name="word" value="([^"]+)"><b>.*?</b>(.*?) is\s*<select', page, re.S)
    return {word: re.sub(r"<[^>]+>|\s", "", lines) for word, lines in found}


def past(app: Flask) -> list[tuple[str, dt.date, float]]:
    with reading(app) as db:
        rows = db.scalars(select(SetEntry).where(SetEntry.standing, SetEntry.done_on < dt.date(2026, 1, 1)))
        return sorted((row.movement, row.done_on, row.load_kg) for row in rows)


def answered(app: Flask, page: str, **more: str) -> dict[str, Any]:
    means = {
        "movement:bsq": "back_squat",
        "movement:rfess": "rear_raised_dumbbells",
        "name:M. Holm": str(athlete_id(app, "Marit Holm")),
        "movement:flying lift": "",
    }
    words = list(asked(page))
    return fields(page) | {"book": book_in(page), "word": words, "means": [means[word] for word in words]} | more


def test_every_sheet_is_shown_and_taken_in_as_its_kind(app: Flask, client: FlaskClient) -> None:
    page = opened(client)
    plain = " ".join(page.split())
    for words in ("4 sheets", "Notes", "no heads this knows", "Sets of past days", "Matches", "Player · DOB"):
        assert words in plain
    squad = on_sheet(client, page, 1)
    assert "1 line, 1 ready" in " ".join(squad.split())
    status, after = send(client, "/import/look", fields(squad) | {"book": book_in(squad), "act": "store"})
    assert status == 200 and "4 sheets" in after and "Open again" in after and athlete_id(app, "New Face")
    games = on_sheet(client, after, 3)
    send(client, "/import/look", fields(games) | {"book": book_in(games), "act": "store"})
    with reading(app) as db:
        assert db.scalars(select(Match).where(Match.played_on == dt.date(2026, 12, 9))).one()


def test_a_word_of_many_lines_is_answered_once_and_known_the_next_time(app: Flask, client: FlaskClient) -> None:
    page = on_sheet(client, opened(client), 2)
    assert asked(page) == {
        "movement:bsq": "4lines", "name:M. Holm": "3lines", "movement:flying lift": "1line", "movement:rfess": "1line",
    }  # fmt: skip
    assert "> 4 <" in page.replace("\n", " ") or re.search(r"<label>\s*4 <input", page), "as the file counts its rows"
    status, page = send(client, "/import/look", answered(app, page, act="look"))
    assert status == 200 and "6 lines, 5 ready" in " ".join(page.split()) and not past(app)
    with reading(app) as db:
        assert not db.scalars(select(ColumnName)).all(), "to look stores nothing"
    _, page = send(client, "/import/look", answered(app, page, act="store"))
    assert "5 sets kept. 1 line left, below." in " ".join(page.split())
    assert past(app) == sorted([
        ("back_squat", DAYS[0], 60.0), ("rear_raised_dumbbells", DAYS[0], 12.0), ("back_squat", DAYS[0], 55.0),
        ("back_squat", DAYS[1], 62.5), ("back_squat", DAYS[1], 57.5),
    ])  # fmt: skip
    left = fields(page)
    assert left["c0-0"] == DAYS[1].isoformat(), "the line that stays keeps the date of its own merged cell"
    again = on_sheet(client, opened(client), 2)
    assert asked(again) == {"movement:flying lift": "1line"}
    _, page = send(client, "/import/look", fields(again) | {"book": book_in(again), "act": "store"})
    assert "5 were here already" in " ".join(page.split()) or len(past(app)) == 5


def test_an_answer_names_what_is_here_or_nothing(app: Flask, client: FlaskClient) -> None:
    other_squad(app)
    page = on_sheet(client, opened(client), 2)
    with reading(app) as db:
        theirs = db.scalars(select(SetEntry.athlete_id).order_by(SetEntry.athlete_id.desc())).first()
    wrong = {"word": ["movement:bsq", "name:M. Holm", "nothing", "name:x"], "means": ["no_such", "9999", "back_squat"]}
    status, page = send(client, "/import/look", fields(page) | {"book": book_in(page)} | wrong | {"act": "store"})
    assert status == 422 and asked(page)["movement:bsq"] == "4lines" and not past(app) and theirs
    with reading(app) as db:
        assert not db.scalars(select(ColumnName).where(ColumnName.list.like("%words"))).all()


@pytest.mark.parametrize(
    "book",
    ["", "null", "[]", "{", "[1, 2]", '[["a", 0, [["x"]], []]]', '[["a",0,1,1],["b",0,1,1]]', "[" * 5_000,
     json.dumps([["a", 0, [[""]], []]] * 2), json.dumps([["a", 0, [["x"]], []]] * (SHEETS_MOST + 1)) ],
)  # fmt: skip
def test_a_workbook_that_comes_back_otherwise_is_refused_with_a_sentence(client: FlaskClient, book: str) -> None:
    status, page = send(client, "/import/sheet", {"book": book, "sheet": "0"})
    assert status == 422 and 'class="problem' in page


def test_how_a_list_wrote_a_name_goes_with_the_person(app: Flask, client: FlaskClient) -> None:
    marit = athlete_id(app, "Marit Holm")
    with app.extensions["database"].writing() as db:
        for holds in (str(marit), "no number", "٣"):  # as an archive may bring them
            db.add(ColumnName(squad_id=1, list="name words", head=f"M. Holm {holds}", holds=holds))
    assert client.post("/import/", data={"pasted": "Date;Who;Lift;Set\n2025-09-08;x;BSQ;60x5"}).status_code == 200
    assert client.post(f"/athletes/{marit}/erase", data={"name": "Marit Holm"}).status_code == 302
    with reading(app) as db:
        left = db.scalars(select(ColumnName.holds).where(ColumnName.list == "name words")).all()
        assert sorted(left) == ["no number", "٣"]


def test_lines_of_any_machine_are_read() -> None:
    for end in ("\n", "\r\n", "\r"):
        assert table_in(f"a;b{end}1;2{end}").rows == (("a", "b"), ("1", "2")), repr(end)


def test_sheets_keep_their_names_their_order_and_the_numbers_of_their_rows() -> None:
    found = sheets_of("autumn.xlsx", workbook())
    assert [one.name for one in found] == ["Notes", "Squad", "Log", "Games"]
    assert found[0].table.numbers == (2,) and found[2].table.numbers == (1, 3, 4, 5, 6, 7, 8, 9)
    assert table_in("a;b\n\n\n1;2\n").numbers == (1, 4)
    assert table_again([["a", "b"], ["1", "2"]], [4, 9]).numbers == (4, 9)
    for nothing in ("text", [["x"], "y"], [[""]]):
        with pytest.raises(ImpossibleInput):
            table_again(nothing, [])
