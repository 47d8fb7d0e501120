"""The steps that led to a value, so that every number can be explained.

A `Step` is one line a coach can read: what it is, how it came about in words, and the result.
Steps survive as plain data (`to_plain`, `from_plain`), because a published number keeps the
working it was made with.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Step:
    """One line of working."""

    label: str  # what this is: "Estimate"
    words: str  # how it came about: "105 × (1 + 7 ÷ 30), trust: fair"
    output: str  # the result as text: "129.5"
    unit: str = ""


@dataclass(frozen=True)
class Working:
    """Steps in the order they were taken."""

    steps: tuple[Step, ...] = ()

    def then(self, *steps: Step) -> "Working":
        return Working(self.steps + steps)

    def __add__(self, other: "Working") -> "Working":
        return Working(self.steps + other.steps)

    def to_plain(self) -> list[dict[str, str]]:
        return [
            {"label": step.label, "words": step.words, "output": step.output, "unit": step.unit}
            for step in self.steps
        ]

    @classmethod
    def from_plain(cls, rows: Iterable[Mapping[str, str]]) -> "Working":
        return cls(
            tuple(Step(row["label"], row["words"], row["output"], row.get("unit", "")) for row in rows)
        )


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
