"""Two or three progressions on one athlete's numbers: what each asks for, week by week, in the same measures."""

from collections.abc import Sequence
from dataclasses import dataclass

from backsquat.core.movements.movement import Movement
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.progression.terms import PlannedWeek, Terms, counted_reps


@dataclass(frozen=True)
class WeekMeasures:
    """One week of a progression. Tonnage counts both sides and both hands; bodies are not in it."""

    week: int
    deload: bool
    sets: int
    reps: int
    reserve_reps: int
    load_kg: float | None
    tonnage_kg: float
    relative: float | None  # load as a share of the planning max
    back_cost: float  # sets × index × relative: a planning index, not a measurement
    implied_kg: float | None  # implied maximum if it is made as asked, reserve and all
    over_cap: bool


@dataclass(frozen=True)
class MeasuredProgression:
    """A progression's weeks, and the estimate it would end with if every week were made as it was asked."""

    weeks: tuple[WeekMeasures, ...]
    start_kg: float
    end_kg: float

    @property
    def tonnage_kg(self) -> float:
        """Reps × kg over all weeks."""
        return sum(week.tonnage_kg for week in self.weeks)


def measure(weeks: Sequence[PlannedWeek], start_kg: float, movement: Movement, terms: Terms) -> MeasuredProgression:
    """Measures of planned weeks.

    The end: the highest implied maximum of the last three working weeks, the reserve promised taken
    at its word. It says what the plan asks for, not what an athlete will gain.
    """
    found = []
    for week in weeks:
        asked, kg = week.prescription, week.load.kg if week.load else None
        relative = kg / week.planning_max_kg if kg is not None and week.planning_max_kg > 0 else None
        counted = counted_reps(asked.reps, asked.reserve_reps, terms.rules)
        found.append(
            WeekMeasures(
                asked.week,
                asked.kind is ExposureKind.DELOAD,
                asked.sets,
                asked.reps,
                asked.reserve_reps,
                kg,
                (kg or 0.0) * asked.sets * asked.reps * movement.sides * movement.hands,
                relative,
                asked.sets * movement.back_index * (relative or 0.0),
                terms.max_for(kg, counted) if kg is not None else None,
                week.breaks_cap,
            )
        )
    implied = [week.implied_kg for week in found if week.implied_kg is not None and not week.deload]
    return MeasuredProgression(tuple(found), start_kg, max(implied[-3:], default=start_kg))
