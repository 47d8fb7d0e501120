"""An archive of a squad as one zip: JSON with its schema, and a CSV a table beside it for other programs."""

import io
import json
import zipfile
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.words import clean_plain
from backsquat.formats.written import Written, as_csv
from backsquat.version import PRODUCT

FORMAT, VERSION = "backsquat-squad", 1
DATA, SCHEMA, TOLD = "squad.json", "schema.json", "README.txt"
PACKED_MOST, UNPACKED_MOST = 120_000_000, 600_000_000  # bytes: a hundred over ten seasons fit, and 800 pictures
README = """One squad of Back Squat, whole, in open formats.

squad.json   everything, table by table; what is not known is left out of its row
schema.json  the shape of squad.json (JSON Schema)
tables/      the same rows as CSV, for other programs; Back Squat reads squad.json alone

Open it in an empty Back Squat: start one with `make serve`, and choose "Open an archive" on its first page.
Passwords, second factors and athletes' links are not in it: each of them is chosen again.
It holds what is known about people's health. Keep it as you would keep that.
"""


@dataclass(frozen=True)
class Archive:
    """Rows by table, and the revision of the schema they were read from."""

    revision: str
    tables: dict[str, list[dict[str, Any]]]


def packed(archive: Archive, schema: Mapping[str, Any], made_at: str) -> bytes:
    """The archive as a file."""
    out = io.BytesIO()
    head = {"format": FORMAT, "version": VERSION, "revision": archive.revision, "made_at": made_at, "made_by": PRODUCT}
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr(TOLD, README)
        file.writestr(DATA, json.dumps(head | {"tables": archive.tables}, ensure_ascii=False, separators=(",", ":")))
        file.writestr(SCHEMA, json.dumps(_around(schema), indent=1))
        for name, rows in archive.tables.items():
            file.writestr(f"tables/{name}.csv", as_csv(_table(name, rows)))
    return out.getvalue()


def _around(schema: Mapping[str, Any]) -> dict[str, Any]:
    """The schema of the whole file, given that of its tables."""
    inner = {name: value for name, value in schema.items() if name != "$defs"}
    words: dict[str, Any] = {name: {"type": "string"} for name in ("revision", "made_at", "made_by")}
    properties = {"format": {"const": FORMAT}, "version": {"const": VERSION}, **words, "tables": inner}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "type": "object",
        "properties": properties,
        "required": list(properties),
        "$defs": schema.get("$defs", {}),
    }


def _table(name: str, rows: Sequence[Mapping[str, Any]]) -> Written:
    heads = list(dict.fromkeys(column for row in rows for column in row))

    def flat(value: Any) -> Any:
        return json.dumps(value, ensure_ascii=False) if isinstance(value, dict | list) else value

    return Written(name, heads, [[flat(row.get(head)) for head in heads] for row in rows])


def unpacked(content: bytes) -> Archive:
    """What an archive holds; ImpossibleInput where the file is none."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as file:
            names = file.namelist()
            if twice := next((name for name in names if names.count(name) > 1), None):
                raise ImpossibleInput(Problem("file", "archive_twice", {"name": twice[:60]}))
            if file.getinfo(DATA).file_size > UNPACKED_MOST:
                raise ImpossibleInput(Problem("file", "file_large"))
            found = clean_plain(json.loads(file.read(DATA)))
    except (zipfile.BadZipFile, KeyError, ValueError, RecursionError, NotImplementedError, OSError, EOFError) as error:
        raise ImpossibleInput(Problem("file", "archive_kind")) from error
    except zlib.error as error:
        raise ImpossibleInput(Problem("file", "archive_kind")) from error
    if not isinstance(found, dict) or found.get("format") != FORMAT or found.get("version") != VERSION:
        raise ImpossibleInput(Problem("file", "archive_kind"))
    tables = found.get("tables")
    if not isinstance(tables, dict) or not all(isinstance(rows, list) for rows in tables.values()):
        raise ImpossibleInput(Problem("file", "archive_kind"))
    return Archive(str(found.get("revision", "")), tables)
