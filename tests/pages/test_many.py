"""The same said of several athletes at once: a readiness check, a level, their screens' levels; each by name, one undo for all."""

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.core.movements.movement import ReadinessCheck
from backsquat.storage.models import AuditLine, LevelMove, ReadinessClearance
from tests.demo_club import athlete_id, reading, undo_of

NAMES = ("Tove Lindqvist", "Petra Skov", "Alma Brekke")  # the last a minor without consent
REASON = "squat to standard, seen by me"


def ids(app: Flask) -> list[str]:
    return [str(athlete_id(app, name)) for name in NAMES]


def overrides(app: Flask) -> list[tuple[int, str, bool]]:
    with reading(app) as db:
        rows = db.scalars(select(ReadinessClearance).where(ReadinessClearance.reason == REASON)).all()
        return [(row.athlete_id, row.readiness_check, row.ended) for row in rows]


def test_several_are_let_through_each_by_name_and_reason_and_taken_back_together(
    app: Flask, client: FlaskClient
) -> None:
    data = {"what": "through", "readiness_check": "barbell", "athlete": ids(app), "reason": REASON}
    page = client.post("/screen/many", data=data, follow_redirects=True).text
    assert "3 cleared." in page
    assert [one for one, readiness_check, ended in overrides(app) if readiness_check == "barbell" and not ended] == [
        int(n) for n in ids(app)
    ]
    with reading(app) as db:
        noted = db.scalars(select(AuditLine).where(AuditLine.what == "readiness_cleared")).all()
        assert [str(line.about["athlete"]) for line in noted][-3:] == ids(app)
    alma = client.get(f"/ladders/{ids(app)[2]}").text
    assert "guardian" in alma  # a reason opens no readiness check of a minor without consent
    line = page.split("Alma Brekke</a>")[1].split("</tr>")[0]
    assert "cleared, but" in line and "no guardian&#39;s consent" in line and "missing" not in line
    assert (
        "Alma Brekke: cleared, but not ready for the bar yet: 16 years old, no guardian&#39;s consent on file." in page
    )
    assert page.count("cleared, but not ready") == 1
    assert client.post(undo_of(page)).status_code == 302
    assert {ended for _, _, ended in overrides(app)} == {True}


def test_one_shut_again_alone_stays_shut_when_the_others_are_undone(app: Flask, client: FlaskClient) -> None:
    data = {"what": "through", "readiness_check": "pull", "athlete": ids(app)[:2], "reason": REASON}
    page = client.post("/screen/many", data=data, follow_redirects=True).text
    client.post(f"/ladders/{ids(app)[0]}/override", data={"readiness_check": "pull", "end": "1"})
    assert client.post(undo_of(page)).status_code == 302
    assert {ended for _, _, ended in overrides(app)} == {True}


def test_on_a_level_whom_nothing_keeps_from_it(app: Flask, client: FlaskClient, assistant: FlaskClient) -> None:
    with reading(app) as db:
        from backsquat.work.context import library_of

        ladder = next(one for one in library_of(db, 1).ladders.values() if "back_squat" in sum(one.levels, ()))
    data = {"what": "level", "level": f"{ladder.code}:back_squat", "athlete": ids(app), "reason": REASON}
    page = assistant.post("/screen/many", data=data, follow_redirects=True).text
    assert "Alma Brekke: " in page and "2 put on the level." in page  # the readiness check is shut for her
    with reading(app) as db:
        moved = db.scalars(select(LevelMove.athlete_id).where(LevelMove.reason == REASON)).all()
    assert [str(one) for one in moved] == ids(app)[:2]
    moved_on = {"ladder": ladder.code, "movement": ladder.levels[0][0], "reason": "too early", "way": "easier"}
    assert client.post(f"/ladders/{ids(app)[0]}/move", data=moved_on).status_code == 302
    assert client.post(undo_of(page)).status_code == 302
    with reading(app) as db:
        newest = {
            one: db.scalars(
                select(LevelMove)
                .where(LevelMove.athlete_id == int(one), LevelMove.ladder == ladder.code)
                .order_by(LevelMove.id.desc())
            ).first()
            for one in ids(app)[:2]
        }
    assert newest[ids(app)[0]].reason == "too early"  # said since: it stands
    assert newest[ids(app)[1]].way == "taken back"


def test_what_is_missing_is_said_and_nothing_typed_is_lost(
    app: Flask, client: FlaskClient, assistant: FlaskClient
) -> None:
    data = {"what": "through", "readiness_check": ReadinessCheck.THRUST.value, "athlete": ids(app)[:1], "reason": "ok"}
    answer = client.post("/screen/many", data=data)
    assert answer.status_code == 422 and 'value="ok"' in answer.text
    assert f'value="{ids(app)[0]}" checked' in answer.text and 'value="thrust" selected' in answer.text
    assert client.post("/screen/many", data=data | {"athlete": [], "reason": REASON}).status_code == 422
    assert client.post("/screen/many", data=data | {"athlete": ["9999"], "reason": REASON}).status_code == 404
    assert client.post("/screen/many", data=data | {"readiness_check": "x", "reason": REASON}).status_code == 404
    assert client.post("/screen/many", data=data | {"what": "x"}).status_code == 404
    assert client.post("/screen/many", data=data | {"what": "level", "level": "", "reason": REASON}).status_code == 404
    assert assistant.post("/screen/many", data=data | {"reason": REASON}).status_code == 403
    assert not overrides(app)


def test_placed_by_what_their_screens_say(app: Flask, client: FlaskClient) -> None:
    with app.extensions["database"].writing() as db:
        for row in db.scalars(select(LevelMove).where(LevelMove.athlete_id == athlete_id(app, "Petra Skov"))):
            db.delete(row)
    page = client.post("/screen/many", data={"what": "place", "athlete": ids(app)}, follow_redirects=True).text
    assert "3 placed by their screens." in page
    with reading(app) as db:
        petra = LevelMove.athlete_id == athlete_id(app, "Petra Skov")
        assert len(db.scalars(select(LevelMove).where(petra)).all()) > 3
