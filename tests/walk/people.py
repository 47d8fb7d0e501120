"""A squad and the people who use it: made from nothing in a room of its own, or the demo's; a clock that is moved."""

import datetime as dt
import io
import json
import random
import re
import traceback
from dataclasses import dataclass, field, replace
from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.clock import Clock
from backsquat.core.roles import Role
from backsquat.library.usual_rooms import usual_rooms
from backsquat.storage.models import Athlete, Squad, User
from backsquat.work.accounts.people import add_person
from backsquat.work.squad.first import FirstFacts, make_first
from tests.empty import empty_data
from tests.walk.forms import A_FILE, FILES, filled, forms_in

MONDAY = dt.datetime(2026, 10, 19, 17)  # the week in which summer time ends
COACH, PASSWORD = "coach", "violet ladder morning"
STAFF = ("coach", "assistant", "physio")


class MovedClock(Clock):
    """A clock that stands until somebody moves it."""

    def __init__(self, at: dt.datetime) -> None:
        super().__init__(at.date())
        self.at = at

    def now(self) -> dt.datetime:
        return self.at

    def real(self) -> dt.datetime:
        return dt.datetime.now().replace(microsecond=0)


@dataclass(frozen=True)
class Step:
    """What somebody does: opens an address, sends a form, hands in a parcel; or hours pass before anybody does."""

    who: str = "coach"
    path: str = "/"
    form: dict[str, list[str]] | None = None
    parcel: dict[str, Any] | None = None
    hours: float = 0

    def __repr__(self) -> str:
        usual = Step()
        said = [f"{name}={value!r}" for name, value in vars(self).items() if value != getattr(usual, name)]
        return f"Step({', '.join(said)})"


class Broken(Exception):
    """What must always be so is not; `sign` names the fault, however it was come by."""

    def __init__(self, sign: str, words: str = "") -> None:
        super().__init__(f"{sign} {words}")
        self.sign = sign


@dataclass
class Company:
    """Everybody at their own device. `seen` is what the laws remember from step to step."""

    app: Flask
    clients: dict[str, FlaskClient]
    clock: MovedClock
    athletes: dict[str, int] = field(default_factory=dict)  # name → id, of those with a phone
    seen: dict[str, Any] = field(default_factory=dict)
    page: str = ""
    status: int = 0
    posted: int = 0  # how the last thing that was sent was answered; laws open pages after it

    @property
    def roles(self) -> list[str]:
        return list(self.clients)

    def reader(self) -> Session:
        return self.app.extensions["database"].reader()  # type: ignore[no-any-return]

    def do(self, step: Step) -> str:
        """Do one step; Broken where it is answered by a fault. Returns the page."""
        self.clock.at += dt.timedelta(hours=step.hours, minutes=1)
        self.clock.fixed_day = self.clock.at.date()
        client = self.clients.get(step.who)
        if client is None:
            return ""
        try:
            if step.parcel is not None:
                body = json.dumps(step.parcel)
                answer = client.post(step.path, data=body, content_type="application/json")
            elif step.form is not None:
                answer = client.post(step.path, data={name: _handed_in(one) for name, one in step.form.items()})
            else:
                answer = client.get(step.path)
        except Exception as error:
            raise Broken(sign_of(error), f"at {step.path} by {step.who}") from error
        if answer.status_code >= 500:
            raise Broken(f"{answer.status_code} at {re.sub(r'[0-9]+', 'n', step.path)}")
        self.page, self.status = answer.data.decode(errors="replace"), answer.status_code
        if step.form is not None or step.parcel is not None:
            self.posted = answer.status_code
        return self.page

    def get(self, who: str, path: str) -> str:
        """A page, without a minute passing."""
        self.clock.at -= dt.timedelta(minutes=1)
        return self.do(Step(who, path))


def _handed_in(values: list[str]) -> Any:
    """What is sent of a field: its values, or the file a story names."""
    if values and values[0].startswith(A_FILE):
        name = values[0].removeprefix(A_FILE)
        return (io.BytesIO(FILES[name]), name)
    return values


def sign_of(error: BaseException) -> str:
    """What broke and where: the innermost line of ours."""
    ours = [one for one in traceback.extract_tb(error.__traceback__) if "backsquat" in one.filename]
    at = f"{ours[-1].filename.rsplit('backsquat/', 1)[-1]}:{ours[-1].name}" if ours else "?"
    return f"{type(error).__name__} in {at}: {re.sub(r'[0-9]+', 'n', str(error))[:60]}"


def from_nothing(app: Flask, seed: int) -> Company:
    """A squad with its people and a room by chance, and nobody to lift yet."""
    database = app.extensions["database"]
    database.close()
    for path in database.path.parent.glob(f"{database.path.name}*"):
        path.unlink()
    empty_data(database.path)
    app.extensions["slow"].forget()
    clock = app.extensions["clock"] = MovedClock(MONDAY)
    dice = random.Random(seed)
    with database.writing() as db:
        first = FirstFacts("Fresh Club", "First", MONDAY.date(), 40, "Coach", COACH, PASSWORD)
        squad = make_first(db, first, clock.now(), 1).id
        for role in (Role.ASSISTANT, Role.PHYSIO):
            add_person(db, sign_in=role.value, name=role.value, password=None, squad_id=squad, role=role, cost=1)
        users = {user.sign_in: user.id for user in db.scalars(select(User))}
    company = Company(app, {}, clock)
    for role in STAFF:
        company.clients[role] = app.test_client()
        company.clients[role].post(f"/demo-sign-in/{users[role]}")
    company.do(_room(company, dice))
    assert company.status == 302, company.page
    return company


def _room(company: Company, dice: random.Random) -> Step:
    """A usual room, which may have lost what some movements need."""
    page = company.get("coach", f"/room/?like={dice.choice(sorted(usual_rooms()))}")
    form = next(one for one in forms_in(page) if one.path.split("?")[0] == "/room/")
    sent = filled(form, dice, company.clock.today(), wild=0, change=0)
    sent["equipment"] = [one for one in sent.get("equipment", []) if dice.random() > 0.1]
    return Step("coach", "/room/", sent)


def of_demo(app: Flask) -> Company:
    """The people of the demo as it stands."""
    clock = app.extensions["clock"] = MovedClock(dt.datetime(2026, 11, 23, 17))
    company = Company(app, {}, clock)
    for role, sign_in in zip(STAFF, (None, "lund", "ferro"), strict=True):
        company.clients[role] = app.test_client()
        with company.reader() as db:
            user = 1 if sign_in is None else db.scalars(select(User.id).where(User.sign_in == sign_in)).one()
        company.clients[role].post(f"/demo-sign-in/{user}")
    return company


def with_phone(company: Company, athlete_id: int, name: str) -> None:
    """The athlete comes in on the own phone by the coach's link."""
    page = company.clients["coach"].post(f"/athletes/{athlete_id}/phone").get_data(as_text=True)
    found = re.search(r"<code>http://[^/]+(/come-in/[^<]+)</code>", page)
    if found:
        phone = company.app.test_client()
        phone.post(found.group(1))
        company.clients[name] = phone
        company.athletes[name] = athlete_id


def athletes_of(company: Company) -> list[Athlete]:
    with company.reader() as db:
        squad = db.scalars(select(Squad.id)).first()
        return list(db.scalars(select(Athlete).where(Athlete.squad_id == squad, Athlete.active)))


def without(steps: list[Step], at: int, count: int) -> list[Step]:
    """A story without some of its steps; the hours they took pass all the same."""
    gone = sum(step.hours for step in steps[at : at + count])
    left = [*steps[:at], *steps[at + count :]]
    if gone and at < len(left):
        left[at] = replace(left[at], hours=left[at].hours + gone)
    return left
