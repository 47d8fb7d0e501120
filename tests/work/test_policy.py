"""Roles are checked in the operations too, whoever calls them: nothing of the database is needed to be refused."""

import ast
import datetime as dt
import re
from collections.abc import Callable
from inspect import Parameter, signature
from pathlib import Path
from typing import Any
from unittest.mock import Mock

import pytest

from backsquat.core.errors import NotAllowed
from backsquat.core.roles import Role
from backsquat.pages.request import ABOUT_HEALTH
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.decisions.answer import answer
from backsquat.work.decisions.propose import answer_week
from backsquat.work.health.absences import come_back, go_away, withdraw_absence
from backsquat.work.health.check_ins import check_in
from backsquat.work.health.limits import add_limit, end_limit
from backsquat.work.health.notes import add_note, end_note
from backsquat.work.health.stops import clear_stop, set_pain_line
from backsquat.work.ladders.readiness_checks import clear_with_reason, end_override
from backsquat.work.library.own_entries import put_entry
from backsquat.work.log.recount import change_rule
from backsquat.work.overview.what_if import take
from backsquat.work.plan.blocks import create_block
from backsquat.work.plan.cells import publish
from backsquat.work.plan.days import fit_week, hold_session, leave_out, move_session, unfit_week
from backsquat.work.plan.ease import ease_week
from backsquat.work.plan.edit import edit_cells
from backsquat.work.plan.exercises import (
    add_exercise,
    change_exercise,
    give_setting,
    move_exercise,
    remove_exercise,
    take_setting,
)
from backsquat.work.plan.fixes import fix
from backsquat.work.plan.match_moved import move_match
from backsquat.work.plan.own_day import move_for
from backsquat.work.plan.replan import replan
from backsquat.work.plan.room_assignments import assign_room, end_assignment, take_away
from backsquat.work.plan.versions import restore_version
from backsquat.work.policy import Act, may
from backsquat.work.readiness.screens import record_results
from backsquat.work.record.depth import choose_depth
from backsquat.work.record.floor import correct_set, end_exercise, log_sets, withdraw_set
from backsquat.work.record.outside import log_level_work, log_test
from backsquat.work.record.record import store_set
from backsquat.work.rooms.describe import check_station, save_room
from backsquat.work.season.milestones import add_milestone, drop_batch, drop_milestone, set_for_squad
from backsquat.work.squad.athletes import save_athlete
from backsquat.work.squad.passes import end_pass, give_pass
from backsquat.work.squad.set_ups import note_set_up

OF: dict[Act, tuple[Callable[..., Any], ...]] = {
    Act.PLAN: (
        *(answer, answer_week, change_rule, create_block, publish, ease_week, edit_cells, fix, replan),
        *(
            add_exercise,
            change_exercise,
            give_setting,
            move_exercise,
            remove_exercise,
            take_setting,
            restore_version,
            put_entry,
        ),
        *(hold_session, leave_out, move_for, move_session, fit_week, unfit_week, move_match, take),
        *(add_milestone, drop_milestone, set_for_squad, drop_batch),
    ),
    Act.TREAT: (
        *(come_back, go_away, withdraw_absence, add_limit, end_limit, add_note, end_note, clear_stop, set_pain_line),
    ),
    Act.LOG_OWN: (correct_set, end_exercise, log_sets, withdraw_set, store_set, check_in, note_set_up),
    Act.LOG: (log_test, log_level_work),
    Act.KEEP_ATHLETES: (end_override, clear_with_reason, choose_depth, save_athlete, give_pass, end_pass),
    Act.DESCRIBE_ROOM: (assign_room, end_assignment, take_away, save_room),
    Act.CHECK_STATION: (check_station,),
    Act.SCREEN: (record_results,),
}


@pytest.mark.parametrize(("act", "operation"), [(act, one) for act, many in OF.items() for one in many])
def test_an_operation_refuses_the_wrong_role(act: Act, operation: Callable[..., Any]) -> None:
    given = {
        name: None for name, one in signature(operation).parameters.items()
        if one.default is Parameter.empty and name != "context"
    }  # fmt: skip
    for role in Role:
        if not may(role, act):
            with pytest.raises(NotAllowed):
                operation(WorkContext(Mock(), Actor(1, 1, dt.datetime(2026, 11, 23), role)), **given)


def test_every_route_asks_the_policy_by_an_act() -> None:
    """`@allow(Act.…)` or `@allow_anyone` on every route, and no role named in a route."""
    for path in (Path(__file__).parents[2] / "src/backsquat/pages").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if not isinstance(node, ast.FunctionDef):
                continue
            marks = [ast.unparse(mark) for mark in node.decorator_list]
            if any(re.match(r"blueprint\.(get|post|put|patch|delete|route)\b", mark) for mark in marks):
                assert any(mark.startswith("allow(Act.") or mark == "allow_anyone" for mark in marks), node.name


PRIVACY = {  # line of the table in docs/PRIVACY.md → what the code asks for it, of staff and of an athlete
    "plans, sets, screens": (Act.READ_PLAN, Act.SEE_OWN),
    "who is in the squad, its athletes, their sets and e1RMs": (Act.SEE, Act.SEE_OWN),
    "why: pain, reasons of absence, health notes": (Act.TREAT, Act.SEE_OWN),
    "pictures from the side": (Act.LOOK, Act.SEE_OWN),
    "writes down that somebody is away, ill or injured": (Act.SAY_INJURED, None),
    "audit log": (Act.AUDIT, None),
    "export, erasure of somebody": (Act.EXPORT, None),
}
COLUMNS = {"head coach": Role.COACH, "physio": Role.PHYSIO, "assistant": Role.ASSISTANT, "athlete": Role.ATHLETE}


def test_who_sees_what_says_what_the_code_asks() -> None:
    """One table: every cell of PRIVACY against the roles of the act behind it, and against the second factor."""
    text = (Path(__file__).parents[2] / "docs/PRIVACY.md").read_text("utf-8")
    table = text.split("## Who sees what")[1].split("\n\n")[1].splitlines()
    heads = [one.strip() for one in table[0].split("|")[2:-1]]
    assert heads == list(COLUMNS)
    lines = {row.split("|")[1].strip(): [one.strip() for one in row.split("|")[2:-1]] for row in table[2:]}
    assert PRIVACY.keys() <= lines.keys()
    for what, (act, own) in PRIVACY.items():
        for said, role in zip(lines[what], COLUMNS.values(), strict=True):
            if role is Role.ATHLETE:
                assert (said == "no") is (own is None), (what, said)
                continue
            assert (said == "no") is not may(role, act), (what, role, said)
            assert ("second factor" in said) is (said != "no" and act in ABOUT_HEALTH), (what, role, said)
