"""Words for what a room with large steps does to reps and loads."""

from collections.abc import Callable, Mapping
from typing import Any

from backsquat.core.working import plain

Facts = Mapping[str, Any]


def _coarse(facts: Facts) -> str:
    words = (
        f"the next load here, {plain(facts['next_kg'], 2)}, is too far: "
        f"{facts['more']} reps in place of {facts['reps']} first"
    )
    if "plate_kg" in facts:
        words += f"; two plates of {plain(facts['plate_kg'], 2)} would make {plain(facts['then_kg'], 2)} possible now"
    words += "; a slower tempo at the same load serves too"
    return words


def _coarse_fewer(facts: Facts) -> str:
    return (
        f"{plain(facts['last_kg'], 2)} would leave plenty even at {facts['more']:.0f} reps: "
        f"the next load here, with fewer reps than the {facts['reps']} asked"
    )


COARSE_WORDS: dict[str, Callable[[Facts], str]] = {"coarse_reps": _coarse, "coarse_fewer": _coarse_fewer}
COARSE_LABELS: dict[str, str] = {"coarse_reps": "Reps first", "coarse_fewer": "Fewer reps"}
