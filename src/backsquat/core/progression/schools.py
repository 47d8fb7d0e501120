"""The nine schools of progression, looked up by code; a new one is one file and one line here."""

from collections.abc import Mapping
from typing import Any

from backsquat.core.progression.earned import EarnedSchool
from backsquat.core.progression.effort import EffortSchool
from backsquat.core.progression.fixed import FixedSchool
from backsquat.core.progression.holds import HoldsSchool
from backsquat.core.progression.ladder import LadderSchool
from backsquat.core.progression.school import School
from backsquat.core.progression.speed import SpeedSchool
from backsquat.core.progression.stages import StagesSchool
from backsquat.core.progression.wave import WaveSchool
from backsquat.core.progression.window import WindowSchool

SCHOOLS: Mapping[str, School[Any]] = {  # each knows its own parameters
    school.code: school
    for school in (
        StagesSchool(), FixedSchool(), WindowSchool(), WaveSchool(), EffortSchool(), EarnedSchool(), LadderSchool(),
        HoldsSchool(), SpeedSchool(),
    )
}  # fmt: skip
