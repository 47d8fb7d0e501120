"""A walk: acts by chance, laws after each; and the shortest story of a fault, ready to be pasted as a test."""

import random
import re
import time
from collections.abc import Iterator

from flask import Flask

from tests.walk import laws
from tests.walk.acts import ACTS, beginning
from tests.walk.people import Broken, Company, Step, from_nothing, of_demo, with_phone, without

MOVES_THE_FLOOR = re.compile(r"^/(floor|health-list|review|block/\d+/publish|undo|movements|ladders|room|season)")
OFTEN = 40  # steps between two looks at everything


class Walk:
    """One walk from a seed: the steps so far, and what broke."""

    def __init__(self, app: Flask, seed: int, demo: bool = False) -> None:
        self.app, self.seed, self.demo = app, seed, demo
        self.dice = random.Random(seed)
        self.steps: list[Step] = []
        self.company = of_demo(app) if demo else from_nothing(app, seed)
        self.broken: Broken | None = None

    def go(self, steps: int, until: float | None = None) -> Broken | None:
        """So many steps, or until a moment; the fault, if there was one."""
        start = [] if self.demo else beginning(self.company, self.dice)
        acts, weights = zip(*ACTS, strict=True)
        try:
            for act in self._acts(start, acts, weights):
                for step in act(self.company, self.dice):
                    self._step(step)
                if len(self.steps) >= steps or (until and time.monotonic() > until):
                    break
            look_at_everything(self.company, self.dice)
            if not self.demo:
                laws.archive_is_the_squad(self.company)
        except Broken as broken:
            self.broken = broken
        return self.broken

    def _acts(self, start: list, acts: tuple, weights: tuple) -> Iterator:  # type: ignore[type-arg]
        yield from start
        for _ in range(100_000):
            yield self.dice.choices(acts, weights)[0]

    def _step(self, step: Step) -> None:
        self.steps.append(step)
        after(self.company, step)
        if len(self.steps) % OFTEN == 0:
            look_at_everything(self.company, self.dice)


def after(company: Company, step: Step) -> None:
    """Do a step, and hold every law."""
    company.do(step)
    for law in laws.EVERY_STEP:
        law(company, step)
    if (step.form is not None or step.parcel is not None) and MOVES_THE_FLOOR.match(step.path):
        laws.locked_is_not_offered(company, step)
        laws.one_row_one_number(company, step)


def look_at_everything(company: Company, dice: random.Random) -> None:
    for law in laws.NOW_AND_THEN:
        law(company, dice)


def told(company: Company, steps: list[Step], phones: dict[str, int] | None = None) -> None:
    """Walk a story; Broken where a law does not hold."""
    dice = random.Random(1)
    for step in steps:
        for name, number in (phones or {}).items():
            if name not in company.clients:
                with_phone(company, number, name)
        after(company, step)
    look_at_everything(company, dice)


def shortest(walk: Walk, seconds: float = 120) -> list[Step]:
    """The fewest steps that end in the same fault (delta debugging: Zeller 2002)."""
    assert walk.broken
    end, steps, size = time.monotonic() + seconds, walk.steps, max(1, len(walk.steps) // 2)
    while size and time.monotonic() < end:
        at = 0
        while at < len(steps) and time.monotonic() < end:
            fewer = without(steps, at, size)
            if _breaks(walk, fewer):
                steps = fewer
            else:
                at += size
        size = size // 2
    return steps


def _breaks(walk: Walk, steps: list[Step]) -> bool:
    company = of_demo(walk.app) if walk.demo else from_nothing(walk.app, walk.seed)
    try:
        told(company, steps, walk.company.athletes)
        if not walk.demo:
            laws.archive_is_the_squad(company)
    except Broken as broken:
        return bool(walk.broken and broken.sign == walk.broken.sign)
    return False


def as_test(walk: Walk, steps: list[Step]) -> str:
    """A story as a test of `tests/walk/test_stories.py`."""
    lines = "\n".join(f"    {step!r}," for step in steps)
    return f"# {walk.broken}\nSTORY = Story(seed={walk.seed}, demo={walk.demo}, phones={walk.company.athletes}, steps=[\n{lines}\n])"
