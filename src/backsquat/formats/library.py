"""A library of a squad as JSON: its own movements, screens and templates."""

import json
from collections.abc import Sequence
from typing import Any

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.words import clean_plain
from backsquat.version import PRODUCT

FORMAT, VERSION = "backsquat-library", 1


def library_text(entries: Sequence[Any]) -> str:
    """Entries (kind, code, entry) as a file."""
    return json.dumps(
        {"format": FORMAT, "version": VERSION, "made_by": PRODUCT, "entries": entries}, ensure_ascii=False, indent=1
    )


def read_library(content: bytes) -> list[Any]:
    """The entries of a file; ImpossibleInput where it is none of ours."""
    try:
        found = clean_plain(json.loads(content))
    except (ValueError, RecursionError) as error:
        raise ImpossibleInput(Problem("file", "library_kind")) from error
    entries = found.get("entries") if isinstance(found, dict) else None
    if entries is None or found.get("format") != FORMAT or not isinstance(entries, list):
        raise ImpossibleInput(Problem("file", "library_kind"))
    return entries
