"""The manner of a movement in an exercise: stance, lean, range, turn-out, wedge, tempo, style.

It is chosen on purpose and acts: on the time of a rep, the first load, what is asked of the body, and on
which reps count as deep. Each effect is a named rule (`core/session_rules.py`).
"""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields, replace
from enum import StrEnum
from functools import lru_cache
from typing import Any

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.session_rules import SessionRules

WEDGE_MOST_MM = 60
DIRECTIONS = (  # of the lunge wheel, clockwise from ahead, as seen from the standing leg
    "ahead", "diagonal ahead", "side", "diagonal back", "back", "behind and across", "ahead and across", "open side",
)  # fmt: skip


class Stance(StrEnum):
    """How far the feet are apart, front to back or side to side."""

    USUAL = ""
    SHORT = "short"
    LONG = "long"


class Lean(StrEnum):
    """How the trunk is held."""

    USUAL = ""
    UPRIGHT = "upright"
    LEAN = "lean"


class Range(StrEnum):
    """How much of the movement is done; other than the whole starts a record line of its own."""

    WHOLE = ""
    HALF = "half"
    DEFICIT = "deficit"
    FRONT_RAISED = "front raised"


class Style(StrEnum):
    """How a rep goes."""

    PLAIN = ""
    PAUSE = "pause"
    ONE_AND_A_HALF = "one and a half"
    TENSION = "constant tension"
    SLOW_LOWERING = "slow lowering"


@dataclass(frozen=True)
class Manner:
    """How a movement is done in an exercise; the plain one changes nothing. `turned_out`: feet wide and out on purpose."""

    stance: Stance = Stance.USUAL
    lean: Lean = Lean.USUAL
    range: Range = Range.WHOLE
    turned_out: bool = False
    wedge_mm: int = 0
    tempo: str = ""  # empty: the progression's
    style: Style = Style.PLAIN
    directions: tuple[str, ...] = ()  # of a lunge wheel, in the order they are done; empty: all, clockwise

    @property
    def plain(self) -> bool:
        """Whether nothing about it is special."""
        return self == Manner()

    def to_plain(self) -> dict[str, Any]:
        """Plain data for keeping: what is special, and nothing else; `manner_from` reads it back."""
        usual = asdict(Manner())
        special = {name: value for name, value in asdict(self).items() if value != usual[name]}
        return special | ({"directions": list(self.directions)} if self.directions else {})

    def load_share(self, rules: SessionRules) -> float:
        """First load as a share of that of the plain manner."""
        of_range = {
            Range.HALF: rules.half_share,
            Range.DEFICIT: rules.deficit_share,
            Range.FRONT_RAISED: rules.deficit_share,
        }
        of_style = {
            Style.PAUSE: rules.pause_share,
            Style.ONE_AND_A_HALF: rules.one_and_a_half_share,
            Style.TENSION: rules.tension_share,
            Style.SLOW_LOWERING: rules.slow_lowering_share,
        }
        return of_range.get(self.range, 1.0) * of_style.get(self.style, 1.0)

    def emphasis(self, usual: float, rules: SessionRules) -> float:
        """Emphasis from −2 (thighs) to 2 (hips): longer and leaning shift it to the hips, a wedge to the thighs."""
        by = {Stance.LONG: 1, Stance.SHORT: -1}.get(self.stance, 0) + {Lean.LEAN: 1, Lean.UPRIGHT: -1}.get(self.lean, 0)
        by -= 1 if self.wedge_mm else 0
        return min(2.0, max(-2.0, usual + by * rules.stance_shift))

    @property
    def line(self) -> str:
        """The record line its sets belong to: empty for what changes no load, so that the sets count as any other."""
        return ", ".join(word for word in (self.range.value, self.style.value) if word)

    def depth_code(self, standard: str) -> str:
        """The depth standard its sets are logged under: one of its own for another range than the whole."""
        return f"{standard}, {self.range.value}" if self.range else standard


AS_USUAL = Manner()  # nothing said: most exercises, asked for with every turn of a floor


def manner_from(given: Mapping[str, Any]) -> Manner:
    """The manner kept as plain data, or typed; ImpossibleInput names what cannot be."""
    if not given:
        return AS_USUAL
    known = {item.name for item in fields(Manner)}
    values: dict[str, Any] = {}
    found: list[Problem] = []
    kinds: dict[str, type[StrEnum]] = {"stance": Stance, "lean": Lean, "range": Range, "style": Style}
    for name, value in given.items():
        if name not in known or value in (None, ""):
            continue
        if name in kinds and value not in set(kinds[name]):
            found.append(Problem(name, "not_a_choice", {"choices": ", ".join(kinds[name])}))
            continue
        values[name] = kinds[name](value) if name in kinds else value
    values["directions"] = tuple(dict.fromkeys(values.get("directions", ())))
    if set(values["directions"]) - set(DIRECTIONS):
        found.append(Problem("directions", "not_a_choice", {"choices": ", ".join(DIRECTIONS)}))
    if not 0 <= values.get("wedge_mm", 0) <= WEDGE_MOST_MM:
        found.append(Problem("wedge_mm", "parameter_range", {"name": "Wedge", "low": 0, "high": WEDGE_MOST_MM}))
    if values.get("tempo") and tempo_seconds(values["tempo"]) is None:
        found.append(Problem("tempo", "tempo"))
    if found:
        raise ImpossibleInput(*found)
    return replace(Manner(), **values)


@lru_cache(maxsize=256)
def tempo_seconds(tempo: str) -> tuple[float, float, float, float] | None:
    """Seconds down, at the bottom, up, at the top; X is as fast as can be, one second. None: not a tempo."""
    parts = tempo.replace("x", "1").replace("X", "1").split("-")
    if len(parts) != 4 or not all(part.isdecimal() and len(part) < 3 and int(part) <= 60 for part in parts):
        return None
    down, bottom, up, top = (float(part) for part in parts)
    return (down, bottom, up, top) if down + bottom + up + top > 0 else None


def rep_s(tempo: str, manner: Manner, rules: SessionRules) -> float:
    """Seconds of one rep of one side, in a tempo and manner; a tempo nobody can read counts as 2-0-1-0."""
    down, bottom, up, top = tempo_seconds(manner.tempo or tempo) or (2.0, 0.0, 1.0, 0.0)
    if manner.style is Style.SLOW_LOWERING:
        down = max(down, rules.slow_lowering_s)
    if manner.style is Style.PAUSE or manner.range is Range.HALF:
        bottom = max(bottom, rules.pause_s)
    if manner.style is Style.TENSION:
        top = 0.0
    whole = down + bottom + up + top
    return whole * rules.one_and_a_half_time if manner.style is Style.ONE_AND_A_HALF else whole
