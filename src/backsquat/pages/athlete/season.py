"""An athlete's season on paper: the lifts with their trend and weeks, milestones, body mass, the newest screens."""

from dataclasses import dataclass
from typing import Any

from flask import render_template, request
from flask.typing import ResponseReturnValue

from backsquat.core.readiness.checklist import age_years
from backsquat.core.readiness.screens import Result, Screen
from backsquat.core.working import plain
from backsquat.formats.pdf import Paper
from backsquat.pages.athlete.drawing import lift_pictures
from backsquat.pages.athlete.phrases import done_words, planned_words
from backsquat.pages.athlete.routes import blueprint
from backsquat.pages.papers import sent_pdf
from backsquat.pages.request import allow, clock, context, reader, squad_library
from backsquat.ui.phrases.estimates import TRUST
from backsquat.work.library.screens import screens_of
from backsquat.work.log.estimates import numbers
from backsquat.work.log.sets import recorded_lifts
from backsquat.work.policy import Act
from backsquat.work.readiness.load import readiness_one
from backsquat.work.season.milestones import milestones_of, with_lift
from backsquat.work.sessions.blocks import lifts_of
from backsquat.work.squad.athletes import athlete_of, masses_of

LIFTS_MOST = 6


@dataclass(frozen=True)
class ScreenLine:
    """The newest result of a screen, by side."""

    screen: Screen
    results: tuple[tuple[str, Result], ...]

    @property
    def words(self) -> str:
        """left 11, right 12.5 cm"""
        said = [f"{side} {_value(result)}".strip() for side, result in self.results]
        unit = "" if self.screen.kind.value in ("yes/no", "grade") else f" {self.screen.unit}"
        return ", ".join(said) + unit


def _value(result: Result) -> str:
    return plain(result.value)


@blueprint.get("/<int:athlete_id>/season")
@allow(Act.READ_PLAN)
def season(athlete_id: int) -> ResponseReturnValue:
    """The report; `pdf` makes it one."""
    here, db = context(), reader()
    athlete = athlete_of(db, here.squad.id, athlete_id)
    ready = readiness_one(db, athlete, here.today, here.rules)
    codes = dict.fromkeys([*lifts_of(db, here.squad.id, here.week), *recorded_lifts(db, athlete.id)])
    lifts = numbers(db, athlete, list(codes)[:LIFTS_MOST], here.season.first_week, here.today, here.rules)
    milestones = milestones_of(db, [athlete.id])
    shown: list[dict[str, Any]] = []
    for lift in lifts:
        milestone = next(iter(with_lift(milestones, lift.movement)), None)
        pictures = lift_pictures(db, here, athlete, lift, milestone, ready)
        if lift.current or pictures["weeks"]:
            name = squad_library().get(lift.movement).name
            shown.append({"lift": lift, "name": name, "milestone": milestone, **pictures})
    as_file = request.args.get("pdf") == "a4"
    page = render_template(
        "athlete/season.html",
        context=here,
        athlete=athlete,
        age=age_years(athlete.born_on, here.today),
        masses=masses_of(db, athlete.id, here.season.first_week),
        shown=shown,
        screens=_screens(athlete_id, ready.known),
        trust=TRUST,
        planned_words=planned_words,
        done_words=done_words,
        as_file=as_file,
        made_at=clock().now().isoformat(timespec="minutes"),
    )
    return sent_pdf(page, Paper.A4, f"season-{here.season.first_week}-{athlete_id}") if as_file else page


def _screens(athlete_id: int, known: Any) -> list[ScreenLine]:
    found = []
    for code, screen in screens_of(reader(), context().squad.id).items():
        results = tuple((side, known[code, side]) for side in screen.sides if (code, side) in known)
        if results and not screen.retired:
            found.append(ScreenLine(screen, results))
    return found
