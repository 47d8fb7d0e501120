"""Lists of minutes played: a name and a number a line, in whatever columns."""

from collections.abc import Mapping
from dataclasses import dataclass

from backsquat.formats.table import Table


@dataclass(frozen=True)
class Minutes:
    """Minutes by athlete, and the lines that name nobody or no minutes, as they stand."""

    known: dict[int, int]
    lost: tuple[str, ...]


def minutes_in(table: Table, names: Mapping[str, int]) -> Minutes:
    """Read every line; `names` are the squad's, in small letters. A name may stand in one cell or in two."""
    known: dict[int, int] = {}
    lost = []
    for row in table.rows:
        cells = [cell.strip() for cell in row if cell.strip()]
        words = [cell for cell in cells if not _number(cell)]
        numbers = [int(float(cell.rstrip("'").replace(",", "."))) for cell in cells if _number(cell)]
        joined = " ".join(words).casefold()
        turned = " ".join(reversed(" ".join(words).replace(",", " ").split())).casefold()
        said = (joined, turned, *(word.casefold() for word in words))
        athlete = next((names[one] for one in said if one in names), None)
        if athlete is not None and numbers:
            known[athlete] = numbers[-1]
        elif numbers:
            lost.append(" · ".join(cells))
    return Minutes(known, tuple(lost))


def _number(cell: str) -> bool:
    return len(cell) < 8 and cell.rstrip("'").replace(",", ".").replace(".", "", 1).isdecimal()
