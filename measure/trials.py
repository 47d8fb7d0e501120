"""Every progression on many made-up athletes, to find rules that run away: `make simulate` writes docs/simulations.md.

The athletes differ in strength, gains, curve, habits and luck, are seeded, and train in rooms of usual, tiny and coarse
plates. A progression must neither ask for what nobody can lift, nor stand still while the athlete grows, nor swing up and
down without end; what is said of chances and ranges must come true as often as it says.
"""

import math
import random
import statistics
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory

from sqlalchemy import select

from backsquat.config import DEMO_DAY
from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.room import PlateStock, Rig, Room
from backsquat.core.progression.decision import Code
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.progression.progressions import PROGRESSIONS
from backsquat.core.progression.simulate import MadeUp, SimulatedWeek, simulate
from backsquat.core.progression.terms import Terms
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, reps_for
from backsquat.demo.club import build
from backsquat.storage.database import Database
from backsquat.storage.migrate import migrate
from backsquat.storage.models import Athlete, Season
from backsquat.work.log.estimates import weekly_best
from measure.trial_milestones import STORY_WEEKS, TrialOutcome, Week, outcomes, row_of_demo, table, weeks_of

ATHLETES, WEEKS = 200, 24
DOCUMENT = Path(__file__).parents[1] / "docs/simulations.md"
BAR, LIGHT_BAR = Rig("bar20", "Bar", Mass.of(20)), Rig("bar10", "Light bar", Mass.of(10))


def _room(name: str, bar: Rig, plates: dict[str, int]) -> Room:
    return Room(name, Unit.KG, (bar,), tuple(PlateStock(Mass.of(mass), pairs) for mass, pairs in plates.items()))


FULL = {"25": 4, "20": 4, "15": 2, "10": 4, "5": 4}
ROOMS = {  # the light bar is where the weak ones train; its step is coarse
    "usual": _room("usual", BAR, FULL | {"2.5": 2, "1.25": 2}),
    "tiny": _room("tiny", BAR, FULL | {"2.5": 2, "1.25": 2, "0.5": 2, "0.25": 2, "0.125": 2}),
    "coarse": _room("coarse", LIGHT_BAR, FULL | {"2.5": 2}),
}
STRENGTH = {"usual": (55, 190), "tiny": (40, 180), "coarse": (30, 90)}  # kg; where it hurts most

EXPLODED = 1.12  # what is asked as a share of what the athlete can at these reps on a usual day
FIRST, LAST = 4, 6  # working weeks at either end: a whole cycle of any progression lies in the last
STUCK_SHARE = 0.3  # of the athlete's own gain that the believed maximum must have followed
STUCK_GAIN = 0.06  # gain over the block from which a plan must have risen
SWINGS = 0.5  # share of decisions that turn round: more is flip-flop
BIN = 0.1
CURVE_READ_AT = 0.85  # of the maximum: about what a main lift is done at
REPS_APART = (-1.2, -0.4, 0.4, 1.2)  # reps more than the formula's between which own curves are told apart


@dataclass(frozen=True)
class TrialVerdict:
    """What one athlete's story shows. `highest`: the most that was asked, as a share of what the athlete could."""

    highest: float
    rose: float  # what was done in the last working weeks against the first, by the athlete's own curve
    turns: float
    missed: float  # share of working weeks with reps missing
    over: float  # share of working weeks that asked for more than a usual day gives
    gain: float  # true gain over the block
    best: float  # the gain there would have been with hard work in every week
    chances: tuple[tuple[float, bool], ...]  # planned chance, whether all was made
    inside: tuple[bool, ...]  # whether the true maximum lay in the range that was to hold four in five
    more_reps: float  # than the planner's formula gives, at CURVE_READ_AT of the maximum

    @property
    def exploded(self) -> bool:
        return self.highest > EXPLODED

    @property
    def flips(self) -> bool:
        return self.turns > SWINGS

    @property
    def stuck(self) -> bool:
        """Whether a plan stood still although the athlete grew."""
        return self.gain >= STUCK_GAIN and self.rose - 1 < STUCK_SHARE * self.gain


def made_up(seed: int, room: str) -> tuple[MadeUp, random.Random]:
    """The `seed`-th athlete, and the luck that goes with it."""
    chance = random.Random(seed)
    low, high = STRENGTH[room]
    newcomer = seed % 4 == 0
    athlete = MadeUp(
        max_kg=chance.uniform(low, high),
        gain_a_week=chance.uniform(0.003, 0.014) if newcomer else chance.uniform(-0.001, 0.008),
        day_spread=chance.uniform(0.01, 0.035),
        tired_a_set=chance.uniform(0.1, 0.6),
        misjudged_reps=chance.uniform(0.2, 1.2),
        bias_reps=chance.gauss(0, 0.7),
        curve=chance.uniform(0.75, 1.3),
        bends=chance.random() < 0.5,
        skips=chance.uniform(0, 0.12),
        unsaid=chance.choice((0.0, 0.0, 0.3)),
        sore_weeks=frozenset({chance.randrange(WEEKS)}),
        shallow_weeks=frozenset({chance.randrange(WEEKS)}),
        painful_weeks=frozenset({chance.randrange(WEEKS)}),
        ill_from=chance.randrange(4, WEEKS) if chance.random() < 0.2 else None,
        newcomer=newcomer,
    )
    return athlete, chance


def story_of(code: str, room: str, seed: int, weeks: int = WEEKS) -> tuple[MadeUp, tuple[SimulatedWeek, ...]]:
    progression = PROGRESSIONS[code]
    athlete, chance = made_up(seed, room)
    parameters = progression.read({})
    terms = Terms(
        room=ROOMS[room],
        rig=ROOMS[room].bars[0],
        rules=Rules(),
        newcomer=athlete.newcomer,
        in_season=False,
        deload_load_share=parameters.deload_load_share,
    )
    return athlete, simulate(progression, parameters, athlete, weeks, terms, chance, hinge=seed % 3 == 0)


def judge_story(athlete: MadeUp, story: Sequence[SimulatedWeek]) -> TrialVerdict:
    work = [w for w in story if w.load_kg is not None and w.asked.kind is ExposureKind.WORK]
    done = [w for w in work if w.decision]
    asked = [_share(athlete, w) for w in work]
    ways = [w.decision.code for w in done if w.decision and w.decision.code in (Code.UP, Code.DOWN)]
    turns = sum(a is not b for a, b in pairwise(ways)) / max(len(done) - 1, 1)
    first, last = (max(map(partial(_done_kg, athlete), part), default=0) for part in (done[:FIRST], done[-LAST:]))
    made = [not any(s.reps < w.asked.reps for s in w.sets) for w in done]
    return TrialVerdict(
        max(asked, default=0),
        last / first if first else 1,
        turns,
        1 - sum(made) / max(len(made), 1),
        sum(share > 1 for share in asked) / max(len(asked), 1),
        story[-1].true_max_kg / athlete.max_kg - 1,
        (1 + max(athlete.gain_a_week, 0)) ** (len(story) - 1) - 1,
        tuple((w.chance, ok) for w, ok in zip(done, made, strict=True) if w.chance is not None),
        tuple(w.low_kg <= w.true_max_kg <= w.high_kg for w in done),
        athlete.reps_at(CURVE_READ_AT, 1.0) - reps_for(CURVE_READ_AT, 1.0, FORMULAS[Rules().formula]),
    )


def _share(athlete: MadeUp, week: SimulatedWeek) -> float:
    """The load as a share of what the athlete truly lifts so often on a usual day, fresh."""
    return _meant_kg(athlete, week) / week.true_max_kg


def _meant_kg(athlete: MadeUp, week: SimulatedWeek) -> float:
    """The maximum that just makes a week's reps."""
    return _needed_kg(athlete, week.load_kg or 0.0, week.asked.reps)


def _done_kg(athlete: MadeUp, week: SimulatedWeek) -> float:
    """The maximum that just makes the reps of its weakest set, which in a window may be more than asked."""
    return _needed_kg(athlete, week.load_kg or 0.0, min(s.reps for s in week.sets))


def _needed_kg(athlete: MadeUp, load_kg: float, reps: int) -> float:
    """By the athlete's own curve."""
    low, high = 0.0, 1000.0
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (low, middle) if athlete.reps_at(load_kg, middle) >= reps else (middle, high)
    return high


def judged(code: str, room: str, seed: int) -> TrialVerdict:
    return judge_story(*story_of(code, room, seed))


def verdicts_of(code: str, room: str, seeds: Sequence[int], pool: ProcessPoolExecutor) -> list[TrialVerdict]:
    return list(pool.map(partial(judged, code, room), seeds, chunksize=10))


def row(name: str, room: str, verdicts: Sequence[TrialVerdict]) -> str:
    count = len(verdicts)
    gained = [v.gain / v.best for v in verdicts if v.best > 0.02]
    return (
        f"| {name} | {room} | {sum(v.exploded for v in verdicts)} | {sum(v.stuck for v in verdicts)} "
        f"| {sum(v.flips for v in verdicts)} | {max(v.highest for v in verdicts):.2f} "
        f"| {100 * statistics.mean(v.missed for v in verdicts):.0f} % "
        f"| {100 * sum(v.over for v in verdicts) / count:.0f} % "
        f"| {100 * (statistics.median(v.rose for v in verdicts) - 1):+.1f} % "
        f"| {100 * statistics.median(gained):.0f} % "
        f"| {100 * share_inside(verdicts):.0f} % |"
    )


def share_inside(verdicts: Sequence[TrialVerdict]) -> float:
    inside = [ok for verdict in verdicts for ok in verdict.inside]
    return sum(inside) / len(inside)


def by_curve(verdicts: Sequence[TrialVerdict]) -> list[str]:
    """Rows of how often the range held, by how many reps an athlete does more or fewer than the formula says."""
    edges = (-math.inf, *REPS_APART, math.inf)
    found = []
    for low, high in pairwise(edges):
        part = [verdict for verdict in verdicts if low <= verdict.more_reps < high]
        if part:
            over = "" if low == -math.inf else f"{low:+.1f} and more"
            under = "" if high == math.inf else f"under {high:+.1f}"
            name = ", ".join(filter(None, (over, under)))
            found.append(f"| {name} | {100 * share_inside(part):.0f} % | {len(part):,} |")
    return found


def calibration(verdicts: Sequence[TrialVerdict]) -> list[tuple[float, float, int]]:
    """(planned chance, share made, how many) for every tenth of planned chances that holds enough weeks."""
    pairs = [pair for verdict in verdicts for pair in verdict.chances]
    found = []
    for tenth in range(5, 10):
        part = [(p, ok) for p, ok in pairs if tenth * BIN <= p < (tenth + 1) * BIN or (tenth == 9 and p >= 1)]
        if len(part) >= 100:
            found.append((statistics.mean(p for p, _ in part), statistics.mean(ok for _, ok in part), len(part)))
    return found


def milestones_of(code: str, room: str, seed: int) -> list[TrialOutcome]:
    """What came of targets set along one athlete's long story."""
    return list(outcomes(weeks_of(story_of(code, room, seed, STORY_WEEKS)[1], Rules()), Rules()))


def milestone_table(athletes: int) -> str:
    """Over every progression whose sets say how much: how often the range of a milestone's days held."""
    found = list[TrialOutcome]()
    with ProcessPoolExecutor() as pool:
        for code, progression in PROGRESSIONS.items():
            if progression.loaded and code != "speed":  # light sets say hardly anything of a maximum
                for room in ROOMS:
                    for part in pool.map(partial(milestones_of, code, room), range(athletes), chunksize=5):
                        found += part
    return table(found)


def demo_outcomes() -> list[TrialOutcome]:
    """The same of the demo club's logs, every main lift of everybody: built as the demo is, read as its pages do."""
    rules = Rules()
    with TemporaryDirectory() as folder:
        path = Path(folder) / "demo.db"
        migrate(path)
        database = Database(path)
        with database.writing() as db:
            build(db, hash_cost=1)
            ids = list(db.scalars(select(Athlete.id)))
            first = db.scalars(select(Season.first_week).order_by(Season.first_week)).first() or DEMO_DAY
            best = [weekly_best(db, ids, lift, first, DEMO_DAY) for lift in ("back_squat", "romanian_deadlift")]
        database.close()
    stories = [
        [Week(one.week, one.kg, one.believed_kg) for one in weeks if one.firm]
        for lift in best
        for weeks in lift.values()
    ]
    begun = [(story, story[0].on, (DEMO_DAY - story[0].on).days // 7) for story in stories if story]
    return [found for story, on, length in begun for found in outcomes(story, rules, on, length)]


def tables(athletes: int = ATHLETES) -> tuple[str, str, str]:
    rows, everybody, firm = [], [], []
    with ProcessPoolExecutor() as pool:
        for code, progression in PROGRESSIONS.items():
            if not progression.loaded:
                continue
            for room in ROOMS:
                verdicts = verdicts_of(code, room, range(athletes), pool)
                everybody += verdicts
                firm += verdicts if code != "speed" else []
                rows.append(row(progression.name, room, verdicts))
    chances = [
        f"| {100 * planned:.0f} % | {100 * made:.0f} % | {count:,} |" for planned, made, count in calibration(everybody)
    ]
    inside = f"| range of four in five | {100 * share_inside(everybody):.0f} % | |"
    return "\n".join(rows), "\n".join([*chances, inside]), "\n".join(by_curve(firm))


def document(athletes: int = ATHLETES) -> str:
    progressions, chances, curves = tables(athletes)
    return f"""# Progressions on made-up athletes

{athletes:,} seeded athletes a progression and room, {WEEKS} weeks each, with the real planner, estimator, caps, rounding and
decisions; only the lifters are invented (`core/progression/simulate.py`). Half of them have a curve of reps of another
shape than any formula the planner knows, all have another steepness; what they say is left is biased and noisy, some say
nothing; a quarter are newcomers; they miss weeks, fall ill, come sore, lose depth, feel a dull pain. They gain by hard
work only. Rooms: *usual* plates (2.5 kg steps, 55 to 190 kg lifters), *tiny* plates (0.25 kg steps, 40 to 180 kg), *coarse*
ones (5 kg steps, 30 to 90 kg). Written by `make simulate`; a smaller run is part of the tests.

*Exploded*: a week asked for more than {EXPLODED:.2f} of what the athlete truly lifts so often, fresh, on a usual day.
*Stuck*: the athlete grew by {100 * STUCK_GAIN:.0f} % or more and the plan by less than {100 * STUCK_SHARE:.0f} % of that.
*Flip-flop*: more than half of the decisions turned round. *Over*: weeks that asked for more than a usual day gives, fresh.
*Of the best gain*: true gain against that of hard work every week. *Range held*: how often the true maximum lay in the
range that is to hold four in five. Ladders and holds have no load and are not here; speed is not meant to rise.

| progression | room | exploded | stuck | flip-flop | most asked | missed | over | rise | of best gain | range held |
|---|---|---|---|---|---|---|---|---|---|---|
{progressions}

Planned chances (the last set of a week made as written), and how often that came true, over all of the above:

| planned | made | weeks |
|---|---|---|
{chances}

The same range by the athlete's own curve: reps more or fewer at {100 * CURVE_READ_AT:.0f} % of the maximum than the formula
says; without speed. Nobody knows a curve who has only seen sets alike, so that who differs most is held least often.

| reps against the formula's | range held | stories |
|---|---|---|
{curves}

Days of milestones, over {athletes // 2:,} athletes a progression and room for {STORY_WEEKS} weeks: a target above
the trend is judged as the application judges it, and the story is read on. *Held*: it was reached within the range
that is to hold four in five, or the story ended before that could be said. Speed is left out: its sets say
hardly anything of a maximum.

| judged | held | reached earlier | reached later, or not | targets |
|---|---|---|---|---|
{milestone_table(athletes // 2)}
{row_of_demo(demo_outcomes())}
"""


if __name__ == "__main__":
    before = DOCUMENT.read_text("utf-8") if DOCUMENT.exists() else ""
    notes = "\n" + before[before.index("## ") :] if "## " in before else ""  # what was made of the figures stays
    DOCUMENT.write_text(document() + notes, "utf-8")
    print(f"Wrote {DOCUMENT.name}.")
