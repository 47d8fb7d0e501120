"""The schools of progression, looked up by code.

A school lays out a block (`outline`: sets, reps, reserve for each exposure) and reacts to what
was done (`judge`). Loads, caps and rounding are the same for all and live in `plan.py`; a new
school is one file and one line in SCHOOLS.
"""

from collections.abc import Mapping
from typing import Any, Protocol

from backsquat.core.progression.decision import Decision, Exposure
from backsquat.core.progression.prescription import Prescription
from backsquat.core.progression.wave import WaveSchool
from backsquat.core.rules import Rules


class School(Protocol):
    code: str
    name: str
    summary: str

    def read(self, changes: Mapping[str, Any]) -> Any:
        """The school's parameters with a coach's changes; ImpossibleInput where they make no sense."""
        ...

    def outline(self, parameters: Any, weeks: int) -> tuple[Prescription, ...]:
        """One prescription a week."""
        ...

    def judge(self, exposure: Exposure, parameters: Any, rules: Rules) -> Decision:
        """The decision after an exposure, pain and form included."""
        ...


SCHOOLS: dict[str, School] = {WaveSchool.code: WaveSchool()}
