"""Milestones of the squad with their status, gathered by what they ask for."""

import datetime as dt
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.season.milestone import Judgement
from backsquat.features.athletes.queries import judge_milestone, milestones_of, squad_athletes, weekly_best
from backsquat.features.athletes.readiness import Readiness, readiness_of
from backsquat.features.desk import Desk
from backsquat.storage.models import Athlete, Match, Milestone


@dataclass(frozen=True)
class Standing:
    athlete: Athlete
    milestone: Milestone
    judgement: Judgement


@dataclass(frozen=True)
class Goal:
    """One thing asked for by one day, of one athlete or of many."""

    milestone: Milestone
    standings: list[Standing]

    @property
    def counts(self) -> list[tuple[str, int]]:
        return Counter(str(standing.judgement.status) for standing in self.standings).most_common()


def judged(
    session: Session, here: Desk, ready: dict[int, Readiness], milestones: Iterable[Milestone]
) -> list[tuple[Milestone, Judgement]]:
    """Each milestone with its judgement: one query a movement."""
    found = list(milestones)
    best = {
        code: weekly_best(session, list(ready), code, here.season.first_week, here.today)
        for code in {milestone.movement for milestone in found}
    }
    return [
        (m, judge_milestone(m, best[m.movement].get(m.athlete_id, []), ready[m.athlete_id], here.rules))
        for m in found
    ]


def goals(session: Session, here: Desk) -> list[Goal]:
    """All open milestones, the next first."""
    athletes = {athlete.id: athlete for athlete in squad_athletes(session, here.squad.id)}
    ready = readiness_of(session, here.squad.id, list(athletes.values()), here.today, here.rules)
    grouped: dict[tuple[object, ...], Goal] = {}
    for milestone, judgement in judged(session, here, ready, milestones_of(session, list(athletes))):
        key = (milestone.due_on, milestone.movement, milestone.kind, str(milestone.amount), milestone.batch)
        goal = grouped.setdefault(key, Goal(milestone, []))
        goal.standings.append(Standing(athletes[milestone.athlete_id], milestone, judgement))
    return sorted(grouped.values(), key=lambda goal: (goal.milestone.due_on, -len(goal.standings)))


def matches_ahead(session: Session, here: Desk, most: int = 6) -> list[Match]:
    """The next important matches, then the next of all: days a goal is usually set for."""
    rows = session.scalars(
        select(Match).where(Match.season_id == here.season_id, Match.played_on > here.today)
    ).all()
    return sorted(rows, key=lambda match: (not match.important, match.played_on))[:most]


def next_day(matches: list[Match], otherwise: dt.date) -> dt.date:
    return matches[0].played_on if matches else otherwise
