"""What a set says is taken at its worst: pain that nobody rated is asked for, and of several faults the gravest counts."""

import datetime as dt
from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from uuid import uuid4

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from backsquat.core.errors import ImpossibleInput
from backsquat.core.loads.mass import Unit
from backsquat.core.pain import STOPPING
from backsquat.core.roles import Role
from backsquat.core.rules import Rules
from backsquat.storage.models import SetEntry, Stop
from backsquat.work.context import WorkContext
from backsquat.work.record.outside import log_level_work
from backsquat.work.record.record import Refused, SetFacts, may_correct
from tests.work.nothing import ACTOR, TODAY, from_nothing

RULES = Rules()


@pytest.fixture
def db(tmp_path: Path) -> Iterator[Session]:
    database = from_nothing(tmp_path)
    with database.writing() as db:
        yield db
        db.rollback()
    database.close()


def a_set(**changes: object) -> SetFacts:
    values: dict[str, object] = {"client_id": str(uuid4()), "load": Decimal(16), "unit": Unit.KG, "reps": 8}
    values |= {"reps_to_depth": 8, "reserve_reps": 3, "done_on": TODAY}
    return SetFacts(**(values | changes))  # type: ignore[arg-type]


def logged(db: Session, **changes: object) -> SetEntry:
    log_level_work(WorkContext(db, ACTOR), 1, "goblet_box_squat", [a_set(**changes)])
    return db.scalars(select(SetEntry).order_by(SetEntry.id.desc())).first()  # type: ignore[return-value]


@pytest.mark.parametrize("character", sorted(STOPPING))
def test_a_character_that_stops_without_a_number_is_asked_for_one_and_does_not_pass_as_no_pain(
    db: Session, character: str
) -> None:
    with pytest.raises(ImpossibleInput) as refused:
        logged(db, pain=0, pain_character=character)
    assert "pain_needs_level" in {problem.code for problem in refused.value.problems}
    assert not db.scalars(select(SetEntry)).all()


@pytest.mark.parametrize("faults", [("momentum", "knees_in"), ("knees_in", "momentum")])
def test_of_several_faults_the_gravest_is_the_sets_whichever_was_tapped_first(
    db: Session, faults: tuple[str, ...]
) -> None:
    entry = logged(db, faults=faults)
    assert (entry.fault, entry.fault_breaking, entry.faults) == ("knees_in", True, list(faults))


HURT = {"pain": 6, "pain_region": "knee", "pain_character": "dull"}


@pytest.mark.parametrize(
    ("who", "minutes", "refused"),
    [("its own reporter", 1, False), ("its own reporter", RULES.correct_pain_min, False),
     ("its own reporter", RULES.correct_pain_min + 1, True), ("another assistant", 1, True),
     ("another assistant", RULES.correct_pain_min + 1, True), ("the coach", 10_000, False)],
)  # fmt: skip
def test_pain_is_corrected_by_who_said_it_and_soon_or_by_coach_and_physio(
    db: Session, who: str, minutes: float, refused: bool
) -> None:
    entry = logged(db, **HURT)
    assert db.scalars(select(Stop)).one().set_id == entry.id
    now = entry.at + dt.timedelta(minutes=minutes)
    actor = {
        "its own reporter": replace(ACTOR, role=Role.ASSISTANT, now=now),
        "another assistant": replace(ACTOR, role=Role.ASSISTANT, user_id=99, now=now),
        "the coach": replace(ACTOR, now=now),
    }[who]
    if refused:
        with pytest.raises(Refused):
            may_correct(WorkContext(db, actor), entry)
    else:
        may_correct(WorkContext(db, actor), entry)
