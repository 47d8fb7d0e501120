"""Doubts about a plan, as data. The words for each code live in the features' `phrases.py`."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum


class Severity(StrEnum):
    """How grave a finding is: to know, to watch, or a reason to stop."""

    NOTE = "note"
    WATCH = "watch"
    STOP = "stop"


@dataclass(frozen=True)
class Finding:
    """One thing a coach should know: a code, how grave it is, and the facts to say it with."""

    code: str
    severity: Severity
    facts: Mapping[str, str | float | int] = field(default_factory=dict)
    fix: str = ""  # code of the one-click remedy, empty where there is none

    @property
    def about(self) -> str:
        """The muscle, place or day it is about: tells two findings of one code apart."""
        return str(next((self.facts[name] for name in ("muscle", "region", "day") if name in self.facts), ""))
