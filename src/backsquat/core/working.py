"""The steps that led to a value, as data, so that every number can be explained in any words and unit.

A `Step` says by its code what was done, with the facts it was done from, and what came out. Words are
put to it only when it is shown (`ui/phrases/working.py`). Steps survive as plain data (`to_plain`,
`from_plain`), because a published number keeps the working it was made with.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

Fact = str | float | int


@dataclass(frozen=True)
class Step:
    """One line of working.

    `output` is a number in `unit`, an exact amount as text ("82.5") or a code; days are ISO dates.
    """

    code: str
    facts: Mapping[str, Fact] = field(default_factory=dict)
    output: Fact = ""
    unit: str = ""


@dataclass(frozen=True)
class Working:
    """Steps in the order they were taken."""

    steps: tuple[Step, ...] = ()

    def then(self, *steps: Step) -> "Working":
        """This working with more steps after it."""
        return Working(self.steps + steps)

    def __add__(self, other: "Working") -> "Working":
        return Working(self.steps + other.steps)

    def to_plain(self) -> list[dict[str, Any]]:
        """Plain data for keeping; `from_plain` reads it back."""
        return [
            {"code": step.code, "facts": dict(step.facts), "output": step.output, "unit": step.unit}
            for step in self.steps
        ]

    @classmethod
    def from_plain(cls, rows: Iterable[Mapping[str, Any]]) -> "Working":
        """The working kept as plain data."""
        return cls(tuple(Step(row["code"], row["facts"], row["output"], row["unit"]) for row in rows))


def plain(number: float, decimals: int = 1) -> str:
    """Write a number the way a coach would: no trailing zeros, a real minus sign."""
    text = f"{number:.{decimals}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text.replace("-", "−")


def signed(number: float, decimals: int = 1) -> str:
    """Like `plain`, with a plus in front of what is not negative."""
    text = plain(number, decimals)
    return text if text.startswith("−") else f"+{text}"
