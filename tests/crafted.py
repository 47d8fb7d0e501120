"""Crafted files, by the hundred and with a fixed seed: workbooks, archives, pictures, parcels, lines of a sensor."""

import io
import json
import random
import time
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, field

from openpyxl import Workbook
from PIL import Image

from backsquat.core.errors import ImpossibleInput
from backsquat.devices.protocol import said_in
from backsquat.formats.archive import unpacked
from backsquat.formats.library import read_library
from backsquat.formats.pictures import picture_of
from backsquat.formats.table import table_of

WILD = (b"9999999999", b"1e999", b"\x00", b"[" * 900, b"\\ud800", b'"', b"<a>" * 90, b"A1:XFD1048576", b"-1", b"null")


@dataclass
class Crafted:
    """Of each kind how many were tried, read, and refused in words; what ended otherwise; the slowest, in seconds."""

    tried: dict[str, int] = field(default_factory=dict)
    read: dict[str, int] = field(default_factory=dict)
    slowest_s: dict[str, float] = field(default_factory=dict)
    faults: list[str] = field(default_factory=list)


def a_workbook() -> bytes:
    book = Workbook()
    assert book.active is not None
    for n in range(6):
        book.active.append([f"2026-01-{n + 1:02}", "Squat", 100 + n, "5", "x" * n])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def heavy_workbook() -> bytes:
    """A small file that asks for a whole sheet of merged cells."""
    merged = b'</sheetData><mergeCells count="1"><mergeCell ref="A1:XFD1048576"/></mergeCells>'
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(a_workbook())) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for name in old.namelist():
            new.writestr(name, old.read(name).replace(b"</sheetData>", merged))
    return out.getvalue()


def an_archive() -> bytes:
    out = io.BytesIO()
    data = {
        "format": "backsquat-squad",
        "version": 1,
        "revision": "bags",
        "tables": {"athletes": [{"id": 1, "name": "A"}]},
    }
    with zipfile.ZipFile(out, "w") as file:
        file.writestr("squad.json", json.dumps(data))
    return out.getvalue()


def a_picture(kind: str = "JPEG") -> bytes:
    out = io.BytesIO()
    Image.effect_noise((320, 240), 60).convert("RGB").save(out, kind)
    return out.getvalue()


LINE = b'{"of":"1-a","rep":1,"mean_speed":0.61}'
LIBRARY = json.dumps({"format": "backsquat-library", "version": 1, "entries": []}).encode()
KINDS: dict[str, tuple[Callable[[], bytes], Callable[[bytes], object]]] = {
    "workbooks": (a_workbook, lambda content: table_of("log.xlsx", content)),
    "texts": (lambda: b"date;lift;load\n2026-01-01;Squat;100\n" * 9, lambda content: table_of("log.csv", content)),
    "archives": (an_archive, unpacked),
    "libraries": (lambda: LIBRARY, read_library),
    "pictures": (a_picture, picture_of),
    "lines of a sensor": (lambda: LINE, said_in),
}


def mutated(content: bytes, dice: random.Random) -> bytes:
    """Some bytes changed, cut, doubled, or something wild put in; in a packed file sometimes inside a member."""
    if content[:2] == b"PK" and dice.random() < 0.7:
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
            hit = dice.choice(old.namelist())
            for name in old.namelist():
                part = old.read(name)
                new.writestr(name, mutated(part, dice) if name == hit else part)
        return out.getvalue()
    changed = bytearray(content)
    for _ in range(dice.randint(1, 6)):
        at = dice.randrange(len(changed) + 1)
        match dice.randrange(4):
            case 0:
                changed[at : at + 1] = bytes([dice.randrange(256)])
            case 1:
                del changed[at : at + dice.randint(1, 40)]
            case 2:
                changed[at:at] = dice.choice(WILD)
            case _:
                changed[at:at] = changed[at : at + dice.randint(1, 200)]
    return bytes(changed)


def crafted(each: int, seed: int = 2026) -> Crafted:
    """So many of each kind through the very readers the pages use."""
    dice, found = random.Random(seed), Crafted()
    for kind, (made, read) in KINDS.items():
        whole, slowest = made(), 0.0
        read(whole)  # as it is it is read: what is refused below is refused for what was done to it
        for _ in range(each):
            content, begun = mutated(whole, dice), time.perf_counter()
            found.tried[kind] = found.tried.get(kind, 0) + 1
            try:
                read(content)
                found.read[kind] = found.read.get(kind, 0) + 1
            except ImpossibleInput:
                pass  # a sentence
            except Exception as error:
                found.faults.append(f"{kind}: {type(error).__name__}: {error}"[:200])
            slowest = max(slowest, time.perf_counter() - begun)
        found.slowest_s[kind] = round(slowest, 2)
    return found
