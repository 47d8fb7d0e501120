"""A week of flu in the demo's squad: five lie in bed for a week, and come back on the demo's day."""

import datetime as dt

from backsquat.config import DEMO_DAY
from backsquat.core.readiness.absence import AwayReason
from backsquat.work.context import WorkContext
from backsquat.work.health.absences import come_back, go_away

FELL_ILL = {
    "Kaja Brandt": dt.date(2026, 11, 14),
    "Suri Valdez": dt.date(2026, 11, 14),
    "Oona Lachlan": dt.date(2026, 11, 15),
    "Wren Achterberg": dt.date(2026, 11, 15),
    "Elsbeth Oyelaran": dt.date(2026, 11, 16),  # seven days: short enough to go on where she was
}
WELL_AGAIN = "M. Ferro, physio: no fever since Friday"


def in_bed(name: str, day: dt.date) -> bool:
    """Whether somebody lay ill on a day."""
    return FELL_ILL.get(name, dt.date.max) <= day < DEMO_DAY


def come_back_well(physio: WorkContext, ids: dict[str, int]) -> None:
    """The physio has noted who was away since when, and lets all of them come back on the demo's day."""
    for name, first_on in FELL_ILL.items():
        absence = go_away(physio, ids[name], first_on, AwayReason.ILLNESS)
        come_back(physio, absence.id, DEMO_DAY, WELL_AGAIN)
