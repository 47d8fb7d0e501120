"""Milestones of every kind: set for everybody, a group or one, judged from what there is, and never by a wish."""

import datetime as dt
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.rules import Rules
from backsquat.core.season.milestone import Status, judge_attended, judge_value
from backsquat.core.season.trend import Point
from backsquat.storage.models import Athlete, Milestone, SetEntry, Squad
from backsquat.work.overview.attendance import attendance
from backsquat.work.season.milestones import MilestoneStanding, goals
from backsquat.work.squad.context import context_of
from tests.demo_club import athlete_id, reading, undo_of

TODAY, DUE = dt.date(2026, 11, 23), "2026-12-20"
RULES = Rules()


def set_one(client: FlaskClient, **said: str) -> str:
    data = {"who": "everybody", "kind": "load", "what": "", "amount": "", "load_kg": "", "due_on": DUE} | said
    return client.post("/milestones/", data=data, follow_redirects=True).text


def standings(app: Flask, kind: str) -> dict[str, MilestoneStanding]:
    """Everybody's standing in the milestones of a kind, as the page judges them."""
    with reading(app) as db:
        here = context_of(db, db.scalars(select(Squad)).one(), RULES, TODAY, None)
        found = [one for goal in goals(db, here) for one in goal.standings if one.milestone.kind == kind]
        return {one.athlete.name: one for one in found}


def set_for(app: Flask, kind: str) -> set[str]:
    with reading(app) as db:
        rows = select(Athlete.name).join(Milestone, Milestone.athlete_id == Athlete.id)
        return set(db.scalars(rows.where(Milestone.kind == kind, ~Milestone.dropped)))


# --- for whom


def test_a_batch_for_a_position_or_the_young_and_one_athlete(app: Flask, client: FlaskClient) -> None:
    page = client.get("/milestones/").text
    assert "pivot, 3" in page and "minors, 2" in page
    done = set_one(client, who="position pivot", kind="reps", what="back squat", amount="8", load_kg="70")
    assert "Set for 3 athletes." in done and "Back squat 8 × 70 kg" in done
    assert set_for(app, "reps") == {"Marit Holm", "Jorunn Petit", "Wren Achterberg"}
    set_one(client, who="minors", kind="sessions", amount="10")
    assert set_for(app, "sessions") == {"Suri Valdez", "Alma Brekke"}
    ines = str(athlete_id(app, "Ines Okafor"))
    assert "Set for 1 athlete." in set_one(client, who=ines, kind="screen", what="Countermovement jump", amount="38")
    again = set_one(client, who="position pivot", kind="reps", what="Back squat", amount="10", load_kg="70")
    assert "Back squat 10 × 70 kg" in again and "Back squat 8 × 70 kg" not in again
    client.post(undo_of(again))
    assert "Back squat 8 × 70 kg" in client.get("/milestones/").text


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ({"kind": "reps", "what": "Back squat", "amount": "8"}, "from 10 to 400"),
        ({"kind": "reps", "what": "Back squat", "amount": "8.5", "load_kg": "60"}, "whole number"),
        ({"kind": "reps", "what": "Moon squat", "amount": "8", "load_kg": "60"}, "No movement of this name"),
        ({"kind": "screen", "what": "Back squat", "amount": "8"}, "No screen of this name"),
        ({"kind": "screen", "what": "Knee to wall", "amount": "900"}, "from 0 to 400"),
        ({"kind": "seconds", "what": "Bridge hold", "amount": "2"}, "from 5 to 600"),
        ({"kind": "sessions"}, "fill this in"),
        ({"kind": "moon", "amount": "3"}, "Not a valid choice"),
        ({"who": "99999", "kind": "sessions", "amount": "3"}, "Not a valid choice"),
        ({"kind": "sessions", "amount": "nan"}, "Write a number"),
    ],
)
def test_what_cannot_be_is_said_and_nothing_is_set(
    app: Flask, client: FlaskClient, said: dict[str, str], words: str
) -> None:
    with reading(app) as db:
        before = len(db.scalars(select(Milestone.id)).all())
    assert words in set_one(client, **said)
    with reading(app) as db:
        assert len(db.scalars(select(Milestone.id)).all()) == before


# --- judged from what there is


def test_reps_at_a_load_are_done_once_they_were_shown(app: Flask, client: FlaskClient) -> None:
    """Strong enough by estimate is not shown: only a set of so many reps to depth is."""
    marit = athlete_id(app, "Marit Holm")
    with reading(app) as db:
        sets = db.scalars(
            select(SetEntry).where(SetEntry.athlete_id == marit, SetEntry.movement == "back_squat", SetEntry.standing)
        ).all()
        most = max(entry.reps_to_depth for entry in sets if entry.load_kg >= 60)
    who = str(marit)
    set_one(client, who=who, kind="reps", what="Back squat", amount=str(most), load_kg="60")
    assert standings(app, "reps")["Marit Holm"].judgement.status is Status.DONE
    set_one(client, who=who, kind="reps", what="Back squat", amount=str(most + 2), load_kg="60")
    found = standings(app, "reps")["Marit Holm"].judgement
    assert found.status is Status.ON_COURSE and not found.sure, "she could, and nobody has seen it"
    set_one(client, who=who, kind="reps", what="Back squat", amount="8", load_kg="300")
    assert standings(app, "reps")["Marit Holm"].judgement.status in (Status.OUT_OF_REACH, Status.BEHIND)


def test_sessions_count_from_the_day_it_was_set_and_only_those_planned(app: Flask, client: FlaskClient) -> None:
    set_one(client, kind="sessions", amount="3")
    found = standings(app, "sessions")
    marit, jorunn = found["Marit Holm"].judgement, found["Noor Visser"].judgement
    facts = marit.working.steps[0].facts
    assert facts["done"] == 0 and facts["ahead"] >= 4 and marit.status is Status.ON_COURSE
    assert jorunn.status is not Status.DONE
    page = client.get("/milestones/").text
    assert "3 sessions attended" in page and "0 attended, " in page
    with app.extensions["database"].writing() as db:
        for row in db.scalars(select(Milestone).where(Milestone.kind == "sessions")):
            row.at = dt.datetime(2026, 9, 14, 8)
    found = standings(app, "sessions")
    with reading(app) as db:  # the same as who trained says of these weeks
        here = context_of(db, db.scalars(select(Squad)).one(), RULES, TODAY, None)
        came = {one.athlete.name: one.done for one in attendance(db, here, dt.date(2026, 9, 14), TODAY)}
    assert came["Marit Holm"] > 8
    for name, one in found.items():
        assert one.judgement.working.steps[0].facts["done"] == came[name], name


def test_a_screen_is_judged_by_the_worse_side_and_less_can_be_better(app: Flask, client: FlaskClient) -> None:
    set_one(client, kind="screen", what="knee to wall", amount="9")
    found = standings(app, "screen")
    assert found["Marit Holm"].judgement.status is Status.DONE
    assert found["Petra Skov"].judgement.status is not Status.DONE, "her left ankle is three centimetres short"
    assert "not yet: 8" in client.get("/milestones/").text, "what there is, not that there are too few weeks"
    set_one(client, kind="screen", what="Trunk angle, landing", amount="40")
    page = client.get("/milestones/").text
    assert "Trunk angle, landing 40 °" in page
    less = {
        name: one.judgement.status for name, one in standings(app, "screen").items()
        if one.milestone.movement == "trunk_landing"
    }  # fmt: skip
    assert less["Marit Holm"] is Status.DONE and less["Rania Haddad"] is not Status.DONE


def test_seconds_are_of_holds(app: Flask, client: FlaskClient) -> None:
    """Done at what was held, not done at a second more; who never held says so."""
    movement, best, name = "Copenhagen plank, whole lower leg on the bench", 25, "Marit Holm"
    with app.extensions["database"].writing() as db:  # the demo's club holds nothing: one of its sets was a hold
        marit = db.scalars(select(Athlete).where(Athlete.name == name)).one()
        held = db.scalars(select(SetEntry).where(SetEntry.athlete_id == marit.id, SetEntry.standing)).first()
        assert held is not None
        held.movement, held.hold_s, held.reps, who = "groin_plank_long", best, 1, str(marit.id)
    for amount, status in ((best, Status.DONE), (best + 1, Status.NO_DATA)):
        set_one(client, who=who, kind="seconds", what=movement, amount=str(amount))
        found = standings(app, "seconds")[name].judgement
        assert (found.status is Status.DONE) is (status is Status.DONE), amount
    set_one(client, who=str(athlete_id(app, "Noor Visser")), kind="seconds", what=movement, amount="20")
    assert standings(app, "seconds")["Noor Visser"].judgement.status is Status.NO_DATA


def test_the_other_kinds_stand_on_the_athletes_page_and_the_squads(app: Flask, client: FlaskClient) -> None:
    noor = athlete_id(app, "Noor Visser")
    set_one(client, who=str(noor), kind="sessions", amount="6")
    assert "6 sessions attended" in client.get(f"/athletes/{noor}").text
    assert "6 sessions attended" in client.get("/").text and "6 sessions attended" in client.get("/season/").text


# --- the rule of it


@pytest.mark.parametrize(
    ("came", "status"),
    [((10, 0, 1.0), Status.DONE), ((4, 5, 1.0), Status.OUT_OF_REACH), ((4, 8, 0.9), Status.ON_COURSE),
     ((4, 8, 0.5), Status.BEHIND)],
)  # fmt: skip
def test_sessions_by_hand(came: tuple[int, int, float], status: Status) -> None:
    found = judge_attended(*came, 10, TODAY + dt.timedelta(days=30), TODAY)
    assert found.status is status and found.working.steps[0].output == 10
    late = judge_attended(4, 0, 1.0, 10, TODAY - dt.timedelta(days=1), TODAY)
    assert late.status is Status.MISSED


def test_less_is_better_turned_round_is_the_same() -> None:
    """A value that falls by one a week, and its mirror that rises: the same days, and working in true numbers."""
    days = [TODAY - dt.timedelta(weeks=n) for n in range(8, 0, -1)]
    due = TODAY + dt.timedelta(weeks=8)
    falls = judge_value([Point(day, 50.0 - n) for n, day in enumerate(days)], 38.0, due, RULES, TODAY, "°", less=True)
    rises = judge_value([Point(day, 50.0 + n) for n, day in enumerate(days)], 62.0, due, RULES, TODAY, "°")
    assert (falls.status, falls.expected_on) == (rises.status, rises.expected_on) and falls.status is Status.ON_COURSE
    steps: dict[str, Any] = {step.code: step for step in falls.working.steps}
    assert steps["target"].output == 38.0 and steps["target"].unit == "°"
    assert steps["trend"].output == pytest.approx(-1.0) and steps["trend"].facts["low"] <= steps["trend"].facts["high"]
    reached = judge_value([Point(days[0], 37.0)], 38.0, due, RULES, TODAY, "°", less=True)
    assert reached.status is Status.DONE
