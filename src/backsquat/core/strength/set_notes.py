"""What else is told of a set, beside load, reps, reserve, faults and pain."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields
from typing import Any

from backsquat.core.errors import Problem
from backsquat.core.movements.manner import DIRECTIONS

HEIGHT_MOST_CM = 120.0
NEAR_ZERO = 1e-9  # more than nothing
HELP_MOST_KG = 60.0
BAND_MOST_KG = 200.0
NOTE_MOST = 120
SIDES = ("", "left", "right")
REACH_MOST_CM = 200.0
SPEED_MOST_MS, SPEEDS_MOST = 4.0, 40
Reach = dict[str, tuple[float | None, float | None]]  # direction → left and right, in cm


@dataclass(frozen=True)
class SetNotes:
    """What was seen and felt in a set. Heights in cm; `soreness` 0 to 10, apart from pain."""

    felt: str = ""  # where it was felt, as the movement lists it
    helped: str = ""  # whether the fix of last time helped: yes, no
    soreness: int | None = None
    note: str = ""  # to be read next time
    load_side: str = ""  # where one weight was held
    left_supported: bool = False  # a hand held on, on that side's reps
    right_supported: bool = False
    support_cm: float | None = None  # how high what was held on to is
    step_cm: float | None = None  # step or box
    counterweight_kg: float | None = None
    band: str = ""  # the band that helped or resisted, as the room calls it
    band_bottom_kg: float | None = None  # what it did at the bottom and at the top; less than nothing: it helped
    band_top_kg: float | None = None
    given_up: bool = False  # slow lowering: the load given up on the way up
    speeds_ms: tuple[float, ...] = ()  # mean speed of each rep, from a sensor on the bar
    reach: Reach = field(default_factory=dict)  # of lunges, how far in each direction; free and with a hand apart
    reach_faults: dict[str, str] = field(default_factory=dict)  # direction → the fault seen there

    def to_plain(self) -> dict[str, Any]:
        """What was told, and nothing else; `set_notes_from` reads it back."""
        usual = asdict(SetNotes())
        return {name: value for name, value in asdict(self).items() if value != usual[name]}

    def problems(self) -> list[Problem]:
        """Everything impossible about it, all at once."""
        reached = [cm for pair in self.reach.values() for cm in pair]
        ways = {*self.reach, *self.reach_faults} <= {*DIRECTIONS}
        bands, few = (self.band_bottom_kg, self.band_top_kg), len(self.speeds_ms) <= SPEEDS_MOST
        checks = (
            (
                "support_cm",
                "height_range",
                {"most": HEIGHT_MOST_CM},
                _within(NEAR_ZERO, HEIGHT_MOST_CM, self.support_cm),
            ),
            ("step_cm", "height_range", {"most": HEIGHT_MOST_CM}, _within(NEAR_ZERO, HEIGHT_MOST_CM, self.step_cm)),
            ("counterweight_kg", "help_range", {"most": HELP_MOST_KG}, _within(0, HELP_MOST_KG, self.counterweight_kg)),
            ("band", "help_range", {"most": BAND_MOST_KG}, _within(-BAND_MOST_KG, BAND_MOST_KG, *bands)),
            ("soreness", "pain_range", {"most": 10}, _within(0, 10, self.soreness)),
            ("load_side", "not_a_choice", {"choices": "left, right"}, self.load_side in SIDES),
            ("reach", "reach_range", {"most": REACH_MOST_CM}, ways and _within(NEAR_ZERO, REACH_MOST_CM, *reached)),
            (
                "speeds",
                "speed_range",
                {"most": SPEED_MOST_MS},
                few and _within(NEAR_ZERO, SPEED_MOST_MS, *self.speeds_ms),
            ),
            ("note", "too_long", {"most": NOTE_MOST}, len(self.note) <= NOTE_MOST),
        )
        return [Problem(name, code, facts) for name, code, facts, sound in checks if not sound]


def _within(least: float, most: float, *values: float | None) -> bool:
    """Whether each that was said lies between them; what nobody said is sound."""
    return all(value is None or least <= value <= most for value in values)


def set_notes_from(given: Mapping[str, Any]) -> SetNotes:
    """What was told, kept as plain data; names of later versions are left out."""
    known = {item.name for item in fields(SetNotes)}
    values = {name: value for name, value in given.items() if name in known}
    reach = {way: (pair[0], pair[1]) for way, pair in values.pop("reach", {}).items()}
    speeds = tuple(values.pop("speeds_ms", ()))
    return SetNotes(**values, speeds_ms=speeds, reach=reach)
