"""A form carries a mark of what stood there when it was opened, so that it undoes nobody else's change unasked.

The mark is a check, not a lock: a form that carries none, or nonsense, is taken as it is.
"""

import hashlib
from collections.abc import Mapping
from typing import Any

from flask import request


def seen_of(known: Mapping[str, Any]) -> str:
    """The mark of what stands there now, a part for every name; names hold letters and underscores only."""
    return " ".join(f"{name}:{_print(value)}" for name, value in known.items())


def changed_since(known: Mapping[str, Any]) -> list[str]:
    """Names of what has changed since the form that was sent was opened."""
    saw = dict(part.split(":", 1) for part in request.form.get("seen", "").split() if ":" in part)
    return [name for name, value in known.items() if saw.get(name, _print(value)) != _print(value)]


def _print(value: Any) -> str:
    return hashlib.sha256(repr(value).encode()).hexdigest()[:12]
