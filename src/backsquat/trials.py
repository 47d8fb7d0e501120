"""Every school on many made-up athletes, to find rules that run away: `make simulate` writes docs/simulations.md.

The athletes differ in strength, gains, habits and luck, are seeded, and train in a room of usual
plates. A school must neither ask for what nobody can lift, nor stand still while the athlete
grows, nor swing up and down without end.
"""

import random
import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from pathlib import Path

from backsquat.core.loads.mass import Mass, Unit
from backsquat.core.loads.room import PlateStock, Rig, Room
from backsquat.core.progression.decision import Code
from backsquat.core.progression.prescription import Kind
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.progression.simulate import MadeUp, SimulatedWeek, simulate
from backsquat.core.progression.terms import Terms
from backsquat.core.rules import Rules
from backsquat.core.strength.formulas import FORMULAS, maximum_kg

ATHLETES, WEEKS = 1_000, 24
DOCUMENT = Path(__file__).parents[2] / "docs/simulations.md"
PLATES = {"25": 4, "20": 4, "15": 2, "10": 4, "5": 4, "2.5": 2, "1.25": 2}
BAR = Rig("bar20", "Bar", Mass.of(20))
ROOM = Room("Room", Unit.KG, (BAR,), tuple(PlateStock(Mass.of(m), pairs) for m, pairs in PLATES.items()))

EXPLODED = 1.12  # implied max of what is asked, against the true one: past this nobody makes it on any day
TO_THE_TOP = ("stages", "earned")
FIRST, LAST = 4, 6  # working weeks at either end: a whole cycle of any school lies in the last
STUCK_LAG = 0.9  # what the last weeks ask for, reserve and all, against the true maximum
STUCK_GAIN = 0.004  # gain a week from which an athlete's plan must have risen
SWINGS = 0.5  # share of decisions that turn round: more is flip-flop


@dataclass(frozen=True)
class Verdict:
    """What one athlete's story shows. `highest`: the most that was asked, as a share of the true maximum."""

    highest: float
    rose: float  # load of the last working weeks at the same reps against the first, as a share
    turns: float
    missed: float  # share of working weeks with reps missing
    gain: float
    lag: float  # the most of the last working weeks, reserve and all, as a share of the true maximum

    @property
    def exploded(self) -> bool:
        return self.highest > EXPLODED

    @property
    def flips(self) -> bool:
        return self.turns > SWINGS


def made_up(seed: int) -> tuple[MadeUp, random.Random]:
    """The `seed`-th athlete, and the luck that goes with it."""
    chance = random.Random(seed)
    athlete = MadeUp(
        max_kg=chance.uniform(55, 190),
        gain_a_week=chance.uniform(-0.002, 0.012),
        day_spread=chance.uniform(0.01, 0.035),
        misjudged_reps=chance.uniform(0.2, 1.2),
        skips=chance.uniform(0, 0.12),
        sore_weeks=frozenset({chance.randrange(WEEKS)}),
    )
    return athlete, chance


def story_of(code: str, seed: int, weeks: int = WEEKS) -> tuple[MadeUp, tuple[SimulatedWeek, ...]]:
    school = SCHOOLS[code]
    athlete, chance = made_up(seed)
    parameters = school.read({})
    terms = Terms(
        room=ROOM,
        rig=BAR,
        rules=Rules(),
        newcomer=seed % 4 == 0,
        in_season=False,
        easy_load_share=parameters.easy_load_share,
    )
    return athlete, simulate(school, parameters, athlete, weeks, terms, chance, hinge=seed % 3 == 0)


def judge_story(athlete: MadeUp, story: Sequence[SimulatedWeek], to_the_top: bool = False) -> Verdict:
    """`to_the_top`: the school means the top of its window, not the bottom it must not fall under."""

    work = [w for w in story if w.load_kg is not None and w.asked.kind is Kind.WORK]
    done = [w for w in work if w.decision]
    asked = [maximum_kg(w.load_kg or 0, w.asked.reps, FORMULAS["epley"]) / w.true_max_kg for w in work]
    ways = [w.decision.code for w in done if w.decision and w.decision.code in (Code.UP, Code.DOWN)]
    turns = sum(a is not b for a, b in pairwise(ways)) / max(len(done) - 1, 1)
    first, last = (max(map(partial(_meant_kg, to_the_top), part), default=0) for part in (work[:FIRST], work[-LAST:]))
    missed = sum(any(s.reps < w.asked.reps for s in w.sets) for w in done) / max(len(done), 1)
    return Verdict(
        max(asked, default=0),
        last / first if first else 1,
        turns,
        missed,
        athlete.gain_a_week,
        last / story[-1].true_max_kg,
    )


def _meant_kg(to_the_top: bool, week: SimulatedWeek) -> float:
    """Implied maximum of what a week means to be done, reserve and all."""
    reps = week.asked.high if to_the_top else week.asked.reps
    return maximum_kg(week.load_kg or 0, reps + week.asked.reserve_reps, FORMULAS["epley"])


def stuck(verdict: Verdict, code: str) -> bool:
    """Whether a plan stood still although the athlete grew and could do more. Speed is not meant to rise."""
    return code != "speed" and verdict.gain >= STUCK_GAIN and verdict.rose <= 1.0 and verdict.lag < STUCK_LAG


def table(athletes: int = ATHLETES) -> str:
    rows = []
    for code, school in SCHOOLS.items():
        if not school.loaded:
            continue
        verdicts = [judge_story(*story_of(code, seed), to_the_top=code in TO_THE_TOP) for seed in range(athletes)]
        highest = sorted(v.highest for v in verdicts)
        rows.append(
            f"| {school.name} | {sum(v.exploded for v in verdicts)} | {sum(stuck(v, code) for v in verdicts)} "
            f"| {sum(v.flips for v in verdicts)} | {highest[-1]:.2f} | {statistics.median(highest):.2f} "
            f"| {100 * (statistics.median(v.rose for v in verdicts) - 1):+.1f} % "
            f"| {100 * statistics.mean(v.missed for v in verdicts):.0f} % |"
        )
    return "\n".join(rows)


def document(athletes: int = ATHLETES) -> str:
    return f"""# Schools on made-up athletes

{athletes:,} seeded athletes a school, {WEEKS} weeks each, with the real planner, caps, rounding and decisions; only the
lifters are invented (`core/progression/simulate.py`): strength from 55 to 190 kg, gains from −0.2 to +1.2 % a week, good
and bad days, misjudged reserve, missed weeks, a sore day. Written by `make simulate`; a smaller run is part of the tests.

*Exploded*: a week asked for more than {EXPLODED:.2f} of the true maximum (reps put through Epley, nothing left).
*Stuck*: the athlete grew by {100 * STUCK_GAIN:.1f} % a week or more, the last {LAST} working weeks asked for no more than
the first {FIRST}, and for less than {100 * STUCK_LAG:.0f} % of what the athlete could do, the reserve counted.
*Flip-flop*: more than half of the decisions turned round.
Ladders and holds have no load and are not here; speed is not meant to rise.

| school | exploded | stuck | flip-flop | most asked, of true max | median of that | median rise | weeks with reps missing |
|---|---|---|---|---|---|---|---|
{table(athletes)}
"""


if __name__ == "__main__":
    DOCUMENT.write_text(document(), "utf-8")
    print(f"Wrote {DOCUMENT.name}.")
