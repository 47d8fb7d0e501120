"""The load of the later sets after the first one said how the day is (effort-steered progression)."""

from dataclasses import dataclass

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.ceilings import round_under
from backsquat.core.loads.rounding import Rounding
from backsquat.core.progression.effort import EffortParameters, first_margin, moved_share
from backsquat.core.progression.prescription import ExposureKind
from backsquat.storage.convert import record_from_row
from backsquat.work.floor.turn import Turn
from backsquat.work.plan.progression_settings import setting_of


@dataclass(frozen=True)
class Steered:
    """The load of the sets to come, and how far it moved: −0.06 is six per cent down."""

    load: Load
    moved_share: float


def steered_load(turn: Turn) -> Steered | None:
    """The steered load once the first set is logged as planned; never over a limit. None: as planned."""
    setting, planned = turn.setting or setting_of(turn.exercise), turn.load
    parameters = setting.parameters
    if not isinstance(parameters, EffortParameters) or turn.cell.kind is not ExposureKind.WORK or not turn.entries:
        return None
    first, load_kg = record_from_row(turn.entries[0]), turn.cell.load_kg
    if planned is None or turn.room is None or load_kg is None or abs(first.load_kg - load_kg) > 0.01:
        return None
    margin = first_margin(first, turn.cell.reps, turn.cell.reserve_reps)
    if not margin:
        return None
    share = moved_share(margin, parameters)
    limited = turn.verdict.most_kg is not None
    rounding = Rounding.DOWN if limited else Rounding.NEAREST
    rounded = round_under(load_kg * share, turn.verdict.ceilings, turn.room, planned.rig, rounding)
    if rounded is None or rounded.load == planned:
        return None
    return Steered(rounded.load, share - 1)
