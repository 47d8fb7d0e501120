"""Wording of milestones."""

from typing import Any

from backsquat.core.season.milestone import Judgement, Status
from backsquat.core.working import plain


def milestone_words(kind: str, amount: Any, name: str) -> str:
    if kind == "rung":
        return f"{name}, rung earned"
    return (
        f"{name} {plain(float(amount), 2)} × body mass"
        if kind == "body_masses"
        else f"{name} {plain(float(amount), 2)} kg"
    )


def status_words(judgement: Judgement) -> str:
    """The status; where nothing can be said yet, what is missing."""
    if judgement.status is not Status.NO_DATA:
        return judgement.status.value
    step = judgement.working.steps[-1] if judgement.working.steps else None
    if step is None:
        return "no data: no body mass yet"
    if step.code == "weeks_with_record":
        return f"no data: {step.output:g} of {step.facts['needed']:g} weeks with a record"
    return f"no data: on rung {step.facts['here']:g}" if step.facts.get("here") else "no data: not placed yet"
