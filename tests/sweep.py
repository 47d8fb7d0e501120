"""Every route with somebody else's ids, by every role of another squad: what it answers, and whether any row changed."""

import datetime as dt
import random
import re
from collections.abc import Iterator
from typing import Any

from flask import Flask
from sqlalchemy import Table, select, update
from werkzeug.routing import Rule

from backsquat.core.roles import Role
from backsquat.core.sessions.running import ActKind
from backsquat.storage.models import (
    Base,
    BlockSession,
    CalendarAddress,
    Membership,
    Milestone,
    MovementFrame,
    MovementPicture,
    Season,
    SessionAct,
    Squad,
)
from backsquat.work.accounts.people import add_person

WORDS = {
    "code",
    "kind",
    "token",
    "filename",
}  # arguments that are no row of anybody's: what they show is asked for elsewhere
IDS = {  # argument of an address → the table (and column) its numbers are of
    "act_id": "session_acts", "squad_id": "squads", "batch": "milestones.batch",
    "absence_id": "absences", "address_id": "calendar_addresses", "assignment_id": "room_assignments", "athlete_id": "athletes", "block_id": "blocks",
    "cell_id": "cells", "change_id": "changes", "decision_id": "decisions", "entry_id": "set_entries",
    "limit_id": "limits", "milestone_id": "milestones", "note_id": "health_notes", "room_id": "rooms",
    "pass_id": "athlete_passes", "session_id": "block_sessions", "exercise_id": "exercises", "stop_id": "stops", "user_id": "users", "number": "",
    "match_id": "matches", "mark_id": "season_marks", "still_id": "stills", "frame_id": "movement_frames", "picture_id": "movement_pictures", "nth": "",
}  # fmt: skip
OWN = {"sign_ins", "audit_lines", "one_time_links", "readings"}  # grow with whoever comes by
BODY = {  # something for every form: what it asks for is there, with the other squad's ids where it takes some
    "load": "60", "reps": "5", "reserve_reps": "2", "pain": "0", "reason": "because I say so", "code": "up",
    "name": "Nobody", "born_on": "2001-01-01", "consent": "y", "words": "x", "by": "X. Y.", "role": "physio",
    "on": "2026-11-23", "limits": "none", "first_on": "2026-11-23", "back_on": "2026-11-23", "why": "away",
    "cleared": "X. Y.", "ready": "1", "station": "Rack 1", "movement": "back_squat", "field": "stance", "value": "1",
    "choice": "repeat", "day": "0", "progression": "wave", "client_id": "sweep", "readiness_check": "barbell", "kind": "kilograms",
    "amount": "100", "due_on": "2027-02-01", "way": "later", "sets": "3", "what": "Back squat", "loads": "60",
    "played_on": "2026-11-28", "last_on": "2026-11-24", "to": "3", "act": "leave_out",
    "hip": "300 300", "screen": "trunk_squat", "sure": "yes",
    "done_on": "2026-11-23", "sleep": "3", "soreness": "3", "stress": "3", "back": "3", "depth": "thigh_level",
}  # fmt: skip


def other_people(app: Flask) -> dict[Role, int]:
    """A squad beside the demo's, with somebody of every role: role → their id."""
    with app.extensions["database"].writing() as db:
        squad = Squad(club="Elsewhere", name="second")
        db.add(squad)
        db.flush()
        db.add(Season(squad_id=squad.id, name="2026", first_week=dt.date(2026, 7, 6), weeks=40))
        about: dict[str, Any] = {"password": "violet ladder morning", "squad_id": squad.id, "cost": 1}
        return {role: add_person(db, sign_in=f"x-{role}", name=f"X. {role}", role=role, **about).id for role in Role}


def rows(app: Flask) -> dict[str, dict[Any, tuple[Any, ...]]]:
    """Every row of every table by its key."""
    found = {}
    with app.extensions["database"].reader() as db:
        for table in Base.metadata.sorted_tables:
            keys = [list(table.c).index(column) for column in table.primary_key]
            found[table.name] = {
                tuple(row[key] for key in keys): tuple(map(str, row)) for row in db.execute(select(table))
            }
    return found


def ids_of_demo(app: Flask, most: int, seed: int = 1) -> dict[str, list[Any]]:
    """Numbers of the demo squad's rows for every argument of an address."""
    dice, found = random.Random(seed), {}
    tables: dict[str, Table] = {table.name: table for table in Base.metadata.sorted_tables}
    with app.extensions["database"].reader() as db:
        theirs = set(db.scalars(select(Membership.user_id).where(Membership.squad_id == 1)))
        for argument, of in IDS.items():
            name, _, column = of.partition(".")
            ids = list(db.scalars(select(tables[name].c[column or "id"]).distinct())) if name else [1, 2]
            ids = [one for one in ids if one in theirs] if name == "users" else ids
            ids = [1] if name == "squads" else [one for one in ids if one not in ("", None)]
            found[argument] = dice.sample(ids, min(most, len(ids)))
    return found


def filled_up(app: Flask) -> None:
    """A row of every kind the demo has none of, so that no address goes untried."""
    at, by = dt.datetime(2026, 11, 23, 9), {"by_id": 1, "at": dt.datetime(2026, 11, 23, 9)}
    with app.extensions["database"].writing() as db:
        held = db.scalars(select(BlockSession).order_by(BlockSession.id.desc())).first()
        assert held is not None
        db.add(SessionAct(
            athlete_id=1, session_id=held.id, week=0, done_on=at.date(), what=ActKind.DRILL, facts={"movement": "crawling"}, **by
        ))  # fmt: skip
        db.add(CalendarAddress(squad_id=1, token="x" * 64, **by))
        picture = MovementPicture(squad_id=1, movement="back_squat", words="", **by)
        db.add(picture)
        db.flush()
        db.add(MovementFrame(picture_id=picture.id, number=0, pixels=b"x", width=1, height=1))
        db.execute(update(Milestone).values(batch="a-batch-of-theirs"))


def addresses(app: Flask, ids: dict[str, list[Any]]) -> Iterator[tuple[Rule, str, dict[str, str]]]:
    """Every route with ids of its own, as many as the longest list, and a body that names others of them.

    AssertionError where an address has an argument nobody has said anything about: it would go untried.
    """
    said = {name for rule in app.url_map.iter_rules() for name in rule.arguments}
    assert said <= IDS.keys() | WORDS, f"say of which table: {said - IDS.keys() - WORDS}"
    for rule in app.url_map.iter_rules():
        wanted = [name for name in rule.arguments if name in IDS]
        if rule.endpoint == "static" or not wanted:
            continue
        assert all(ids[name] for name in wanted), f"{rule.rule} would go untried"
        for nth in range(max(len(ids[name]) for name in wanted)):
            given = {name: ids[name][nth % len(ids[name])] for name in wanted if ids[name]}
            if len(given) < len(wanted):
                continue
            path = re.sub(
                r"<(?:[a-z]+:)?(\w+)>", lambda found, given=given: str(given.get(found.group(1), "x")), rule.rule
            )
            athlete, cell = (ids[name][nth % len(ids[name])] for name in ("athlete_id", "cell_id"))
            yield (
                rule,
                path,
                BODY | {"athlete": str(athlete), "cells": str(cell), "exercise": str(ids["exercise_id"][0])},
            )


def sweep(app: Flask, most: int) -> dict[str, int]:
    """Try it all; counts by status. AssertionError where anything of the demo squad was shown, or any of its rows changed."""
    people, secrets = other_people(app), ("Marit Holm", "Kestrel Point", "Lower back sore", "Beatriz Solheim")
    filled_up(app)
    ids, before, counts = ids_of_demo(app, most), rows(app), dict[str, int]()
    for role, user_id in people.items():
        client = app.test_client()
        client.post(f"/demo-sign-in/{user_id}")
        for rule, path, body in addresses(app, ids):
            if rule.endpoint == "accounts.demo_sign_in":  # the demo's own door for everybody
                continue
            for method in sorted((rule.methods or set()) & {"GET", "POST"}):
                answer = client.open(path, method=method, data=body if method == "POST" else None)
                counts[str(answer.status_code)] = counts.get(str(answer.status_code), 0) + 1
                assert answer.status_code < 500, (role, method, path)
                assert answer.status_code in (302, 403, 404, 405, 409, 422), (role, method, path, answer.status_code)
                assert not any(secret in answer.text for secret in secrets), (role, method, path)
    after = rows(app)
    for name, known in before.items():
        changed = {key for key, row in known.items() if after[name].get(key) != row} if name not in OWN else set()
        assert not changed, (name, changed)
    with app.extensions["database"].reader() as db:
        athletes = Base.metadata.tables["athletes"]
        theirs = {str(one) for one in db.scalars(select(athletes.c.id).where(athletes.c.squad_id == 1))}
    for table in Base.metadata.sorted_tables:
        if "athlete_id" in table.c and table.name not in OWN:
            place = list(table.c).index(table.c.athlete_id)
            new = [row for key, row in after[table.name].items() if key not in before[table.name]]
            assert not [row for row in new if row[place] in theirs], table.name
    return counts
