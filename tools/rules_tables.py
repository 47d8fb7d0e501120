"""Write the tables of docs/RULES.md again from the code: the squad's defaults and every progression's parameters.

Called by `make rules`; the words between the tables are left alone.
"""

import re
from pathlib import Path

from backsquat.core.progression.parameters import lines as parameter_lines
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.rules import Rules, lines

DOCUMENT = Path(__file__).parents[1] / "docs/RULES.md"


def text(value: object) -> str:
    if isinstance(value, tuple):
        return " ".join("/".join(str(number) for number in pair) for pair in value)
    return str(value)


def span(low: float | None, high: float | None, choices: tuple[str, ...] = ()) -> str:
    return ", ".join(choices) or (f"{low:g} to {high:g}" if low is not None and high is not None else "")


def defaults() -> str:
    rows = [
        f"| `{line.name}` | {line.meaning} | {line.default} | {line.unit} | {span(line.low, line.high, line.choices)} "
        f"| {line.source} |"
        for line in lines(Rules())
    ]
    return "\n".join(["| name | meaning | default | unit | range | source |", "|---|---|---|---|---|---|", *rows])


def progressions() -> str:
    parts = []
    for progression in PROGRESSIONS.values():
        rows = [
            f"| `{progression.code}.{line.name}` | {line.meaning} | {text(line.default)} | {line.unit} "
            f"| {span(line.low, line.high)} | {line.source} |"
            for line in parameter_lines(progression.kind)
        ]
        head = ["| name | meaning | default | unit | range | source |", "|---|---|---|---|---|---|"]
        parts.append("\n".join([f"### {progression.name}", "", progression.summary, "", *head, *rows]))
    return "\n\n".join(parts)


def put(document: str, name: str, table: str) -> str:
    """The document with the stretch between its two marks replaced."""
    start, end = f"<!-- {name} -->", f"<!-- end of {name} -->"
    return re.sub(f"{re.escape(start)}.*?{re.escape(end)}", lambda _: f"{start}\n{table}\n{end}", document, flags=re.S)


if __name__ == "__main__":
    document = DOCUMENT.read_text("utf-8")
    DOCUMENT.write_text(put(put(document, "defaults", defaults()), "progressions", progressions()), "utf-8")
