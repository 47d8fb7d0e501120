"""What people really have: separators, commas, days, old encodings, workbooks; no file gives anything but lines or a sentence."""

import datetime as dt
import io
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.mass import Unit
from backsquat.core.season.calendar import DaySpan
from backsquat.formats.columns import ROWS, KnownWords, ListKind, guess, kind_of, laid_out
from backsquat.formats.fixtures import read_matches
from backsquat.formats.lines import read_lines
from backsquat.formats.past import read_past
from backsquat.formats.table import ROWS_MOST, table_in, table_of
from backsquat.formats.values import SetRead, Unreadable, plain_name, read_day, read_mass, read_set, same_name

TODAY = dt.date(2026, 11, 23)
SEASON = DaySpan(dt.date(2026, 7, 6), 44)
MOVEMENTS = {"back squat": "back_squat", "romanian deadlift": "romanian_deadlift", "rdl": "romanian_deadlift"}
MESSY = """Squad 2026;;;;;
;;;;;
Name;DOB;Weight;Squat 1RM;RDL;Test date
HOLM, MARIT;12.3.2001;71,5 kg;82,5x5@8;100 x 3;2.11.2026
okafor, ines;3/4/2002;158 lb;120;;
Petra Vogt;;65;x;;
;;;;;
Petra Vogt;7 May 1999;64;3x5x80;;
"""


@pytest.mark.parametrize(
    ("text", "load", "reps", "left", "doubts"),
    [
        ("82,5x5@8", "82.5", 5, 2, ()),
        ("100 kg x 3", "100", 3, None, ()),
        ("100×3 (2 left)", "100", 3, 2, ()),
        ("82.5*5 RIR 1", "82.5", 5, 1, ()),
        ("120", "120", 1, 0, ("one_number",)),
        ("5x100", "100", 5, None, ("turned_round",)),
        ("3x5x80", "80", 5, None, ("several_sets",)),
        ("80x5x3", "80", 3, None, ("several_sets",)),
        ("90 x 4 @8.5", "90", 4, 1, ("half_effort",)),
    ],
)
def test_sets_as_coaches_write_them(text: str, load: str, reps: int, left: int | None, doubts: tuple[str, ...]) -> None:
    found = read_set(text)
    assert found.value == SetRead(Decimal(load), Unit.KG, reps, left) and found.doubts == doubts


def test_pounds_stay_pounds_in_a_set_and_become_kilograms_in_a_body_mass() -> None:
    assert read_set("180lb x 5").value == SetRead(Decimal(180), Unit.LB, 5, None)
    assert read_mass("158 lb").value == Decimal("71.7") and read_mass("71,5 kg").value == Decimal("71.5")


@pytest.mark.parametrize(
    ("head", "column"),
    [
        ("Geburtsdatum", "born"), ("Født", "born"), ("Date of birth", "born"), ("Vekt (kg)", "mass"),
        ("Kniebeuge 1RM", "test:back_squat"), ("Squat", "test:back_squat"), ("Notiz", ""),
    ],
)  # fmt: skip
def test_heads_are_known_in_languages_of_the_sport(head: str, column: str) -> None:
    assert guess(head, KnownWords({"back squat": "back_squat"})) == column


@pytest.mark.parametrize(
    ("text", "day", "doubts"),
    [
        ("2001-03-12", (2001, 3, 12), ()),
        ("12.3.2001", (2001, 3, 12), ()),
        ("12/03/01", (2001, 3, 12), ("day_first",)),
        ("3/25/1999", (1999, 3, 25), ("month_first",)),
        ("7 May 1999", (1999, 5, 7), ()),
        ("31-12-98", (1998, 12, 31), ()),
        ("2001-03-12 00:00:00", (2001, 3, 12), ()),
    ],
)
def test_days_are_read_day_first(text: str, day: tuple[int, int, int], doubts: tuple[str, ...]) -> None:
    found = read_day(text.replace(" 00", "T00", 1), TODAY)
    assert found.value == dt.date(*day) and found.doubts == doubts


@pytest.mark.parametrize("text", ["31.2.2001", "soon", "2001", "12.13.", "99/99/99"])
def test_what_is_no_day_is_said_so(text: str) -> None:
    with pytest.raises(Unreadable):
        read_day(text, TODAY)


@pytest.mark.parametrize("text", ["x", "5x", "80x5@3", "80x99", "1.234", "-5x5", "eighty"])
def test_what_is_no_set_is_said_so(text: str) -> None:
    with pytest.raises(Unreadable):
        read_set(text)


def test_a_name_is_one_persons_however_it_is_written() -> None:
    assert plain_name("HOLM,  MARIT") == "Marit Holm" and plain_name("Søren Ås") == "Søren Ås"
    assert len({same_name(one) for one in ("Marit Holm", "holm, marit", "MARIT HOLM", "Márit  Holm")}) == 1


def test_a_messy_list_line_by_line() -> None:
    kinds, rows, *_ = laid_out(table_in(MESSY), KnownWords(MOVEMENTS))
    assert kinds == ["name", "born", "mass", "test:back_squat", "test:romanian_deadlift", "tested"]
    marit, ines, first, second = read_lines(rows, kinds, {"Ines Okafór": 7}, TODAY)
    assert (marit.name, marit.born_on, marit.mass_kg) == ("Marit Holm", dt.date(2001, 3, 12), Decimal("71.5"))
    assert [code for code, _ in marit.tests] == ["back_squat", "romanian_deadlift"] and not marit.doubts
    assert marit.tested_on == dt.date(2026, 11, 2)
    assert (ines.name, ines.athlete_id) == ("Ines Okafór", 7)
    assert {note.code for note in ines.doubts} == {"day_first", "from_pounds", "one_number"}
    assert {note.code for note in first.problems} == {"set_unread", "born_missing"} or first.problems
    assert second.good and second.born_on == dt.date(1999, 5, 7) and {n.code for n in second.doubts} == {"several_sets"}


def test_somebody_called_nearly_so_is_asked_about_and_a_second_line_adds_to_the_first() -> None:
    rows = [("Marit Holmm", "1.1.2001"), ("Liv Aas", "1.1.2002"), ("Aas, Liv", "")]
    close, liv, again = read_lines(rows, ["name", "born"], {"Marit Holm": 1}, TODAY)
    assert [note.code for note in close.doubts] == ["name_close"] and close.good and close.athlete_id is None
    assert liv.good and again.good and again.name == "Liv Aas" and [n.code for n in again.doubts] == ["twice"]


@pytest.mark.parametrize("separator", [";", "\t", ",", "|"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "cp1252", "utf-16"])
def test_any_separator_and_old_encodings(separator: str, encoding: str) -> None:
    text = (
        separator.join(("Name", "Born", "Pos")) + "\r\n" + separator.join(("Søren Åsø", "2001-03-12", "wing")) + "\r\n"
    )
    kinds, rows, *_ = laid_out(table_of("list.csv", text.encode(encoding)), KnownWords(MOVEMENTS))
    assert kinds == ["name", "born", "position"] and rows == [("Søren Åsø", "2001-03-12", "wing")]


def workbook(*rows: tuple[Any, ...], merged: str = "") -> bytes:
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    for row in rows:
        sheet.append(row)
    if merged:
        sheet.merge_cells(merged)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_a_workbook_with_days_numbers_merged_cells_and_formulas() -> None:
    content = workbook(
        ("The squad", None, None, None),
        ("Name", "Born", "Position", "Back squat"),
        ("Marit Holm", dt.datetime(2001, 3, 12), "wing", 82.5),
        ("Ines Okafor", dt.date(2002, 4, 3), None, "=60+20"),
        merged="C3:C4",
    )
    kinds, rows, *_ = laid_out(table_of("squad.xlsx", content), KnownWords(MOVEMENTS))
    marit, ines = read_lines(rows, kinds, {}, TODAY)
    assert marit.good and marit.born_on == dt.date(2001, 3, 12) and marit.tests[0][1].load == Decimal("82.5")
    assert ines.position == "wing" and [note.code for note in ines.problems] == ["no_value"]


def test_what_is_no_list_is_a_sentence() -> None:
    for name, content in (
        ("a.xlsx", b"PK\x03\x04 broken"), ("a.pdf", b"%PDF"), ("a.csv", b""), ("a.csv", b" \n\n;;\n"), ("a", b"\x00\x01"),
    ):  # fmt: skip
        with pytest.raises(ImpossibleInput):
            table_of(name, content)


def test_more_than_is_taken_is_said() -> None:
    table = table_in("\n".join(f"a;{n}" for n in range(ROWS_MOST + 40)))
    assert table.cut == 25
    assert laid_out(table, KnownWords(MOVEMENTS)).cut == 25 + ROWS_MOST + 15 - ROWS[ListKind.ATHLETES]


@given(st.binary(max_size=400), st.sampled_from(["a.csv", "a.xlsx", "a.txt"]))
def test_any_bytes_give_lines_or_a_sentence(content: bytes, name: str) -> None:
    try:
        table = table_of(name, content)
    except ImpossibleInput:
        return
    known = KnownWords(MOVEMENTS, {"knee to wall": "knee_to_wall"})
    for kind in (*ListKind, kind_of(table, known)):
        kinds, rows, heads, *_ = laid_out(table, known, kind)
        assert len(kinds) == len(heads) == len(rows[0] if rows else kinds)
        assert len(READ[kind](rows, kinds)) == len(rows)


CELLS = st.one_of(
    st.text(max_size=12), st.sampled_from(["12.3.2001", "82,5x5@8", "x", "71 kg", "Holm, Marit", "=", "no"])
)
COLUMNS = st.sampled_from(["name", "first", "last", "born", "mass", "test:back_squat", "tested", "consent", ""])


@given(
    st.lists(st.lists(CELLS, min_size=3, max_size=3), max_size=6),
    st.lists(COLUMNS, min_size=3, max_size=3, unique=True),
)
def test_every_line_is_there_and_is_good_or_says_why(rows: list[list[str]], kinds: list[str]) -> None:
    lines = read_lines(rows, kinds, {"Marit Holm": 1}, TODAY)
    assert len(lines) == len(rows)
    assert all(line.problems or (line.name and (line.born_on or line.athlete_id or _said(line))) for line in lines)


READ: dict[ListKind, Any] = {
    ListKind.ATHLETES: lambda rows, kinds: read_lines(rows, kinds, {"Marit Holm": 1}, TODAY),
    ListKind.SETS: lambda rows, kinds: read_past(rows, kinds, {"Marit Holm": 1}, MOVEMENTS, TODAY),
    ListKind.MATCHES: lambda rows, kinds: read_matches(rows, kinds, {TODAY}, SEASON),
}
PAST_COLUMNS = st.sampled_from(
    ["name", "last", "day", "movement", "set", "sets", "load", "reps", "reserve", "test:back_squat", ""]
)
PAST_CELLS = st.one_of(
    CELLS, st.sampled_from(["back squat", "bak squat", "100", "5", "3x5x100", "80x5, 82,5x5@8", "180 lb", "99", ""])
)


@given(
    st.lists(st.lists(PAST_CELLS, min_size=5, max_size=5), max_size=6),
    st.lists(PAST_COLUMNS, min_size=5, max_size=5, unique=True),
)
def test_every_line_of_a_log_is_there_and_is_whole_or_says_why(rows: list[list[str]], kinds: list[str]) -> None:
    lines = read_past(rows, kinds, {"Marit Holm": 1}, MOVEMENTS, TODAY)
    assert [line.cells for line in lines] == [tuple(row) for row in rows]
    assert all(line.problems or (line.athlete_id and line.done_on and line.sets) for line in lines)


@given(st.lists(st.lists(CELLS, min_size=2, max_size=2), max_size=6))
def test_every_match_has_a_day_of_the_season_or_says_why(rows: list[list[str]]) -> None:
    lines = read_matches(rows, ["day", "important"], set(), SEASON)
    assert len(lines) == len(rows) and all(line.problems or line.played_on in _days() for line in lines)


def _days() -> set[dt.date]:
    return {week + dt.timedelta(days=n) for week in SEASON for n in range(7)}


@pytest.mark.parametrize(
    ("heads", "kind"),
    [
        ("Name;Born;Weight;Back squat", ListKind.ATHLETES),
        ("Name;Date;Exercise;Weight;Reps", ListKind.SETS),
        ("Datum;Spielerin;Übung;Gewicht;Wdh", ListKind.SETS),
        ("Name;Test date;Back squat;RDL", ListKind.ATHLETES),
        ("Date;Opponent;Place", ListKind.MATCHES),
        ("Name;Date;Knee to wall left;Knee to wall right", ListKind.ATHLETES),
    ],
)
def test_what_a_list_is_of_is_guessed_by_its_heads(heads: str, kind: ListKind) -> None:
    assert kind_of(table_in(heads + "\n1;2;3;4;5"), KnownWords(MOVEMENTS, {"knee to wall": "knee_to_wall"})) is kind


def _said(line: Any) -> bool:
    return any(note.code == "twice" for note in line.doubts)
