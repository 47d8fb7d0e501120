"""The season: drawn whole, its matches and stretches, and the chosen week fitted around its matches."""

import datetime as dt
from typing import Any

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.core.numbers import plain_day
from backsquat.core.season.backwards import LaidBlock, lay_back
from backsquat.core.season.calendar import WEEK, DaySpan, monday_of
from backsquat.core.season.week import DayReason, Legs
from backsquat.pages.layout import deload_weeks, milestone_name
from backsquat.pages.request import (
    acting,
    actor,
    allow,
    context,
    database,
    forget_reader,
    number,
    reader,
    said_with_undo,
    squad_library,
)
from backsquat.pages.season.forms import MarkForm, MatchForm
from backsquat.pages.season.phrases import (
    KINDS,
    PURPOSES,
    followed_words,
    goal_count_words,
    laid_words,
    leaves_words,
    mark_name,
    proposal_words,
    session_name,
)
from backsquat.pages.season.routes import blueprint
from backsquat.storage.models import Change, Match, SeasonMark
from backsquat.ui.drawing.season import BlockWeeks, GoalRange, MatchTick, SeasonPicture, Stretch, draw_season
from backsquat.ui.phrases.days import daydate_words
from backsquat.work.overview.season import standing, week_loads
from backsquat.work.plan.days import WeekAround, fit_week, hold_session, leave_out, move_session, week_around
from backsquat.work.plan.match_moved import MatchMoved, move_match
from backsquat.work.plan.own_day import move_for
from backsquat.work.policy import Act, may
from backsquat.work.season.marks import PHASES, MarkKind, add_mark, drop_mark, marks_of
from backsquat.work.season.matches import MatchFacts, match_of, matches_of, put_match
from backsquat.work.season.milestones import Goal, goals
from backsquat.work.sessions.blocks import own_days, published_blocks, squad_blocks
from backsquat.work.squad.athletes import squad_athletes

PHONE_WEEKS = 16
MOVED_ON = " Its work moves on as a draft."
SHARE_LOW = 0.55  # of the planning max: what the lowest bar of a block stands for


@blueprint.get("/season/")
@allow(Act.READ_PLAN)
def whole() -> ResponseReturnValue:
    """The season, and the chosen week; `match`: one to be changed."""
    return _page()


def _page(
    match_form: MatchForm | None = None, mark_form: MarkForm | None = None, status: int = 200
) -> ResponseReturnValue:
    here = context()
    matches, marks = matches_of(reader(), here.season_id), marks_of(reader(), here.season_id)
    changing = request.args.get("match", type=number)
    around = week_around(reader(), here)
    found = goals(reader(), here)
    picture = _picture(matches, marks, found)
    address = url_for("season.whole", week="WEEK")
    athletes = squad_athletes(reader(), here.squad.id)
    names = {one.held.id: session_name(one.day.held_on, one.held.name) for one in around.sessions}
    page = render_template(
        "season/season.html",
        context=here,
        wide=draw_season(picture, address),
        narrow=draw_season(picture.window(PHONE_WEEKS), address, 390.0, narrow=True),
        matches=matches,
        last_played=next((match for match in reversed(matches) if match.played_on <= here.today), None),
        played={match.played_on: match for match in matches},
        marks=marks,
        kinds=KINDS,
        around=around,
        athletes=athletes,
        own=_own_days(around, {athlete.id: athlete.name for athlete in athletes}),
        days=_days(around),
        leaves_words=_leaves,
        proposals=[(one, *proposal_words(one, names)) for one in around.proposals],
        **_laid_back(matches),
        match_form=match_form or MatchForm(formdata=None, data=_match_data(changing)),
        changing=changing,
        mark_form=mark_form or MarkForm(formdata=None),
        goals=[(goal, _goal_name(goal), standing(goal)) for goal in found],
        goal_count_words=goal_count_words,
        Legs=Legs,
        Why=DayReason,
        movement_name=_movement_name,
        number=here.season.index(here.week) + 1,
        sunday=here.week + dt.timedelta(days=6),
    )
    return page, status


def _laid_back(matches: list[Match]) -> dict[str, Any]:
    """Blocks back from the match asked for, else the next that counts with free weeks before it."""
    here = context()
    ahead = [match for match in matches if match.important and match.played_on > here.today]
    wanted = request.args.get("back", type=number)
    blocks = squad_blocks(reader(), here.squad.id)
    taken = {week for block in blocks for week in DaySpan(block.first_week, block.weeks)}
    playing = {monday_of(match.played_on) for match in matches}
    first = monday_of(here.today) + WEEK

    def laid(match: Match) -> list[LaidBlock]:
        return lay_back(first, match.played_on, playing, taken, here.rules)

    chosen = next((match for match in ahead if match.id == wanted), None)
    chosen = chosen or next((match for match in ahead if laid(match)), ahead[-1] if ahead else None)
    rows = [(one, *laid_words(one), PURPOSES[one.purpose]) for one in laid(chosen)] if chosen else []
    return {"back_to": chosen, "ahead": ahead, "laid": rows}


def _leaves(leaves: Any) -> str:
    rules = context().rules
    return leaves_words(leaves, heavy_best=range(rules.match_best_from, rules.match_best_to + 1))


def _movement_name(code: str) -> str:
    library = squad_library()
    if code in library.movements:
        return library.movements[code].name
    return library.ladders[code].name if code in library.ladders else code


def _match_data(match_id: int | None) -> dict[str, Any]:
    if match_id is None:
        return {}
    row = match_of(acting(reader()), match_id)
    return {name: getattr(row, name) for name in ("played_on", "opponent", "competition", "away", "important")}


def _days(around: WeekAround) -> list[tuple[Any, list[Any]]]:
    """Each day with the sessions on it."""
    return [(leaves, [one for one in around.sessions if one.day.held_on == leaves.day]) for leaves in around.days]


def _own_days(around: WeekAround, names: dict[int, str]) -> dict[int, list[tuple[str, int, dt.date]]]:
    """By session, who does it on another day alone: name, athlete and day."""
    found = own_days(reader(), [one.held.id for one in around.sessions])
    return {
        one.held.id: sorted(
            (names[who], who, day)
            for who, day in found.get((one.held.id, around.week), {}).items()
            if who in names and day != one.day.held_on
        )
        for one in around.sessions
    }


def _goal_name(goal: Goal) -> str:
    milestone = goal.milestone
    name = milestone_name(milestone)
    return name if len(goal.standings) > 1 else f"{goal.standings[0].athlete.name}: {name}"


def _picture(matches: list[Match], marks: list[SeasonMark], found: list[Goal]) -> SeasonPicture:
    here = context()
    stretches = [
        (MarkKind(mark.kind), Stretch(mark.kind, mark.first_on, mark.last_on, mark_name(mark.kind, mark.words)))
        for mark in marks
    ]
    ahead = sorted(found, key=lambda goal: (-len(goal.standings), goal.milestone.due_on))
    return SeasonPicture(
        here.season,
        here.today,
        here.week,
        tuple(stretch for kind, stretch in stretches if kind in PHASES),
        _blocks(),
        tuple(_tick(one) for one in matches),
        tuple(stretch for kind, stretch in stretches if kind not in PHASES),
        tuple(_range(goal) for goal in ahead),
    )


def _tick(match: Match) -> MatchTick:
    may_move = may(actor().role, Act.PLAN) and match.played_on >= context().today
    name = match.opponent or match.competition
    return MatchTick(match.played_on, match.important, name, match.id if may_move else None)


def _blocks() -> tuple[BlockWeeks, ...]:
    season = context().season
    every = squad_blocks(reader(), context().squad.id)
    blocks = [block for block in every if season.overlaps(DaySpan(block.first_week, block.weeks))]
    ids = [block.id for block in blocks]
    live, loads = published_blocks(reader(), ids), week_loads(reader(), ids)

    def height(block_id: int, week: int) -> float:
        share = loads.get((block_id, week), SHARE_LOW)
        return min(max((share - SHARE_LOW) / (1 - SHARE_LOW), 0.15), 1.0)

    return tuple(
        BlockWeeks(
            block.name,
            block.first_week,
            block.id in live,
            tuple(height(block.id, week) for week in range(block.weeks)),
            deload_weeks(block),
        )
        for block in blocks
    )


def _range(goal: Goal) -> GoalRange:
    stands = standing(goal)
    said = goal_count_words(stands.fewest, stands.most, stands.of) if stands.of > 1 else ""
    return GoalRange(_goal_name(goal), goal.milestone.due_on, stands.early_on, stands.late_on, said)


@blueprint.post("/season/matches")
@allow(Act.PLAN)
def match() -> ResponseReturnValue:
    """Put a match in, or change the one named by `match`."""
    here, form = context(), MatchForm()
    changing = request.args.get("match", type=number)

    def write() -> MatchMoved:
        with database().writing() as db:
            if changing is not None:
                return move_match(acting(db), here, changing, form.facts())
            return MatchMoved(put_match(acting(db), here.season_id, form.facts()))

    moved = form.submitted(write)
    if moved is None:
        return _page(match_form=form, status=422)
    said_with_undo(f"The match is in the season{followed_words(moved)}", moved.change)
    forget_reader()
    return redirect(url_for("season.whole", week=form.played_on.data.isoformat()))


@blueprint.post("/season/matches/move")
@allow(Act.PLAN)
def match_moved() -> ResponseReturnValue:
    """A match on another day: what was dragged, `match` and the day `to`."""
    here = context()
    try:
        to = plain_day(request.form.get("to", ""))
    except ValueError:
        raise NotThere("day") from None
    with database().writing() as db:
        row = match_of(acting(db), request.form.get("match", 0, type=number))
        facts = MatchFacts(to, row.important, row.away, row.opponent, row.competition)
        moved = move_match(acting(db), here, row.id, facts)
    said_with_undo(f"The match is on {daydate_words(to)} now{followed_words(moved)}", moved.change)
    forget_reader()
    return redirect(url_for("season.whole", week=monday_of(to).isoformat()))


@blueprint.post("/season/matches/<int:match_id>/drop")
@allow(Act.PLAN)
def match_dropped(match_id: int) -> ResponseReturnValue:
    """It is not played."""
    with database().writing() as db:
        moved = move_match(acting(db), context(), match_id, None)
    return _done(f"The match is dropped{followed_words(moved)}", moved.change)


@blueprint.post("/season/marks")
@allow(Act.PLAN)
def mark() -> ResponseReturnValue:
    """A phase, a holiday, a trip, a camp, days of tests."""
    here, form = context(), MarkForm()

    def write() -> int:
        with database().writing() as db:
            return add_mark(acting(db), here.season_id, form.facts()).id

    change_id = form.submitted(write)
    if change_id is None:
        return _page(mark_form=form, status=422)
    said_with_undo("It is in the season.", change_id)
    return redirect(url_for("season.whole", week=here.week.isoformat()))


@blueprint.post("/season/marks/<int:mark_id>/drop")
@allow(Act.PLAN)
def mark_dropped(mark_id: int) -> ResponseReturnValue:
    """It is not so after all."""
    with database().writing() as db:
        change = drop_mark(acting(db), mark_id)
    return _done("Taken out of the season.", change)


@blueprint.post("/season/fit")
@allow(Act.PLAN)
def fit() -> ResponseReturnValue:
    """Take what is proposed for the chosen week, or the one thing named."""
    one, act = request.form.get("session", type=number), request.form.get("act", "")
    wanted = {(one, act)} if one is not None else None
    with database().writing() as db:
        change, count = fit_week(acting(db), context(), wanted)
    done = "Done" if count == 1 else f"{count} things done"
    return _done(f"{done}. Days count right away; lighter loads are a draft until they are published.", change)


@blueprint.post("/season/sessions/<int:session_id>/<int:nth>")
@allow(Act.PLAN)
def day_changed(session_id: int, nth: int) -> ResponseReturnValue:
    """Hold a session of one week on another day, leave it out (`on`: its work is done next time), or hold it as it is."""
    what, here = request.form.get("what", ""), context()
    to = request.form.get("to", type=int)
    if what not in ("out", "on", "hold", "ask", "move") or (what == "move" and to not in range(7)):
        raise NotThere("day")
    with database().writing() as db:
        if what in ("out", "on"):
            change = leave_out(acting(db), [session_id], nth, moves_on=what == "on")
        elif what in ("hold", "ask"):
            change = hold_session(acting(db), session_id, nth, kept=what == "hold")
        else:
            day = here.week + dt.timedelta(days=to or 0)
            change = move_session(acting(db), session_id, nth, day)
    words = "The week is changed, on the floor and on cards too." if change else "It is so already."
    return _done(words + MOVED_ON * (what == "on"), change)


@blueprint.post("/season/sessions/<int:session_id>/<int:nth>/alone")
@allow(Act.PLAN)
def own_day_moved(session_id: int, nth: int) -> ResponseReturnValue:
    """One athlete alone does a session of the week on another day."""
    who, to = request.form.get("athlete", type=number), request.form.get("to", type=int)
    if who is None or to not in range(7):
        raise NotThere("day")
    day = context().week + dt.timedelta(days=to or 0)
    with database().writing() as db:
        change = move_for(acting(db), (session_id, nth, who), day)
    return _done("Moved for one athlete, on the floor and on the card too." if change else "It is so already.", change)


def _done(words: str, change: Change | None) -> ResponseReturnValue:
    said_with_undo(words, change)
    forget_reader()
    return redirect(url_for("season.whole", week=context().week.isoformat()))
