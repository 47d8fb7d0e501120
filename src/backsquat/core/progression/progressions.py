"""The nine loading progressions, looked up by code; a new one is one file and one line here."""

from collections.abc import Mapping
from typing import Any

from backsquat.core.progression.base import Progression
from backsquat.core.progression.earned import EarnedProgression
from backsquat.core.progression.effort import EffortProgression
from backsquat.core.progression.fixed import FixedProgression
from backsquat.core.progression.holds import HoldsProgression
from backsquat.core.progression.ladder import LadderProgression
from backsquat.core.progression.speed import SpeedProgression
from backsquat.core.progression.stages import StagesProgression
from backsquat.core.progression.wave import WaveProgression
from backsquat.core.progression.window import WindowProgression

PROGRESSIONS: Mapping[str, Progression[Any]] = {  # each knows its own parameters
    progression.code: progression
    for progression in (
        StagesProgression(), FixedProgression(), WindowProgression(), WaveProgression(), EffortProgression(),
        EarnedProgression(), LadderProgression(), HoldsProgression(), SpeedProgression(),
    )
}  # fmt: skip


def of_a_movement(code: str) -> bool:
    """Whether there is a progression of this code for a movement; that of own levels belongs to a ladder."""
    return code in PROGRESSIONS and not PROGRESSIONS[code].own_levels
