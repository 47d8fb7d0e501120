"""What a movement is, as far as choosing, planning, logging and safety need to know it."""

from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from backsquat.core.numbers import sure


class Family(StrEnum):
    """What kind of movement it is: what a stop locks together and a week counts together."""

    SQUAT = "squat"
    HINGE = "hinge"
    SINGLE_LEG = "single-leg"
    CURL = "curl"
    THRUST = "thrust"
    EXTENSION = "extension"
    CALF = "calf"
    GROIN = "groin"
    TRUNK = "trunk"
    SPEED = "speed"
    MOBILITY = "mobility"


TAGS = {  # one letter a family, so that colour never stands alone
    Family.SQUAT: "S", Family.HINGE: "H", Family.SINGLE_LEG: "L", Family.CURL: "C", Family.THRUST: "T",
    Family.EXTENSION: "E", Family.CALF: "A", Family.GROIN: "G", Family.TRUNK: "K", Family.SPEED: "F",
    Family.MOBILITY: "M",
}  # fmt: skip


class Region(StrEnum):
    """Where pain can be and what a movement loads."""

    KNEE = "knee"
    GROIN = "groin"
    HIP = "hip"
    THIGH_FRONT = "front of thigh"
    THIGH_BACK = "back of thigh"
    CALF = "calf"
    ANKLE = "ankle"
    LOWER_BACK = "lower back"
    UPPER_BACK = "upper back"
    SHOULDER = "shoulder"
    NECK = "neck"


class Muscle(StrEnum):
    """The muscles a movement works, as the week check counts them."""

    QUADS = "quads"
    HAMSTRINGS = "hamstrings"
    GLUTES = "glutes"
    ADDUCTORS = "adductors"
    ABDUCTORS = "abductors"
    CALVES = "calves"
    HIP_FLEXORS = "hip flexors"
    LOWER_BACK = "lower back"
    UPPER_BACK = "upper back"
    TRUNK = "trunk"
    FEET = "feet"


class SideMode(StrEnum):
    """How the sides are counted: reps are always stored per side."""

    BOTH = "both at once"
    ONE_THEN_OTHER = "one side, then the other"
    ALTERNATING = "alternating"


class Implement(StrEnum):
    """What is held or moved."""

    BODY = "body weight"
    BAR = "bar"
    TRAP_BAR = "trap bar"
    DUMBBELL = "dumb-bell"
    DUMBBELLS = "two dumb-bells"
    KETTLEBELL = "kettlebell"
    PLATE = "plate"
    MACHINE = "machine"
    BAND = "band"
    BAG = "bag"
    BALL = "ball"
    SLIDERS = "sliders"


FROM_FLOOR = "floor"  # the depth standard of what settles there on each rep
BARS = frozenset({Implement.BAR, Implement.TRAP_BAR})
UNLOADED = frozenset({Implement.BODY, Implement.BAND, Implement.BALL, Implement.SLIDERS})


class HeldWhere(StrEnum):
    """Where the load is held."""

    NOWHERE = "nothing held"
    SUPPORT = "a hand on support"
    BESIDE = "beside the body"
    ONE_SIDE = "on one side"
    CHEST = "at the chest"
    FRONT = "front rack"
    BACK = "on the upper back"
    OVERHEAD = "overhead"
    HANGING = "hanging from straight arms"
    HIPS = "on the hips"
    ELBOWS = "in the elbow crooks"
    MACHINE = "by the machine"


SQUATTED = frozenset({HeldWhere.BACK, HeldWhere.FRONT, HeldWhere.OVERHEAD})  # a bar there asks for a sound squat


class MuscleLength(StrEnum):
    """At which muscle length it is hardest."""

    STRETCHED = "stretched"
    MIDDLE = "middle"
    SHORTENED = "shortened"


class ReadinessCheck(StrEnum):
    """A checklist an athlete must be through before the movement is loaded; each has a scope (rules 2.6)."""

    BARBELL = "barbell"  # a bar on the back, in front or overhead
    OVERHEAD = "overhead"  # a bar overhead, besides the first
    PULL = "pull"  # pulls and hinges with a bar
    THRUST = "thrust"  # a bar over the hips


class SetUp(StrEnum):
    """What is remembered of an athlete's set-up for a movement."""

    STANCE = "stance"
    BOX = "box"
    WEDGE = "wedge"
    PAD = "pad"
    PINS = "pins"
    BAND = "band"
    SUPPORT = "support"
    GRIP = "grip"
    WALL = "wall"  # how far the toes are from it


@dataclass(frozen=True)
class Fault:
    """A form fault: its look, one fix, and whether it makes a set not count."""

    code: str
    look: str
    fix: str
    breaking: bool = True


@dataclass(frozen=True)
class DepthStandard:
    """How far down a rep must go to count."""

    code: str
    words: str


@dataclass(frozen=True)
class Felt:
    """Where an athlete feels it, and what that says about the set-up."""

    where: str
    means: str

    @property
    def right(self) -> bool:
        """Whether that is where it should be felt."""
        return self.means.startswith("That is right")


@dataclass(frozen=True)
class Ratio:
    """The usual load as a share of a known lift: a low start for a movement never tested."""

    parent: str  # code of the known lift
    share: float


@dataclass(frozen=True)
class Work:
    """Usual sets × reps (or seconds) when nothing else is planned; reps are per side."""

    sets: int
    low: int
    high: int
    seconds: bool
    rest_s: int
    tempo: str

    @property
    def words(self) -> str:
        """3 × 8–12, or 3 × 20–40 s"""
        return self.words_for(self.sets)

    def words_for(self, sets: int) -> str:
        """The same with as many sets as are asked: fewer in a deload week."""
        span = str(self.low) if self.low == self.high else f"{self.low}–{self.high}"
        return f"{sets} × {span}{' s' if self.seconds else ''}"


@dataclass(frozen=True)
class Movement:
    """An entry of the library: how it is done, what it loads, what it needs, how its load is written."""

    code: str
    name: str
    family: Family
    convention: str  # code in core/loads/conventions.py
    purpose: str
    set_up: tuple[str, ...]  # steps to get into position
    cues: tuple[str, ...]
    faults: tuple[Fault, ...]
    felt: tuple[Felt, ...]
    safety: str
    failing: str  # how failing a rep is made safe
    depth: DepthStandard
    regions: frozenset[Region]
    aliases: tuple[str, ...] = ()
    side_mode: SideMode = SideMode.BOTH
    implement: Implement = Implement.BODY
    held: HeldWhere = HeldWhere.NOWHERE
    emphasis: float = 0  # −2 thighs … +2 hips and hamstrings
    length: MuscleLength = MuscleLength.MIDDLE
    prime: tuple[Muscle, ...] = ()
    helper: tuple[Muscle, ...] = ()
    body_share: float | None = None  # share of body mass moved; None: not known, no estimate
    back_index: float = 0  # 0–3, cost to the lower back; a planning index, not a measurement
    knee_strain: int = 0  # 0–3, front of the knee
    groin_strain: int = 0  # 0–3
    trunk_lean: int = 0  # 0 upright … 3 far forward
    skill: int = 1  # 1–5
    balance: int = 0  # 0–3
    rig_s: int = 0  # time to rig it
    equipment: tuple[tuple[str, ...], ...] = ()  # every group is needed, any one of a group will do
    ratio: Ratio | None = None
    start_share: float | None = None  # of body mass, a first load as it is written, where no known lift says more
    work: Work = Work(3, 8, 12, False, 90, "2-0-1-0")
    remembered: tuple[SetUp, ...] = ()
    poses: tuple[str, str] = ("stand", "stand")
    own: bool = False  # made or changed by this squad
    retired: bool = False

    def __hash__(self) -> int:
        """By its code: loads and chances are remembered by movement, and asked for by the thousand."""
        return hash(self.code)

    @property
    def tag(self) -> str:
        """Two letters for the family, for tight places."""
        return TAGS[self.family]

    @property
    def sides(self) -> int:
        """Sides done one after the other: 2 for work on one leg, else 1."""
        return 1 if self.side_mode is SideMode.BOTH else 2

    @property
    def hands(self) -> int:
        """How many times the written load is moved: dumb-bells are written for each hand."""
        return 2 if self.convention == "dumbbells" else 1

    def carried_kg(self, body_mass_kg: float | None) -> float | None:
        """Body mass moved with each written load; None where the share or the body mass is not known."""
        sure("body_mass_kg", body_mass_kg or 0.0, 0)
        if self.body_share is None or (self.body_share and body_mass_kg is None):
            return None
        return self.body_share * (body_mass_kg or 0.0) / self.hands

    @property
    def from_floor(self) -> bool:
        """Whether the load settles on the floor between reps."""
        return self.depth.code == FROM_FLOOR

    @cached_property
    def readiness_checks(self) -> tuple[ReadinessCheck, ...]:
        """The readiness checks before this movement, by where it holds a bar; none without one."""
        if self.implement not in BARS:
            return ()
        if self.held is HeldWhere.HIPS:
            return (ReadinessCheck.THRUST,)
        if self.held not in SQUATTED:
            return (ReadinessCheck.PULL,)
        overhead = (ReadinessCheck.OVERHEAD,) if self.held is HeldWhere.OVERHEAD else ()
        pulled = (ReadinessCheck.PULL,) if self.family in (Family.HINGE, Family.EXTENSION) else ()
        return (ReadinessCheck.BARBELL, *overhead, *pulled)

    @property
    def takes_load(self) -> bool:
        """Whether it is done with a weight or a machine: what a minor needs a guardian's consent for."""
        return self.implement not in UNLOADED

    @property
    def gains_reps(self) -> bool:
        """Whether it gains reps, then a harder level, and no weight: the body is the load."""
        return self.implement is not Implement.BAND and not self.takes_load

    @property
    def new_pattern(self) -> bool:
        """Whether holding the load there is itself to be learnt: it starts with the empty bar, or a bell of half."""
        return self.takes_load and self.held in (HeldWhere.FRONT, HeldWhere.OVERHEAD)

    def fault(self, code: str) -> Fault | None:
        """The fault of this code; None where this movement has none such."""
        return next((fault for fault in self.faults if fault.code == code), None)
