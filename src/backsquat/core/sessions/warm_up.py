"""The warm-up of a day from what the screens found (rules 2.8): each athlete's own drills, as a list for all
with personal extras beside it."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from backsquat.core.movements.movement import HeldWhere, Movement
from backsquat.core.rules import Rules


@dataclass(frozen=True)
class Need:
    """A screen that was not passed, and the drills that help, best first."""

    screen: str
    drills: tuple[str, ...]
    overhead: bool = False  # matters only where something is held overhead


@dataclass(frozen=True)
class Drill:
    """One drill of a warm-up: which movement, and the screen it is for."""

    movement: str
    screen: str


@dataclass(frozen=True)
class WarmUp:
    """What everybody does, what single athletes do besides, and the seconds it takes."""

    everybody: tuple[Drill, ...]
    own: Mapping[int, tuple[Drill, ...]]  # athlete → extras
    length_s: int


def own_drills(
    needs: Sequence[Need], lifts: Sequence[Movement], known: Mapping[str, Movement], rules: Rules
) -> tuple[Drill, ...]:
    """An athlete's drills for the day: one a screen, those only that load what the day's lifts load."""
    regions = {region for lift in lifts for region in lift.regions}
    found: list[Drill] = []
    overhead = any(lift.held is HeldWhere.OVERHEAD for lift in lifts)
    for need in needs:
        if need.overhead and not overhead:
            continue
        taken = {drill.movement for drill in found}
        fitting = (
            code
            for code in need.drills
            if code in known and not known[code].retired and known[code].regions & regions and code not in taken
        )
        code = next(fitting, None)
        if code and not any(drill in taken for drill in need.drills):
            found.append(Drill(code, need.screen))
    return tuple(found[: rules.drills_most])


def warm_up(drills: Mapping[int, Sequence[Drill]], rules: Rules) -> WarmUp:
    """Drills that many need are done by everybody; the others are extras of those who need them, done meanwhile."""
    count = Counter(drill.movement for mine in drills.values() for drill in mine)
    least = max(2, rules.drill_group_share * len(drills)) if len(drills) > 1 else 1
    common = [code for code, times in count.most_common() if times >= least][: rules.drills_most]
    first = {drill.movement: drill for mine in drills.values() for drill in mine}
    own = {
        athlete: extras
        for athlete, mine in drills.items()
        if (extras := tuple(d for d in mine if d.movement not in common)[: rules.drills_most - len(common)])
    }
    most = max((len(extras) for extras in own.values()), default=0)
    length = 60 * (rules.warm_up_min + rules.drill_min * (len(common) + most))
    return WarmUp(tuple(first[code] for code in common), own, round(length))
