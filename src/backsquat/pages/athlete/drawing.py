"""Pictures and tables of one lift: the estimate over the season, planned against done."""

from typing import Any

from markupsafe import Markup
from sqlalchemy.orm import Session

from backsquat.core.movements.manner import DIRECTIONS
from backsquat.core.readiness.verdict import Readiness
from backsquat.pages.athlete.phrases import done_words, planned_words
from backsquat.storage.models import Athlete, Milestone
from backsquat.ui.drawing.paired import Pair, draw_pairs
from backsquat.ui.drawing.reach import draw_reach
from backsquat.ui.drawing.trend import TrendPicture, TrendPoint, draw_trend
from backsquat.work.log.estimates import Numbers
from backsquat.work.log.reaches import reaches
from backsquat.work.plan.history import WeekDone, planned_and_done
from backsquat.work.season.evidence import idle_weeks
from backsquat.work.season.milestones import judge_milestone
from backsquat.work.squad.context import SquadContext


def lift_pictures(
    db: Session, here: SquadContext, athlete: Athlete, lift: Numbers, milestone: Milestone | None, ready: Readiness
) -> dict[str, Any]:
    """The trend with its milestone, and the weeks, as pictures and as what stands behind them."""
    idle = idle_weeks(db, here.squad.id, {athlete.id: ready})[athlete.id] if milestone else ()
    judgement = judge_milestone(milestone, lift.weeks, ready, here.rules, idle) if milestone else None
    trend = draw_trend(
        TrendPicture(
            ready.library.get(lift.movement).name,
            here.season,
            here.today,
            here.week,
            [TrendPoint(best.week, best.kg, best.trust, not best.firm) for best in lift.weeks],
            judgement.trend if judgement else None,
            judgement.target_kg if judgement else None,
            milestone.due_on if milestone else None,
        )
    )
    weeks = planned_and_done(db, here, athlete.id, lift.movement)
    return {"judgement": judgement, "trend_svg": trend, "weeks": weeks, "pairs_svg": _pairs(here, weeks)}


def reach_pictures(db: Session, athlete_id: int) -> dict[str, Any]:
    """The reach of lunges, one figure a side, with what it is drawn from; nothing where none was measured."""
    measured = reaches(db, athlete_id)
    wheels = [(one.reach, one.supported) for one in measured]
    titles = ("Reach of the left leg's lunges, cm", "Reach of the right leg's lunges, cm")
    return {
        "reaches": measured,
        "reach_svgs": [draw_reach(wheels, side, title) for side, title in enumerate(titles)] if measured else [],
        "directions": DIRECTIONS,
    }


def _pairs(here: SquadContext, weeks: list[WeekDone]) -> Markup:
    pairs = [
        Pair(w.week, w.planned_kg, w.done_kg, w.deload, f"{w.week:%d %b}: planned {planned_words(w)}; {done_words(w)}")
        for w in weeks
    ]
    return draw_pairs("Planned against done by week, reps × kg", here.season, here.week, pairs)
