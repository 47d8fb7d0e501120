"""What must be so after every step, whoever did what."""

import csv
import html
import json
import random
import re
import tempfile
from collections import Counter
from pathlib import Path
from typing import Any

from sqlalchemy import Text, select, type_coerce

from backsquat.core.progression.cell import State
from backsquat.formats.archive import unpacked
from backsquat.storage.archive import Tables, rows_of
from backsquat.storage.database import Database
from backsquat.storage.models import Athlete, Block, Cell, Exercise, SetEntry, Stop
from backsquat.work.exports.archive import open_archive
from tests.empty import empty_data
from tests.walk.forms import forms_in
from tests.walk.people import COACH, PASSWORD, Broken, Company, Step

MENU = ("/", "/screen/", "/movements/", "/room/", "/block/", "/session/", "/floor/", "/season/", "/review/",
        "/technique/", "/health-list/", "/export/", "/import/", "/milestones/", "/rules", "/audit", "/floor/pack",
        "/floor/paper/card", "/floor/paper/wall", "/season/trained", "/export/log.csv", "/export/sheet.csv",
        "/movements/choose", "/screen/many")  # fmt: skip
COACHES_WORD = re.compile(
    r"^/(block|review|season|session|undo|ladders|floor/shelf|health-list|movements|room|import|rules)(/|$)"
)
UNSAID = "What nobody said"


def stops_end_by_clearance(company: Company, step: Step) -> None:
    """An open stop is ended by a clearance and nothing else; what it locked when it was made stays locked."""
    open_before: dict[int, tuple[int, frozenset[str]]] = company.seen.setdefault("stops", {})
    with company.reader() as db:
        rows = db.execute(
            select(
                Stop.id,
                Stop.athlete_id,
                type_coerce(Stop.locked, Text),
                Stop.cleared_on,
                Stop.withdrawn,
                Stop.movement,
                Stop.region,
            )
        ).all()
    now = {row[0]: (row[1], frozenset(json.loads(row[2]))) for row in rows if row[3] is None and not row[4]}
    replaced = {(row[1], row[5], row[6]) for row in rows if row[3] is None and not row[4]}
    for stop, (athlete, _locked) in open_before.items():
        if stop in now or re.search(r"/(clear|undo|redo)(/|\?|$)", step.path):
            continue
        about = next((row for row in rows if row[0] == stop), None)
        if about is None or not (about[4] and (about[1], about[5], about[6]) in replaced):
            raise Broken("A stop ended without a clearance", f"{stop} of {athlete} by {step.path}")
    company.seen["stops"] = now


def locked_is_not_offered(company: Company, step: Step) -> None:
    """What an open stop locked is not on the device's list, for anybody."""
    if not company.seen.get("stops"):
        return
    locked: dict[int, frozenset[str]] = {}
    for athlete, codes in company.seen["stops"].values():
        locked[athlete] = locked.get(athlete, frozenset()) | codes
    pack = company.clients["coach"].get("/floor/pack").get_json()
    for held in pack["sessions"]:
        for athlete, mine in held["athletes"].items():
            for turn in mine["work"]:
                if not turn["over"] and turn["movement"] in locked.get(int(athlete), ()):
                    raise Broken("Offered although a stop locks it", f"{turn['movement']} to {athlete}")


def nothing_heavier_than_the_coach_said(company: Company, step: Step) -> None:
    """The floor asks no more than the number the coach typed last for that row, until the coach says otherwise."""
    words: dict[tuple[int, int, int], float] = company.seen.setdefault("words", {})
    if step.form is not None and step.who == "coach" and COACHES_WORD.match(step.path):
        words.clear()
        typed = re.fullmatch(r"/block/cells/(\d+)", step.path)
        if typed and company.posted == 302:
            with company.reader() as db:
                old = db.get(Cell, int(typed.group(1)))
                if old is not None:
                    same = (
                        Cell.exercise_id == old.exercise_id,
                        Cell.athlete_id == old.athlete_id,
                        Cell.week == old.week,
                    )
                    new = db.scalars(select(Cell).where(*same, Cell.current)).first()
                    if new is not None and new.load_kg is not None:
                        words[(new.exercise_id, new.athlete_id, new.week)] = new.load_kg
        return
    if not words:
        return
    with company.reader() as db:
        for (exercise, athlete, week), kg in words.items():
            for cell in db.scalars(
                select(Cell).where(
                    Cell.exercise_id == exercise, Cell.athlete_id == athlete, Cell.week == week, Cell.current
                )
            ):
                if (cell.load_kg or 0) > kg + 0.01:
                    raise Broken("Heavier than the coach's last word", f"{cell.load_kg} over {kg} by {step.path}")


def nobody_said_it(company: Company, step: Step) -> None:
    """No form of a set hands in what was left unless somebody says so; nothing is stored that was not sent."""
    for form in forms_in(company.page) if step.form is None else []:
        if re.match(r"/floor/(cells/\d+/sets)", form.path):
            for one in form.fields:
                if one.name in ("reserve_reps", "soreness", "felt") and one.value:
                    raise Broken(f"{UNSAID} is handed in", f"{one.name}={one.value} at {form.path}")
    sent = step.form or {}
    if not re.match(r"/floor/cells/\d+/sets", step.path) or company.posted not in (204, 302):
        return
    with company.reader() as db:
        entry = db.scalars(select(SetEntry).where(SetEntry.client_id == (sent.get("client_id") or [""])[0])).first()
        if entry is not None and entry.reserve_reps is not None and not (sent.get("reserve_reps") or [""])[0]:
            raise Broken(f"{UNSAID} is stored", f"reserve {entry.reserve_reps}")


def one_row_one_number(company: Company, step: Step) -> None:
    """Sheet and device say the same load for the same row, unless the floor says why not."""
    pack = company.clients["coach"].get("/floor/pack").get_json()
    turns = {
        turn["cell"]: turn
        for held in pack["sessions"]
        for mine in held["athletes"].values()
        for turn in mine["work"]
        if not turn["over"]
    }
    with company.reader() as db:
        cells = {cell.id: cell for cell in db.scalars(select(Cell).where(Cell.id.in_(turns)))}
        loaded = set(db.scalars(select(Exercise.movement).distinct()))
    for number, turn in turns.items():
        cell = cells.get(number)
        if cell is None or not cell.live:
            raise Broken("The device has a number that is not live", str(number))
        planned = f"{cell.load_amount:g}" if cell.load_amount is not None else ""
        heavier = turn["load"] and planned and float(turn["load"]) > float(planned) + 0.001
        if heavier and turn["movement"] in loaded and not turn["done"]:
            raise Broken("Sheet and device differ", f"{planned} and {turn['load']} of {turn['movement']}")
        if turn["load"] and float(turn["load"]) < 0 and cell.load_amount is not None and cell.load_amount >= 0:
            raise Broken("A load under nothing", str(number))


def every_page_opens(company: Company, dice: random.Random) -> None:
    """Every page of the menu opens for every role; an athlete's pages name nobody else."""
    with company.reader() as db:
        names = {one.id: one.name for one in db.scalars(select(Athlete))}
    for who in company.roles:
        for path in MENU:
            page = company.get(who, path)
            if who in company.athletes and company.status == 200:
                others = [
                    name
                    for number, name in names.items()
                    if number != company.athletes[who] and name not in (names[company.athletes[who]], who)
                ]
                for name in others:
                    if name in page:
                        raise Broken(f"{path} names somebody else to an athlete")
        for number in list(names)[:4] if who not in company.athletes else ():
            for path in (
                f"/athletes/{number}",
                f"/ladders/{number}",
                f"/screen/athlete/{number}",
                f"/technique/{number}",
                f"/health-list/{number}",
            ):
                company.get(who, path)


def kept_is_fresh(company: Company, dice: random.Random) -> None:
    """What is kept in memory equals what a fresh read says."""
    for path in ("/", "/block/", "/floor/", "/review/"):
        kept = _says(company, path)
        company.app.extensions["database"].forget()
        if _says(company, path) != kept:
            raise Broken(f"What is kept of {path} is not what is read")


def _says(company: Company, path: str) -> str:
    return re.sub(r'(content|value)="[\w.-]{60,}"|[0-9a-f-]{36}', "", company.get("coach", path))


def never_under_what_was_moved(company: Company, dice: random.Random) -> None:
    """The maximum is never below a load moved to depth that day."""
    from backsquat.storage.models import BeliefDay

    with company.reader() as db:
        for day in db.scalars(select(BeliefDay)):
            moved = [
                entry.load_kg
                for entry in db.scalars(
                    select(SetEntry).where(
                        SetEntry.athlete_id == day.athlete_id,
                        SetEntry.movement == day.movement,
                        SetEntry.done_on == day.done_on,
                        SetEntry.standing,
                        SetEntry.estimate_kg.is_not(None),
                    )
                )
            ]
            if moved and day.max_kg < max(moved) - 0.05:
                raise Broken("The maximum is below a load moved to depth", f"{day.max_kg:.1f} under {max(moved)}")


def planning_twice_changes_nothing(company: Company, step: Step) -> None:
    """Planning again right after planning again: nothing."""
    if not re.fullmatch(r"/block/\d+/replan", step.path) or step.form is None:
        company.seen.pop("planned", None)
        return
    if company.seen.get("planned") == step.path:
        page = company.get("coach", re.sub("/replan", "", step.path))
        if "cells replanned as a draft" in page:
            raise Broken("Planning again twice changes something the second time")
    else:
        company.get("coach", re.sub("/replan", "", step.path))  # its message is read
        company.seen["planned"] = step.path


def redo_is_exact(company: Company, step: Step) -> None:
    """Undo, then redo: every cell as it was."""
    if step.form is None:
        return
    before, now = company.seen.setdefault("before undo", {}), _cells(company)
    turned = re.search(r"/(undo|redo)/(\d+)", step.path) if company.posted == 302 else None
    if turned is None:
        before.clear()
    elif turned[1] == "undo" and "cells" in company.seen:
        before[turned[2]] = company.seen["cells"]
    elif turned[2] in before and before.pop(turned[2]) != now:
        raise Broken("Undo then redo is not exact", step.path)
    company.seen["cells"] = now


def _cells(company: Company) -> list[tuple[object, ...]]:
    with company.reader() as db:
        return [
            tuple(row)
            for row in db.execute(
                select(Cell.exercise_id, Cell.athlete_id, Cell.week, Cell.load_kg, Cell.sets, Cell.reps, Cell.state)
                .where(Cell.current)
                .order_by(Cell.exercise_id, Cell.athlete_id, Cell.week)
            )
        ]


EVERY_STEP = (
    stops_end_by_clearance, nothing_heavier_than_the_coach_said, nobody_said_it, planning_twice_changes_nothing, redo_is_exact,
)  # fmt: skip


def archive_is_the_squad(company: Company) -> None:
    """Handed out and opened in an empty place it is the same squad, row by row; its people come as names."""
    answer = company.clients["coach"].post("/export/squad.zip")
    found = unpacked(answer.data)
    with tempfile.TemporaryDirectory(prefix="backsquat-walk-") as folder:
        empty_data(Path(folder) / "d.sqlite3")
        other = Database(Path(folder) / "d.sqlite3")
        try:
            with other.writing() as db:
                open_archive(
                    db, found.tables, found.revision, sign_in=COACH, password=PASSWORD, now=company.clock.now(), cost=1
                )
            with other.reader() as there, company.reader() as here:
                was, now = rows_of(here.connection(), 1), rows_of(there.connection(), 1)
        finally:
            other.close()
    for name, rows in was.items():
        if name not in ("audit_lines", "users", "memberships") and rows != now[name]:
            raise Broken("Out of an archive comes another squad", name)
    names = {row["id"]: row["name"] for row in was["users"]}
    if any(names.get(row["id"]) != row["name"] for row in now["users"]):
        raise Broken("Out of an archive comes somebody with another name", "")
    may = [row["user_id"] for row in now["memberships"] if row["role"] not in ("athlete", "assistant")]
    if len(may) != 1 or sum(row["active"] for row in now["users"]) > 1 + len(athletes_in(was)):
        raise Broken("Out of an archive comes somebody with a role", str(may))


def athletes_in(tables: Tables) -> list[int]:
    """The accounts of athletes."""
    return [row["user_id"] for row in tables["memberships"] if row["role"] == "athlete"]


def card_and_device_say_the_same(company: Company, dice: random.Random) -> None:
    """What the floor's card asks of somebody and what the device took along: load and reps of the same work."""
    pack = company.clients["coach"].get("/floor/pack").get_json()
    lists = [(held, athlete, mine) for held in pack["sessions"] for athlete, mine in held["athletes"].items()]
    for held, athlete, mine in dice.sample(lists, min(3, len(lists))):
        for turn in [turn for turn in mine["work"] if not turn["over"] and held["day"] <= pack["today"]][:3]:
            page = company.get("coach", f"/floor/?session={held['id']}&athlete={athlete}&lift={turn['exercise']}")
            form = next((one for one in forms_in(page) if one.path == f"/floor/cells/{turn['cell']}/sets"), None)
            if form is None:
                raise Broken("The device asks for what the floor does not", f"{turn['movement']} of {athlete}")
            asked = {one.name: one.value for one in form.fields}
            reps = {asked[name] for name in ("reps", "left_reps", "right_reps") if name in asked}
            if turn["load"] and float(asked.get("load") or 0) != float(turn["load"]):
                raise Broken(
                    "Card and device differ in load", f"{asked.get('load')} and {turn['load']} of {turn['movement']}"
                )
            if "hold_s" not in turn["values"] and reps and reps != {str(turn["reps"])}:
                raise Broken("Card and device differ in reps", f"{reps} and {turn['reps']} of {turn['movement']}")
            shown = text(page)
            for what in (ASKED, MANNER):  # in reserve, tempo, depth; stance, range, pause
                if said(turn, what) not in shown:
                    raise Broken("Card and device differ", f"{said(turn, what)} of {turn['movement']}")


ASKED, MANNER, DOSE = (
    r'<p class="floor-asked">(.*?)</p>',
    r'<p class="cue is-manner">(.*?)</p>',
    r'<span class="times">(.*?)</span>',
)
RESERVE = r"RIR \d+|deload week, plenty in reserve"


def said(turn: dict[str, Any], what: str) -> str:
    """A line of the card that a device took along."""
    found = re.search(what, turn["card"], re.DOTALL)
    return " ".join(html.unescape(re.sub("<[^>]*>", " ", found[1])).split()) if found else ""


def papers_say_what_the_floor_says(company: Company, dice: random.Random) -> None:
    """Wall sheet, card and session page against what a device took along: load, sets and reps of every row."""
    pack = company.clients["coach"].get("/floor/pack").get_json()
    if not pack["sessions"]:
        return
    held = dice.choice(pack["sessions"])
    wall = company.get("coach", f"/floor/paper/wall?session={held['id']}")
    on_wall = {
        text(row.split("</th>")[0]): [text(part) for part in row.split("<td")[1:]]
        for row in re.findall(r"<tr><th>(.*?)</tr>", wall, re.DOTALL)
    }
    for mine in held["athletes"].values():
        for n, turn in enumerate(mine["work"]):
            _asks("wall sheet", on_wall[mine["name"]][n], turn, mine["name"])
    for athlete in dice.sample(sorted(held["athletes"]), min(2, len(held["athletes"]))):
        mine = held["athletes"][athlete]
        card = company.get("coach", f"/floor/paper/card?session={held['id']}&athlete={athlete}")
        parts = [text(part) for part in card.split('<section class="work')[1:]]
        for part, turn in zip(parts, mine["work"], strict=True):
            _asks("card", part, turn, mine["name"])
        where = f"session={held['id'].split('.')[0]}&athlete={athlete}&week={held['day']}"
        rows = re.findall(
            r'<li class="strip-row[^>]*data-key="(\d+)"(.*?)</li>',
            company.get("coach", f"/session/?{where}"),
            re.DOTALL,
        )
        doses = {int(key): text(row.split('class="strip-dose"')[1]) for key, row in rows if "strip-dose" in row}
        for turn in mine["work"]:
            if turn["exercise"] in doses and not _waits(company, turn["cell"]):
                _asks("session page", doses[turn["exercise"]], turn | {"load": ""}, mine["name"])


def _waits(company: Company, cell_id: int) -> bool:
    """Whether a draft waits to be published in a cell's stead: the session page shows what is planned."""
    with company.reader() as db:
        return not db.get_one(Cell, cell_id).current


def text(part: str) -> str:
    return " ".join(html.unescape(re.sub("<[^>]*>|^[^<]*>", " ", part)).split())


def _asks(where: str, line: str, turn: dict[str, Any], name: str) -> None:
    """A line of paper asks what the turn asks."""
    if turn["over"] or "hold_s" in turn["values"]:
        return
    unit = said(turn, DOSE).split(" ")[0]
    if turn["load"] and f"{turn['load']} {unit}" not in line:
        raise Broken(f"The {where} asks for another load", f"{line} for {turn['load']} of {turn['movement']}, {name}")
    reserve = re.search(RESERVE, said(turn, ASKED))
    for words in (reserve[0] if reserve and where != "session page" else "", said(turn, MANNER)):
        if words not in line:
            raise Broken(f"The {where} does not say it", f"{line} for {words} of {turn['movement']}, {name}")
    if f"{turn['sets']} × {turn['reps']}" not in line:
        raise Broken(
            f"The {where} asks for other sets",
            f"{line} for {turn['sets']} × {turn['reps']} of {turn['movement']}, {name}",
        )


def files_say_what_is_planned(company: Company, dice: random.Random) -> None:
    """What the sheet as a file says with a load is what stands on the sheet: sets, reps, left, load."""
    with company.reader() as db:
        blocks = list(db.scalars(select(Block.id)))
        if not blocks:
            return
        block = dice.choice(blocks)
        rows = db.execute(
            select(Athlete.name, Cell.week, Cell.sets, Cell.reps, Cell.reserve_reps, Cell.load_amount)
            .join(Athlete, Athlete.id == Cell.athlete_id)
            .join(Exercise, Exercise.id == Cell.exercise_id)
            .where(Exercise.block_id == block, Cell.current, Cell.state == State.LOAD)
        ).all()
    answer = company.clients["coach"].get(f"/export/sheet/{block}.csv")
    lines = csv.DictReader(answer.data.decode("utf-8-sig").splitlines())
    told = Counter(
        (
            one["athlete"],
            int(one["week of block"]) - 1,
            *(int(one[head]) for head in ("sets", "reps", "RIR")),
            float(one["load"]),
        )
        for one in lines
        if one["state"] == "load"
    )
    planned = Counter((*row[:5], float(row[5])) for row in rows)
    if other := told - planned:
        raise Broken("The sheet as a file says something else", f"{next(iter(other))} of block {block}")


NOW_AND_THEN = (
    every_page_opens, kept_is_fresh, never_under_what_was_moved, card_and_device_say_the_same,
    papers_say_what_the_floor_says, files_say_what_is_planned,
)  # fmt: skip
