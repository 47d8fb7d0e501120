"""Wording of milestones."""

import datetime as dt
from typing import Any

from backsquat.core.season.milestone import Judgement, Status
from backsquat.core.working import plain
from backsquat.ui.phrases.days import day_words


def milestone_words(kind: str, amount: Any, name: str, load_kg: Any = None, unit: str = "") -> str:
    """What is asked for; `name` is the movement's or the screen's, `unit` the screen's."""
    number = plain(float(amount), 2)
    if kind == "level":
        return f"{name}, level earned"
    if kind == "reps":
        return f"{name} {number} × {plain(float(load_kg or 0), 2)} kg"
    if kind == "sessions":
        return f"{number} sessions attended"
    if kind == "screen" and unit == "yes/no":
        return f"{name}: {'yes' if float(amount) else 'no'}"
    return f"{name} {number} {dict(UNITS).get(kind, unit)}".strip()


UNITS = {"body_masses": "× body mass", "load": "kg", "seconds": "s"}


def status_words(judgement: Judgement) -> str:
    """The status; where nothing can be said yet, what is missing."""
    if judgement.status is not Status.NO_DATA:
        return judgement.status.value
    step = judgement.working.steps[-1] if judgement.working.steps else None
    if step is not None and step.code == "stands_nowhere":
        return "no data: not tested yet"
    if step is not None and step.code == "stands_at":
        day = dt.date.fromisoformat(str(step.facts["day"]))
        return f"not yet: {plain(float(step.output))} {step.unit} on {day_words(day)}"
    if step is None:
        return "no data: no body mass yet"
    if step.code == "weeks_with_record":
        return f"no data: {step.output:g} of {step.facts['needed']:g} weeks with a record"
    return f"no data: on level {step.facts['here']:g}" if step.facts.get("here") else "no data: not placed yet"


def reach_words(judgement: Judgement) -> str:
    """Between which days it is reached on this trend, four times in five, and what a week must bring instead."""
    came = next((step for step in judgement.working.steps if step.code == "sessions_wanted"), None)
    if came is not None:
        return f"{came.facts['done']:g} attended, {came.facts['ahead']:g} to come"
    if judgement.trend is None or judgement.status in (Status.DONE, Status.MISSED):
        return ""
    if judgement.earliest_on is None:
        said = "not on this trend"
    elif judgement.latest_on is None:
        said = f"not before {_when(judgement.earliest_on, judgement)}"
    else:
        said = f"{_when(judgement.earliest_on, judgement)} to {_when(judgement.latest_on, judgement)}"
    steps = {step.code: step for step in judgement.working.steps}
    if judgement.status is Status.ON_COURSE or "needed_a_week" not in steps:
        return said
    needed, has = float(steps["needed_a_week"].output), float(steps["trend"].output)
    has = has if needed < 0 else max(has, 0.0)
    return f"{said}; needs {plain(needed, 2)} {steps['needed_a_week'].unit}, has {plain(has, 2)}"


def _when(day: dt.date, judgement: Judgement) -> str:
    """The day; far from the last record with its year."""
    last = judgement.trend.last.on if judgement.trend else day
    return day_words(day) if (day - last).days < 300 else f"{day_words(day)} {day.year}"
