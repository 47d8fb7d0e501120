"""Words for what stands in an athlete's way."""

from backsquat.core.readiness.verdict import Obstacle, Reason, Short, Unearned
from backsquat.ui.phrases.days import day_words
from backsquat.ui.phrases.gates import finding_words
from backsquat.ui.phrases.names import in_text


def obstacle_words(obstacle: Obstacle) -> str:
    """A sentence or two: what stands in the way, and what would move it."""
    if obstacle.stop and obstacle.rest_of_day:
        return "Stopped today: nothing with a load for the rest of the day."
    if obstacle.stop:
        since = day_words(obstacle.stop.at.date())
        return f"Stopped {since}: nothing that loads the {obstacle.stop.region}, until it is cleared."
    if obstacle.absence:
        since = day_words(obstacle.absence.first_on)
        return f"Away since {since}. The return is recorded under Limits and health."
    if obstacle.reason is Reason.BARRED and obstacle.limit:
        return f"A limit set by {obstacle.limit.set_by} forbids it on this day."
    if obstacle.reason is Reason.OVER_LIMIT and obstacle.limit:
        most = obstacle.limit.load_kg or 0
        return f"Over the limit of {most:g} kg: replan, and the sheet follows the limit."
    if obstacle.unearned:
        return f"{unearned_words(obstacle.unearned)}."
    return f"Not yet through the gate: {', '.join(map(finding_words, obstacle.gate))}."


def short_obstacle(obstacle: Obstacle, gates: str = "") -> str:
    """The same in a few words, as it stands on the floor; `gates` names those before the movement."""
    if obstacle.stop and obstacle.rest_of_day:
        return "stopped today: nothing with a load for the rest of the day"
    if obstacle.stop:
        return f"stopped: nothing that loads the {obstacle.stop.region}"
    if obstacle.absence:
        return f"away since {day_words(obstacle.absence.first_on)}"
    if obstacle.reason is Reason.BARRED and obstacle.limit:
        return f"limit, {obstacle.limit.set_by}"
    if obstacle.reason is Reason.OVER_LIMIT and obstacle.limit:
        return f"limit: at most {obstacle.limit.load_kg or 0:g} kg, replan"
    if obstacle.unearned:
        return in_text(unearned_words(obstacle.unearned))
    return f"not through the {gates} gate"


def unearned_words(unearned: Unearned) -> str:
    """Why a movement is too hard for somebody yet."""
    ladder = unearned.ladder
    if unearned.why is Short.NO_CONSENT or ladder is None:
        return "No guardian's consent on file: nothing with a weight or a machine"
    if unearned.why is Short.NOT_PLACED or unearned.stands is None:
        return f"Not placed on the ladder {in_text(ladder.name)} yet"
    return f"On rung {unearned.stands + 1} of {in_text(ladder.name)}; this is rung {unearned.rung + 1}"
