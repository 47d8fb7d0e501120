import datetime as dt
import re
from collections.abc import Iterable
from typing import Any

from wtforms import BooleanField, SelectField

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.schools import SCHOOLS
from backsquat.core.progression.wave import WaveParameters
from backsquat.features.blocks.phrases import WEEKDAYS
from backsquat.features.blocks.slots import BlockFacts, SlotFacts
from backsquat.features.fields import AmountField, DayField, JobForm, Needed, TextField, WholeField, options
from backsquat.library.templates import WEEKS_MOST

DEFAULTS = WaveParameters()
WAVE_TEXT = " ".join(f"{reps}/{left}" for reps, left in DEFAULTS.weeks)


class BlockForm(JobForm):
    """A block: its weeks, a day for each lift, and the school with its parameters."""

    name = TextField("Name", validators=[Needed()], most=40)
    first_week = DayField("First week (a Monday)", validators=[Needed()])
    weeks = WholeField("Weeks", validators=[Needed()])
    in_season = BooleanField("In season: plan from a lower max, round down")
    school = SelectField("School", choices=options((school.code, school.name) for school in SCHOOLS.values()))
    wave = TextField("Reps/left, week by week", validators=[Needed()])
    sets = WholeField("Sets", validators=[Needed()])
    rest_s = WholeField("Rest, s", validators=[Needed()])

    def __init__(self, lifts: Iterable[Movement], **kwargs: Any) -> None:
        super().__init__(**kwargs)
        self.lifts = list(lifts)
        self.read_days(kwargs.get("data", {}))

    def read_days(self, values: Any) -> None:
        self.days: dict[str, str] = {lift.code: values.get(f"day_{lift.code}", "") for lift in self.lifts}

    def wave_weeks(self) -> list[list[int]] | None:
        """The weeks as pairs; None where the text cannot be read."""
        parts = re.split(r"[\s,;]+", (self.wave.data or "").strip())
        if not all(re.fullmatch(r"\d{1,2}/\d{1,2}", part) for part in parts):
            return None
        return [[int(number) for number in part.split("/")] for part in parts]

    def parameters(self) -> dict[str, Any]:
        return {"weeks": self.wave_weeks(), "sets": self.sets.data, "rest_s": self.rest_s.data}

    def problems(self) -> Iterable[Problem]:
        if self.weeks.data is not None and not 1 <= self.weeks.data <= WEEKS_MOST:
            yield Problem("weeks", "weeks_range", {"most": WEEKS_MOST})
        if self.wave.data and self.wave_weeks() is None:
            yield Problem("wave", "wave_format")
        elif self.wave.data and self.sets.data is not None and self.rest_s.data is not None:
            try:
                SCHOOLS[self.school.data].read(self.parameters())
            except (ImpossibleInput, KeyError) as error:
                for problem in getattr(error, "problems", ()):
                    yield Problem(
                        "wave" if problem.field == "weeks" else problem.field, problem.code, problem.facts
                    )

    def facts(self) -> BlockFacts:
        chosen = [
            (code, day) for code, day in self.days.items() if day in {str(n) for n in range(len(WEEKDAYS))}
        ]
        slots = tuple(SlotFacts(int(day), code, self.school.data, self.parameters()) for code, day in chosen)
        return BlockFacts(self.name.data, self.first_week.data, self.weeks.data, self.in_season.data, slots)


class CellForm(JobForm):
    load = AmountField("Load", validators=[Needed()])
    bar = SelectField("Bar", validate_choice=False)


def suggested(from_day: dt.date, blocks: Iterable[Any], last_week: dt.date) -> dict[str, Any]:
    """Values a new block starts with: the first free Monday from the day on, eight weeks or what is left."""
    first = from_day + dt.timedelta(days=-from_day.weekday() % 7)
    for block in blocks:
        end = block.first_week + dt.timedelta(weeks=block.weeks)
        if block.first_week <= first < end:
            first = end
    room = (last_week - first).days // 7 + 1
    following = [b.first_week for b in blocks if b.first_week > first]
    if following:
        room = min(room, (min(following) - first).days // 7)
    return {
        "name": "Strength wave", "first_week": first, "weeks": max(1, min(8, room)), "wave": WAVE_TEXT,
        "sets": DEFAULTS.sets, "rest_s": DEFAULTS.rest_s, "school": "wave", "in_season": False,
        "day_back_squat": "0", "day_romanian_deadlift": "2",
    }  # fmt: skip
