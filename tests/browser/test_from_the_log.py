"""From nine months of a coach's log to a block that is real: imported, typed, settled in one table, published; counted."""

import datetime as dt
import io
from pathlib import Path

from flask import Flask
from openpyxl import Workbook
from playwright.sync_api import Page, expect
from sqlalchemy import func, select

from backsquat.config import DEMO_DAY
from backsquat.storage.models import Block, SetEntry
from backsquat.work.actor import Actor
from backsquat.work.context import WorkContext
from backsquat.work.ladders.missing import missing_of
from backsquat.work.plan.filled import filled_of
from tests.browser.test_first_sunday import Newcomer, app, squad_with_a_room  # noqa: F401 - its squad from nothing
from tests.demo_club import reading

CLICKS_MOST, FIELDS_MOST = 60, 25
NAMES = ("Una Berg", "Tia Moen", "Liv Aas", "Pia Ros", "Ada Lien", "Eva Dahl", "Ida Strand", "Mia Haug", "Nora Vik",
         "Ella Foss", "Sara Lund", "Anna Ruud", "Lea Moe", "Maja Tveit", "Thea Eide", "Oda Solli", "Runa Bakke", "Siv Nes")  # fmt: skip
SELDOM, NEVER = NAMES[12:16], NAMES[16:]  # few days in the log, none at all
TYPED = """Monday
4 x 6 back squat RIR 2 rest 3 min
superset, rest 90:
3 x 8-10 goblet squat
3 x 12 calf raise with end hold + 20 s

Thursday
3 x 8 romanian deadlift
3 x 10 ball curl, two legs"""


def workbook() -> bytes:
    """A sheet of names and one of lifts: short names of lifts, merged days, RPE, reps first, a word nobody knows."""
    book = Workbook()
    players = book.active
    assert players is not None
    players.title = "Players"
    players.append(["Player", "DOB", "Guardian's consent"])
    for n, name in enumerate(NAMES):
        players.append([name, f"{1 + n}.4.{1998 + n % 6}" if name != "Siv Nes" else "3.5.2010", ""])
    log = book.create_sheet("Lifts")
    log.append(["what we did"])
    log.append(["Date", "Who", "Lift", "Set"])
    first = dt.date(2026, 2, 2)
    for week in range(38):
        day, top = first + dt.timedelta(weeks=week), log.max_row + 1
        lines = [
            (name, lift, f"{load + week % 4 * 2},5x5@8" if lift == "BSQ" else f"{load + week % 4 * 2}x8")
            for n, name in enumerate(NAMES)
            if name not in NEVER and (name not in SELDOM or week in (30, 33))
            for lift, load in (("BSQ", 50 + n), ("Romanian DL", 60 + n))
            if (week + n) % 3
        ]
        for m, line in enumerate(lines):
            log.append([None if m else day, *line])
        if len(lines) > 1:
            log.merge_cells(start_row=top, end_row=top + len(lines) - 1, start_column=1, end_column=1)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_from_the_log_to_a_block_that_is_real(page: Page, site: tuple[str, Flask], tmp_path: Path) -> None:
    address, app = site  # noqa: F811
    (tmp_path / "lifts.xlsx").write_bytes(workbook())
    page.set_viewport_size({"width": 1280, "height": 800})
    page.set_default_timeout(60_000)
    me = Newcomer(page)
    page.goto(address)
    squad_with_a_room(me)

    me.press("link", "Add the athletes")
    me.clicks += 1
    page.get_by_label("File").set_input_files(tmp_path / "lifts.xlsx")
    me.click(page.get_by_role("button", name="Show what it says").last)
    me.click(page.get_by_role("button", name="Open").first)
    me.press("button", "Store 18 lines")
    me.click(page.get_by_role("button", name="Open").last)
    for word, name in (("BSQ", "Back squat"), ("Romanian DL", "Romanian deadlift")):
        me.fields += 1
        page.get_by_label(f"What {word} is").select_option(label=name)
    me.press("button", "Read the list so")
    me.press("button", "Store 6")
    me.press("link", "Squad")

    me.press("link", "Plan a block")
    me.press("link", "Type it")
    me.type("Name", "After the summer")
    me.type("Exercises, one a line", TYPED)
    expect(page.locator("#understood").get_by_role("row")).to_have_count(6)
    me.press("button", "Work out the loads")
    me.press("link", "What is missing")
    me.press("link", "Exchange it")  # the room has no ball
    me.type("Exchange for", "nordic lowering only")
    me.press("button", "Exchange ball curl")
    me.press("link", "Sheet")
    me.press("link", "What is missing")
    me.press("checkbox", "All of them")
    me.press("button", "Settle what is ticked")
    me.press("link", "Sheet")
    me.press("button", "Publish")

    with reading(app) as db:
        block = db.scalars(select(Block)).one()
        context = WorkContext(db, Actor(1, 1, dt.datetime.combine(DEMO_DAY, dt.time(20))))
        told = {(one.athlete.name, exercise.id) for one in missing_of(context, block) for exercise in one.exercises}
        for filled in filled_of(db, block):  # real work for everybody, or a reason that was shown before Publish
            waiting = {exercise_id for _, exercise_id in told}
            assert filled.ready or filled.exercise.id in waiting, filled.exercise.movement
            assert filled.everybody == len(NAMES)
        squat = next(one for one in filled_of(db, block) if one.exercise.movement == "back_squat")
        in_the_log = db.scalar(select(func.count(SetEntry.athlete_id.distinct())))
        assert squat.own == in_the_log == 14  # who has lifted it squats; nobody else is under a bar
    print(f"{me.clicks} clicks, {me.fields} typed fields")
    said = (Path(__file__).parents[2] / "docs/benchmarks.md").read_text("utf-8")
    assert f"{me.clicks} clicks and {me.fields} typed fields" in said  # the document says what was counted
    assert me.clicks <= CLICKS_MOST and me.fields <= FIELDS_MOST
