"""Words for what stands in an athlete's way."""

from typing import assert_never

from backsquat.core.readiness.verdict import Obstacle, Reason, Short, Unearned
from backsquat.ui.phrases.days import day_words
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.readiness_checks import finding_words


def obstacle_words(obstacle: Obstacle) -> str:
    """A sentence or two: what stands in the way, and what would move it."""
    limit, absence, stop, unearned = obstacle.limit, obstacle.absence, obstacle.stop, obstacle.unearned
    match obstacle.reason:
        case Reason.STOPPED:
            if obstacle.rest_of_day or stop is None:
                return "Stopped today: nothing with a load for the rest of the day."
            return (
                f"Not this since {day_words(stop.at.date())}: stopped, until it is cleared."  # where, says who treats
            )
        case Reason.AWAY:
            since = f" since {day_words(absence.first_on)}" if absence else ""
            return f"Away{since}. The return is recorded under Limits and health."
        case Reason.BARRED:
            return f"A limit{f' set by {limit.set_by}' if limit else ''} forbids it on this day."
        case Reason.OVER_LIMIT:
            most = f" of {limit.load_kg or 0:g} kg" if limit else ""
            return f"Over the limit{most}: replan, and the sheet follows the limit."
        case Reason.UNEARNED:
            return f"{unearned_words(unearned)}." if unearned else "Not earned yet."
        case Reason.NOT_READY:
            return f"Not ready for the bar yet: {', '.join(map(finding_words, obstacle.readiness_check))}."
        case _:
            assert_never(obstacle.reason)


def short_obstacle(obstacle: Obstacle, readiness_checks: str = "") -> str:
    """The same in a few words, as it stands on the floor; `readiness_checks` names those before the movement."""
    limit, absence, stop, unearned = obstacle.limit, obstacle.absence, obstacle.stop, obstacle.unearned
    match obstacle.reason:
        case Reason.STOPPED:
            if obstacle.rest_of_day or stop is None:
                return "stopped today: nothing with a load for the rest of the day"
            return "stopped: not this until it is cleared"
        case Reason.AWAY:
            return f"away since {day_words(absence.first_on)}" if absence else "away"
        case Reason.BARRED:
            return f"limit, {limit.set_by}" if limit else "limit"
        case Reason.OVER_LIMIT:
            return f"limit: at most {limit.load_kg or 0:g} kg, replan" if limit else "over the limit, replan"
        case Reason.UNEARNED:
            return in_text(unearned_words(unearned)) if unearned else "not earned yet"
        case Reason.NOT_READY:
            return f"not ready for the bar{f' ({readiness_checks})' if readiness_checks not in ('', 'barbell') else ''}"
        case _:
            assert_never(obstacle.reason)


def unearned_words(unearned: Unearned) -> str:
    """Why a movement is too hard for somebody yet."""
    name = in_text(unearned.ladder.name) if unearned.ladder else "it is on"
    match unearned.why:
        case Short.NO_CONSENT:
            return "No guardian's consent on file: nothing with a weight or a machine"
        case Short.NOT_PLACED:
            return f"Not placed on the ladder {name} yet"
        case Short.ABOVE_LEVEL:
            return f"On level {(unearned.stands or 0) + 1} of {name}; this is level {unearned.level + 1}"
        case _:
            assert_never(unearned.why)
