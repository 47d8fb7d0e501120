"""Wording of milestones."""

from typing import Any

from backsquat.core.working import plain


def milestone_words(kind: str, amount: Any, name: str) -> str:
    if kind == "rung":
        return f"{name}, rung earned"
    return (
        f"{name} {plain(float(amount), 2)} × body mass"
        if kind == "body_masses"
        else f"{name} {plain(float(amount), 2)} kg"
    )
