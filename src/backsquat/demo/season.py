"""The demo club's season: league on Saturdays, a cup in between, phases, a camp, holidays and a trip."""

import datetime as dt
from collections.abc import Callable
from decimal import Decimal

from backsquat.core.season.calendar import DaySpan
from backsquat.storage.models import Season
from backsquat.work.context import WorkContext
from backsquat.work.season.marks import MarkFacts, MarkKind, add_mark
from backsquat.work.season.matches import MatchFacts, add_matches
from backsquat.work.squad.growth import measure

SEASON = DaySpan(dt.date(2026, 7, 6), 40)
FIRST_MATCH, LAST_MATCH = dt.date(2026, 9, 12), dt.date(2027, 4, 3)
NO_MATCH = {dt.date(2026, 12, 26), dt.date(2027, 1, 2)}
BIG = {
    dt.date(2026, 10, 17): "cup",
    dt.date(2026, 12, 12): "league",
    dt.date(2027, 2, 6): "cup",
    dt.date(2027, 4, 3): "final",
}
CUP = {dt.date(2026, 12, 16): "Old Quay"}  # a Wednesday: two matches in that week
OTHERS = ("Millrace", "Northgate", "Amber Hill", "Old Quay", "Sandholm", "Two Rivers", "Lark Field", "Weir Street")
MARKS = (
    (MarkKind.BASE, dt.date(2026, 7, 6), dt.date(2026, 8, 16), ""),
    (MarkKind.STRENGTH, dt.date(2026, 8, 17), dt.date(2026, 9, 6), ""),
    (MarkKind.IN_SEASON, dt.date(2026, 9, 7), dt.date(2027, 4, 4), ""),
    (MarkKind.CAMP, dt.date(2026, 8, 3), dt.date(2026, 8, 7), "camp"),
    (MarkKind.HOLIDAY, dt.date(2026, 12, 21), dt.date(2027, 1, 3), "winter holiday"),
    (MarkKind.TRIP, dt.date(2027, 2, 15), dt.date(2027, 2, 19), "trip"),
)


HEIGHTS = {  # cm, by days before the demo's day
    "Alma Brekke": {84: "163.5", 7: "165.5"},
    "Suri Valdez": {90: "168", 8: "168.5"},
    "Liv Aasen": {70: "167.5", 8: "167.5"}, "Hanne Roos": {66: "171"}, "Marit Holm": {138: "181"},
    "Ines Okafor": {138: "178"}, "Tove Lindqvist": {138: "175.5"}, "Sanne de Wit": {138: "174"},
    "Petra Skov": {138: "170"}, "Rania Haddad": {138: "166"}, "Elsbeth Oyelaran": {138: "183"},
    "Jorunn Petit": {138: "172.5"}, "Beatriz Solheim": {138: "173"}, "Kaja Brandt": {110: "168"},
    "Mirre Castellan": {138: "165"}, "Wren Achterberg": {138: "172"},
}  # fmt: skip


def measure_heights(on: Callable[[dt.date, int], WorkContext], today: dt.date, id_of: Callable[[str], int]) -> None:
    """Most are measured once, the minors now and then; one of them grows fast, four nobody has measured."""
    for name, heights in HEIGHTS.items():
        for before, height_cm in heights.items():
            day = today - dt.timedelta(days=before)
            measure(on(day, 17), id_of(name), Decimal(height_cm), day)


def make_season(context: WorkContext) -> None:
    """The season with its matches and stretches."""
    season = Season(squad_id=context.squad_id, name="2026/27", first_week=SEASON.first_week, weeks=SEASON.weeks)
    context.db.add(season)
    context.db.flush()
    found, day, nth = [], FIRST_MATCH, 0
    while day <= LAST_MATCH:
        if day not in NO_MATCH:
            found.append(MatchFacts(day, day in BIG, bool(nth % 2), OTHERS[nth % len(OTHERS)], BIG.get(day, "league")))
            nth += 1
        day += dt.timedelta(days=7)
    found += [MatchFacts(day, False, True, opponent, "cup") for day, opponent in CUP.items()]
    add_matches(context, season.id, found)
    for kind, first_on, last_on, words in MARKS:
        add_mark(context, season.id, MarkFacts(kind, first_on, last_on, words))
