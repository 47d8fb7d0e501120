"""What if: tried on a copy, beside today's, and taken as it was tried."""

import datetime as dt
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from backsquat.config import DEMO_DAY
from backsquat.core.progression.cell import Origin
from backsquat.core.progression.prescription import ExposureKind
from backsquat.storage.models import Block, Cell, Change, Match, SessionDay, Squad
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext, rules_of
from backsquat.work.overview.ahead import Ahead, Ask, ahead_of, beside
from backsquat.work.overview.what_if import Idea, WithMatch, WithoutWeek, WithProgression, take
from backsquat.work.plan.replan import replanned
from backsquat.work.season.matches import MatchFacts
from backsquat.work.sessions.blocks import squad_blocks
from backsquat.work.squad.context import SquadContext, context_of
from tests.demo_club import athlete_id, live_cell, reading, undo_of

WEEK = dt.date(2026, 12, 7)  # week 5 of the November wave, without a match
MIDWEEK = dt.date(2026, 12, 9)  # its hinge day
EXERCISE = 5  # its back squat


def standing_at(db: Session) -> tuple[SquadContext, Actor]:
    squad = db.scalars(select(Squad)).first()
    assert squad
    here = context_of(db, squad, rules_of(db, squad.id), DEMO_DAY, None)
    return here, Actor(1, squad.id, dt.datetime.combine(DEMO_DAY, dt.time(12)))


def ahead(app: Flask) -> Ahead:
    with reading(app) as db:
        return ahead_of(db, standing_at(db)[0])


def tried(app: Flask, *ideas: Idea) -> Ahead:
    with reading(app) as db:
        here, actor = standing_at(db)
        with app.extensions["database"].supposing() as copy:
            take(WorkContext(copy, actor), here, ideas, db)
            return ahead_of(copy, here)


def said(asks: Any) -> dict[tuple[int, int, int], tuple[Any, ...]]:
    return {place: (one.state, one.movement, one.sets, one.reps, one.load_kg) for place, one in asks.items()}


def counts(app: Flask) -> list[int]:
    with reading(app) as db:
        return [db.scalars(select(func.count()).select_from(table)).one() for table in (Cell, Change, Match)]


IDEAS = {
    "a week less": ("without.2026-12-07.on", WithoutWeek(WEEK)),
    "a match more": ("match.2026-12-09.c", WithMatch(MatchFacts(MIDWEEK, important=True))),
    "another progression": (f"progression.{EXERCISE}.fixed", WithProgression(EXERCISE, "fixed")),
}


@pytest.mark.parametrize("name", IDEAS)
def test_what_is_taken_is_what_was_tried_and_undo_gives_all_of_it_back(
    app: Flask, client: FlaskClient, name: str
) -> None:
    text, idea = IDEAS[name]
    today, kept = ahead(app), counts(app)
    then = tried(app, idea)
    page = client.get("/block/what-if", query_string={"idea": text})
    assert page.status_code == 200 and "Take it" in page.text
    assert counts(app) == kept and said(ahead(app).asks) == said(today.asks), "looking stores nothing"
    assert said(then.asks) != said(today.asks)
    done = client.post("/block/what-if", data={"idea": text}, follow_redirects=True).text
    now = ahead(app)
    assert said(now.asks) == said(then.asks) and now.days == then.days and now.out == then.out
    assert client.post(undo_of(done), follow_redirects=True).status_code == 200
    back = ahead(app)
    assert said(back.asks) == said(today.asks) and back.days == today.days
    with reading(app) as db:
        assert db.scalars(select(func.count()).select_from(Match).where(~Match.dropped)).one() == kept[2]


def rows(asks: Any, exercise: int = EXERCISE) -> dict[int, dict[int, Ask]]:
    found: dict[int, dict[int, Ask]] = {}
    for (exercise_id, who, week), one in asks.items():
        if exercise_id == exercise:
            found.setdefault(who, {})[week] = one
    return found


def test_the_work_of_a_week_left_out_is_done_a_week_later_and_nothing_climbs_past_it(app: Flask) -> None:
    today, then = ahead(app), tried(app, WithoutWeek(WEEK))
    with reading(app) as db:
        deload = set(
            db.scalars(
                select(Cell.week).where(Cell.exercise_id == EXERCISE, Cell.current, Cell.kind == ExposureKind.DELOAD)
            )
        )
        own = set(db.scalars(select(Cell.athlete_id).where(Cell.exercise_id == EXERCISE, Cell.origin == Origin.COACH)))
    own.add(athlete_id(app, "Beatriz Solheim"))  # stopped: nothing is moved onto her
    assert {3, 7} <= deload
    was, now = rows(today.asks), rows(then.asks)
    loaded = [
        who for who, weeks in was.items() if who not in own and all(n in weeks and weeks[n].load_kg for n in (4, 5, 6))
    ]
    assert len(loaded) > 10
    for who in loaded:
        assert 4 not in now[who], "nothing is asked in the week left out"
        assert [said({0: was[who][n]}) for n in (4, 5)] == [said({0: now[who][n]}) for n in (5, 6)]
        assert [was[who].get(n) for n in (2, 3, 7)] == [now[who].get(n) for n in (2, 3, 7)], (
            "before it and deload weeks: as before"
        )


def test_where_the_plan_stands_only_the_week_is_gone(app: Flask) -> None:
    today, then = ahead(app), tried(app, WithoutWeek(WEEK, moves_on=False))
    was, now = rows(today.asks), rows(then.asks)
    assert all(4 not in weeks for weeks in now.values())
    assert {who: {n: w for n, w in weeks.items() if n != 4} for who, weeks in was.items()} == now


def test_a_week_without_training_puts_milestones_off_by_a_week_and_another_progression_does_not(app: Flask) -> None:
    today = ahead(app)
    less, other = (
        beside(today, tried(app, WithoutWeek(WEEK))),
        beside(today, tried(app, WithProgression(EXERCISE, "fixed"))),
    )
    late = [
        (one.today.late_on, one.then.late_on)
        for one in less.goals
        if one.today.late_on and one.today.late_on > WEEK + dt.timedelta(days=7)
    ]
    assert len(late) >= 3 and all(then and then - was == dt.timedelta(days=7) for was, then in late if was)
    assert all(
        (one.today.early_on, one.today.late_on) == (one.then.early_on, one.then.late_on) for one in other.goals
    ), "nobody knows yet how they answer to a progression"
    assert any(one.asked_then != one.asked_today for one in other.goals), "what is asked for does move"


def test_no_idea_overrules_the_coach_or_what_was_decided(app: Flask, client: FlaskClient) -> None:
    """The coach's own number in the week after, and another decided on after a session, stand whatever is supposed."""
    own = live_cell(app, "Petra Skov", 5)
    client.post(f"/block/cells/{own.id}", data={"load": "70", "bar": own.bar})
    with reading(app) as db:
        decided = db.scalars(
            select(Cell).where(
                Cell.current, Cell.origin == Origin.DECISION, Cell.week >= 2, Cell.exercise_id == EXERCISE
            )
        ).all()
    assert decided
    today = ahead(app)
    mine = (own.exercise_id, own.athlete_id, own.week)
    assert today.asks[mine].load_kg == 70
    for ideas in ([WithoutWeek(WEEK)], [WithMatch(MatchFacts(MIDWEEK))], [WithoutWeek(WEEK, moves_on=False)]):
        then = tried(app, *ideas)
        assert then.asks[mine][:-1] == today.asks[mine][:-1]
    standing = tried(app, WithoutWeek(WEEK, moves_on=False)).asks
    for cell in decided:
        place = (cell.exercise_id, cell.athlete_id, cell.week)
        assert place not in today.asks or cell.week == 4 or standing[place] == today.asks[place]


def test_a_match_more_leaves_no_heavy_legs_the_day_before_it(app: Flask) -> None:
    then = tried(
        app, WithMatch(MatchFacts(WEEK + dt.timedelta(days=1), important=True))
    )  # a Tuesday: Monday is squat day
    held = {one.name: one for one in then.days.values() if one.week == WEEK}
    assert held["Squat day"].left_out or held["Squat day"].held_on not in (WEEK, WEEK + dt.timedelta(days=1))


def test_what_waited_to_be_planned_again_goes_on_waiting(app: Flask, client: FlaskClient) -> None:
    """A block whose numbers no longer follow from the room: an idea about another exercise does not slip that in."""
    with app.extensions["database"].writing() as db:
        _, actor = standing_at(db)
        cell = db.scalars(
            select(Cell).where(Cell.exercise_id == EXERCISE, Cell.current, Cell.week == 6, Cell.origin == Origin.PLAN)
        ).first()
        assert cell and cell.load_amount is not None
        cell.reps += 3  # what planning again would put right
        place = (cell.exercise_id, cell.athlete_id, cell.week)
        reps = cell.reps
    with reading(app) as db:
        block = squad_blocks(db, 1)[-1]
        found = [
            (one.exercise.id, one.draft.athlete_id, one.draft.week) for one in replanned(WorkContext(db, actor), block)
        ]
        assert place in found, "it waits"
    hinge = 7
    for idea in (WithoutWeek(dt.date(2026, 12, 28), moves_on=False), WithProgression(hinge, "fixed")):
        then = tried(app, idea)
        assert then.asks[place].reps == reps
    assert rows(then.asks, hinge) != rows(ahead(app).asks, hinge)


@pytest.mark.parametrize(
    ("query", "status", "words"),
    [
        ({"match": "2026-02-30"}, 422, "date"),
        ({"match": "2027-09-01"}, 422, "The season runs from"),
        ({"match": "2026-11-20"}, 422, "This day has passed"),
        ({"match": "2026-11-28"}, 422, "There is a match on this day already"),
        ({"exercise": str(EXERCISE), "progression": "wave"}, 422, "It follows this progression already"),
        ({"exercise": str(EXERCISE), "progression": "no such"}, 422, "What if"),
        ({"exercise": "9" * 30, "progression": "fixed"}, 422, "What if"),
        ({"without": "2026-12-08"}, 422, "What if"),
        ({"without": "2026-11-16"}, 422, "Nothing of this week remains"),
        ({"idea": ["without.2026-12-07.on", "without.2026-12-07.on"]}, 422, "Nothing of this week remains"),
        ({"idea": "nonsense"}, 404, "There is nothing here"),
        ({"idea": "progression.1.ladder"}, 404, "There is nothing here"),
        ({"idea": ["match.2026-12-09."] * 7}, 404, "There is nothing here"),
    ],
)
def test_what_cannot_be_done_is_said_and_stays_as_typed(
    app: Flask, client: FlaskClient, query: dict[str, Any], status: int, words: str
) -> None:
    kept = counts(app)
    page = client.get("/block/what-if", query_string=query)
    assert page.status_code == status and words in page.text
    if "match" in query:
        assert f'value="{query["match"]}"' in page.text
    taken = client.post("/block/what-if", data={"idea": query.get("idea", "nonsense")})
    assert taken.status_code in (302, 404) and counts(app) == kept


def test_the_copy_neither_waits_nor_is_waited_for_and_nothing_of_it_is_kept(app: Flask) -> None:
    database = app.extensions["database"]
    with database.writing() as writer:
        with database.supposing() as db:
            db.add(Block(squad_id=1, name="Supposed", first_week=WEEK, weeks=2, by_id=1, at=dt.datetime(2026, 11, 23)))
            db.flush()
            db.commit()
            assert db.scalars(select(Block.id).where(Block.name == "Supposed")).all()
        assert not writer.scalars(select(Block.id).where(Block.name == "Supposed")).all()


def test_a_session_left_out_by_one_click_has_its_work_done_next_time(app: Flask, client: FlaskClient) -> None:
    """The season's page does the same for one session; the other of the week stays as it is."""
    today = ahead(app)
    with reading(app) as db:
        row = db.scalars(select(SessionDay).where(SessionDay.held_on == WEEK)).one()
    address = f"/season/sessions/{row.session_id}/{row.week}"
    done = client.post(address, data={"week": WEEK.isoformat(), "what": "on"}, follow_redirects=True).text
    assert "Its work moves on as a draft." in done
    now = ahead(app)
    was, moved = rows(today.asks), rows(now.asks)
    who = next(who for who, weeks in was.items() if all(weeks[n].load_kg for n in (4, 5, 6)))
    assert said({0: was[who][4]}) == said({0: moved[who][5]})
    assert rows(today.asks, 7) == rows(now.asks, 7)
    client.post(undo_of(done))
    assert said(ahead(app).asks) == said(today.asks)


def test_a_week_left_out_moves_on_what_the_other_progression_asks_for_in_whatever_order_they_are_said(
    app: Flask,
) -> None:
    progression, less = WithProgression(EXERCISE, "fixed"), WithoutWeek(WEEK)
    alone, both = tried(app, progression), tried(app, less, progression)
    assert said(tried(app, progression, less).asks) == said(both.asks)
    was, now = rows(alone.asks), rows(both.asks)
    moved = [who for who, weeks in was.items() if 4 in weeks and now[who].get(5) and weeks[4].load_kg]
    assert sum(said({0: was[who][4]}) == said({0: now[who][5]}) for who in moved) > 10
    assert all(4 not in weeks for weeks in now.values())
