"""What a coach said of one exercise of a session, in one line; which movement it is stands elsewhere."""

from dataclasses import dataclass, field


@dataclass(frozen=True)
class TypedExercise:
    """One exercise as typed. What nobody typed is None, 0 or empty; reps are of one side, `row` counts from 1."""

    row: int
    text: str
    name: str = ""
    weekday: int | None = None
    sets: int | None = None
    low: int | None = None  # reps, or seconds where `seconds`
    high: int | None = None
    seconds: bool = False
    end_hold_s: int = 0
    reserve_reps: int | None = None
    rest_s: int = 0
    tempo: str = ""
    progression: str = ""  # words after "as"
    each_side: bool = False
    to_failure: bool = False
    spare: bool = False
    superset: int = 0
    circuit: bool = False
    rounds: int = 0  # of its circuit, where its heading said so
    left_out: tuple[str, ...] = field(default=())
