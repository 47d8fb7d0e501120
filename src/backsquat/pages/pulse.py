"""Whether anything has changed for those a page shows: what it was made with, to be compared a second later."""

from typing import Any

from backsquat.pages.request import clock, membership, own_athlete, reader
from backsquat.work.floor.pulse import pulse, squad_ids
from backsquat.work.readiness.load import open_stops


def shown_ids() -> list[int]:
    """Whom the signed-in person may see: everybody of the squad, or an athlete the own self."""
    mine = own_athlete()
    return [mine] if mine is not None else squad_ids(reader(), membership().squad_id)


def felt(athlete_ids: list[int]) -> dict[str, Any]:
    """What changes when something does for these athletes, and how many stops stand."""
    stops = open_stops(reader(), athlete_ids).values()
    now = pulse(reader(), membership().squad_id, athlete_ids, clock().today())
    return {"pulse": now, "stops": sum(len(one) for one in stops)}
