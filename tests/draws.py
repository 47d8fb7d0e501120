"""How much of a long draw runs: all of it where LONG is said (`.ci/run`), else every third, the same ones each time."""

import os
from collections.abc import Iterable
from typing import TypeVar

One = TypeVar("One")
LONG = bool(os.environ.get("LONG"))


def some(all_of_them: Iterable[One], every: int = 3) -> list[One]:
    """Every so many of a draw, or all."""
    return list(all_of_them)[:: 1 if LONG else every]
