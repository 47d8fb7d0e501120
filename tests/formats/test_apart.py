"""Files that ask for too much, and files that are damaged: a sentence each, and the next file is read as ever."""

import io
import os
import random
import threading
import zipfile

import pytest
from openpyxl import Workbook
from PIL import Image

from backsquat.core.errors import ImpossibleInput
from backsquat.formats.apart import Apart
from backsquat.formats.pictures import picture_of
from backsquat.formats.table import table_in, table_of


def a_workbook(rows: int = 5) -> bytes:
    book = Workbook()
    for n in range(rows):
        book.active.append([f"2026-01-{n + 1:02}", "Squat", 100 + n, "5"])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def with_sheet(content: bytes, change: "str | None" = None, **parts: bytes) -> bytes:
    """A workbook with something put into its sheet's XML before the end."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for name in old.namelist():
            part = parts.get(name, old.read(name))
            if change and name == "xl/worksheets/sheet1.xml":
                part = part.replace(b"</sheetData>", b"</sheetData>" + change.encode())
            new.writestr(name, part)
    return out.getvalue()


def code(content: bytes, name: str = "log.xlsx") -> str:
    with pytest.raises(ImpossibleInput) as error:
        table_of(name, content)
    return error.value.problems[0].code


def a_picture(kind: str, width: int, height: int) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (width, height), (120, 80, 40)).save(out, kind)
    return out.getvalue()


def test_a_merged_range_of_the_whole_sheet_is_ended_and_the_next_file_is_read() -> None:
    bomb = with_sheet(a_workbook(), '<mergeCells count="1"><mergeCell ref="A1:XFD1048576"/></mergeCells>')
    assert len(bomb) < 10_000
    assert code(bomb) in ("file_heavy", "file_damaged")
    assert table_of("log.xlsx", a_workbook()).rows[0] == ("2026-01-01", "Squat", "100", "5")


def test_any_damaged_workbook_is_a_sentence() -> None:
    """Bytes changed anywhere in the packed file, and in the XML inside, which the packing does not check."""
    dice, whole = random.Random(7), a_workbook(40)
    with zipfile.ZipFile(io.BytesIO(whole)) as file:
        parts = {name: file.read(name) for name in file.namelist()}
    for _ in range(200 if os.environ.get("WHOLE") else 12):
        damaged = bytearray(whole)
        for _ in range(dice.randint(1, 20)):
            damaged[dice.randrange(4, len(damaged))] = dice.randrange(256)
        name = dice.choice(sorted(parts))
        inside = bytearray(parts[name])
        at = dice.randrange(len(inside))
        inside[at : at + dice.randint(0, 30)] = dice.randbytes(dice.randint(0, 30))
        for content in (bytes(damaged), with_sheet(whole, **{name: bytes(inside)})):
            try:
                table_of("log.xlsx", content)
            except ImpossibleInput as error:
                assert error.problems[0].field == "file"


@pytest.mark.parametrize("kind", ["WEBP", "PNG"])
def test_a_small_file_of_a_very_large_picture_is_refused_before_it_is_unpacked(kind: str) -> None:
    with pytest.raises(ImpossibleInput) as error:
        picture_of(a_picture(kind, 6_000, 5_000))
    assert error.value.problems[0].code in ("picture_large", "picture_kind"), (
        "a WebP's own reader wants the memory first"
    )


def test_pictures_come_out_as_before() -> None:
    assert (picture_of(a_picture("JPEG", 4_000, 3_000)).width, picture_of(a_picture("WEBP", 800, 600)).height) == (
        1280,
        600,
    )


def test_a_cell_as_long_as_a_book_is_a_sentence() -> None:
    with pytest.raises(ImpossibleInput) as error:
        table_in('date;note\n2026-01-01;"' + "x" * 200_000 + '"')
    assert error.value.problems[0].code == "file_damaged"


def test_one_that_dies_is_started_again_and_several_wait_their_turn() -> None:
    reader = Apart("workbook")
    try:
        assert reader.read("workbook", "file", a_workbook(2))[0][1][0][1] == "Squat"
        assert reader._process is not None
        reader._process.kill()
        reader._process.wait()
        found: list[int] = []
        threads = [
            threading.Thread(
                target=lambda n=n: found.append(sum(map(any, reader.read("workbook", "file", a_workbook(n))[0][1])))
            )
            for n in (3, 4, 5)  # as many as have a place
        ]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        assert sorted(found) == [3, 4, 5]
    finally:
        reader.end()


def test_nothing_but_its_readers_can_be_asked_of_it() -> None:
    reader = Apart("workbook")
    try:
        with pytest.raises(KeyError):
            reader.read("os.system", "file", b"")
        with pytest.raises(ImpossibleInput):  # of another process, not of this
            reader.read("pdf", "file", b"")
    finally:
        reader.end()
