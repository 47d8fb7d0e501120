"""How a default of the job is declared: with its meaning, unit, source and bounds."""

from dataclasses import field
from typing import Any

USUAL = "usual practice"
YES_NO = "yes or no"  # the unit of a default that is 1 or 0: shown and asked as words
INDEX = "our own index, not a measurement"
OWN = "our own: tried on made-up athletes (docs/simulations.md)"
OWN_DRAWN = "our own: tried on drawn pictures with known angles"


def rule(
    default: Any,
    meaning: str,
    unit: str,
    source: str = USUAL,
    low: float | None = None,
    high: float | None = None,
    choices: tuple[str, ...] = (),
) -> Any:
    """A default with its meaning, unit, source and bounds: a field of `Rules`."""
    details = {"meaning": meaning, "unit": unit, "source": source, "low": low, "high": high, "choices": choices}
    return field(default=default, metadata=details)
