"""What people do: each act reads a page as they would and says what is sent next."""

import datetime as dt
import random
import re
from collections.abc import Callable

from sqlalchemy import select

from backsquat.core.movements.movement import Region
from backsquat.core.pain import Character
from backsquat.storage.models import (
    Athlete,
    Block,
    BlockSession,
    Cell,
    DecisionRow,
    Exercise,
    LibraryEntry,
    Match,
    SetEntry,
    Squad,
    Still,
    Stop,
)
from backsquat.work.context import library_of
from tests.walk.forms import Form, filled, forms_in, links_in
from tests.walk.people import Company, Step, athletes_of, with_phone

NEVER = re.compile(
    r"/(sign-out|sign-out-everywhere|password|close|demo-sign-in|second-factor|squads|link|role|first)(/|$)"
)
FIRST_MOVEMENTS = (
    "Back squat",
    "Romanian deadlift",
    "Goblet squat",
    "Rear-foot-elevated split squat",
    "Leg press",
    "Calf raise",
)
PROGRESSIONS = ("wave", "fixed", "window", "effort", "stages", "earned", "ladder", "holds", "speed")
NAMES = ("Una Vale", "Ola Fane", "Ida Sand", "Mia Rook", "Tove Lund", "Rea Moss")
LOG = re.compile(r"/floor/cells/\d+/sets")


def arrive(company: Company, dice: random.Random) -> list[Step]:
    """Somebody new: grown or a minor, known to lift or not; the coach may let them near the bar and give them a link."""
    taken = {one.name for one in athletes_of(company)}
    name = next((one for one in NAMES if one not in taken), None)
    if name is None:
        return []
    born = dice.choice(("2000-02-01", "2003-05-06", "2010-11-12"))
    line = f"Name;Born;Consent;Body mass;Back squat\n{name};{born};{dice.choice(('yes', ''))};{dice.choice(('58', '72', ''))};{dice.choice(('80x5@8', '100x3', '60x8@7', ''))}"
    page = company.do(Step("coach", "/import/", {"pasted": [line]}))
    form = next((one for one in forms_in(page) if one.path.startswith("/import/look")), None)
    if form is None:
        return []
    sent = filled(form, dice, company.clock.today(), 0, 0)
    steps = [Step("coach", form.path, sent | {"act": ["store"]})]
    number = max((one.id for one in athletes_of(company)), default=0) + 1
    for readiness_check in ("barbell", "pull", "overhead", "thrust"):
        if dice.random() < 0.7:
            steps.append(
                Step(
                    "coach",
                    f"/ladders/{number}/override",
                    {"readiness_check": [readiness_check], "reason": ["seen lifting soundly"]},
                )
            )
    return steps


def give_a_phone(company: Company, dice: random.Random) -> list[Step]:
    known = [one for one in athletes_of(company) if one.name not in company.clients]
    if known and len(company.athletes) < 3:
        one = dice.choice(known)
        with_phone(company, one.id, one.name)
    return []


def begin_a_block(company: Company, dice: random.Random) -> list[Step]:
    """A block from this week on, of whatever movements and progressions."""
    monday = company.clock.today() - dt.timedelta(days=company.clock.today().weekday())
    form: dict[str, list[str]] = {
        "name": [f"Block {dice.randint(1, 99)}"],
        "first_week": [monday.isoformat()],
        "weeks": [dice.choice(("4", "6"))],
    }
    names = _movement_names(company)
    for n in range(dice.randint(1, 4)):
        what = dice.choice(FIRST_MOVEMENTS if dice.random() < 0.6 or not names else names)
        form |= {f"day_{n}": [dice.choice(("0", "0", "2", "4"))], f"what_{n}": [what], f"progression_{n}": [dice.choice(PROGRESSIONS)],
                 f"role_{n}": [dice.choice(("main", "assistance"))], f"sets_{n}": [dice.choice(("2", "3", "4"))], f"superset_{n}": [dice.choice(("", "", "A"))]}  # fmt: skip
    return [Step("coach", "/block/new", form)]


SAID = (
    "3 x 8-10 goblet squat RIR 2 rest 90", "superset\n3 x 8 front squat\n3 x 12 calf raise with end hold + 30 s",
    "3 rounds:\nnordic 5 to failure\ngoblet squat 10", "back squat as wave", "romanian deadlift 3x8 @8", "own squat to the bar",
    "4 x 6 back squat RIR 2 rest 3 min if there is time", "3x8 squat", "5 min",
)  # fmt: skip


def type_a_session(company: Company, dice: random.Random) -> list[Step]:
    """Exercises as a coach says them, for a block that is there."""
    block = _block(company, dice)
    said = "\n".join(dice.sample(SAID, dice.randint(1, 2)))
    return (
        [Step("coach", f"/block/{block}/typed", {"typed": [said], "weekday": [dice.choice("0245")]})] if block else []
    )


def change_the_weeks(company: Company, dice: random.Random) -> list[Step]:
    """A block moved, shortened, lengthened or dropped; and now and then as it was."""
    block = _block(company, dice)
    if block is None:
        return []
    with company.reader() as db:
        row = db.get_one(Block, block)
        first = row.first_week + dt.timedelta(weeks=dice.choice((0, 0, 0, 1, 2, -1)))
        weeks = max(1, row.weeks + dice.choice((-2, -1, 1, 2)))
        form = {"name": [row.name], "first_week": [first.isoformat()], "weeks": [str(weeks)], "purpose": [row.purpose]}
    step = (
        Step("coach", f"/block/{block}/drop", {})
        if dice.random() < 0.2
        else Step("coach", f"/block/{block}/weeks", form)
    )
    page = company.get("coach", f"/block/{block}")
    undo = re.search(r'action="(/(?:block/\d+/)?undo/\d+)', page)
    return [step, Step("coach", undo.group(1), {})] if undo and dice.random() < 0.3 else [step]


def _movement_names(company: Company) -> list[str]:
    """Every movement there is, the squad's own too."""
    with company.reader() as db:
        squad = db.scalars(select(Squad.id)).first() or 1
        return sorted(movement.name for movement in library_of(db, squad).in_use())


def publish(company: Company, dice: random.Random) -> list[Step]:
    block = _block(company, dice)
    return [Step("coach", f"/block/{block}/publish", {})] if block else []


def plan_again(company: Company, dice: random.Random) -> list[Step]:
    block = _block(company, dice)
    return [Step("coach", f"/block/{block}/replan", {})] * 2 if block else []


def _block(company: Company, dice: random.Random) -> int | None:
    with company.reader() as db:
        known = list(db.scalars(select(Block.id)))
    return dice.choice(known) if known else None


def type_a_load(company: Company, dice: random.Random) -> list[Step]:
    """The coach's own number, on the sheet."""
    block = _block(company, dice)
    cells = re.findall(r"cell=(\d+)", company.get("coach", f"/block/{block}")) if block else []
    if not cells:
        return []
    return [
        Step(
            "coach",
            f"/block/cells/{dice.choice(cells)}",
            {"load": [dice.choice(("20", "40", "42.5", "60", "75", "8", "0"))]},
        )
    ]


def log(company: Company, dice: random.Random) -> list[Step]:
    """A set on the floor, as the card asks or as it really went; pain in the pain form."""
    who = dice.choice(company.roles)
    ask = "" if who in company.athletes or dice.random() < 0.4 else f"?athlete={_someone(company, dice)}"
    form = _log_form(company.get(who, f"/floor/{ask}"), dice)
    if form is None:
        return []
    wild = 0.03 if dice.random() < 0.3 else 0
    sent = filled(form, dice, company.clock.today(), wild, change=0.3 if dice.random() < 0.5 else 0)
    if sent.get("load") in ([""], None) and dice.random() < 0.8:
        sent["load"] = [dice.choice(("10", "20", "40"))]
    if "painful" in sent or dice.random() < 0.04:
        sent |= {"pain": [dice.choice(("", "2", "5"))], "pain_region": [dice.choice([r.value for r in Region])],
                 "pain_character": [dice.choice([c.value for c in Character])]}  # fmt: skip
    steps = [Step(who, form.path, sent)]
    if dice.random() < 0.3:
        steps.append(
            Step(
                who,
                form.path,
                sent
                | {
                    "client_id": [f"walk-{dice.getrandbits(60)}"],
                    "confirm": ["load", "again", "not_in_stock", "logged_meanwhile", "far_over"],
                },
            )
        )
    return steps


def say_what_was_left(company: Company, dice: random.Random) -> list[Step]:
    """One of the newest sets is rated, corrected or taken back."""
    with company.reader() as db:
        ids = db.scalars(select(SetEntry.id).where(SetEntry.standing).order_by(SetEntry.id.desc()).limit(4)).all()
    if not ids:
        return []
    who, entry = dice.choice(company.roles), dice.choice(ids)
    if dice.random() < 0.3:
        return [Step(who, f"/floor/sets/{entry}/take-back", {})]
    return [
        Step(
            who,
            f"/floor/sets/{entry}/reserve",
            {"left": [dice.choice(("0", "1", "2", "4"))], "client_id": [f"walk-{dice.getrandbits(60)}"]},
        )
    ]


def _log_form(page: str, dice: random.Random) -> Form | None:
    forms = [form for form in forms_in(page) if LOG.match(form.path)]
    return (forms[0] if dice.random() < 0.6 else dice.choice(forms)) if forms else None


def _someone(company: Company, dice: random.Random) -> int:
    known = athletes_of(company)
    return dice.choice(known).id if known else 1


def without_a_line(company: Company, dice: random.Random) -> list[Step]:
    """A device writes down what is done with what it took along; it comes in now, or days later."""
    who = dice.choice([one for one in company.roles if one != "physio"])
    waiting = company.seen.setdefault("waiting", [])
    if waiting and dice.random() < 0.4:
        return [waiting.pop(0)]
    answer = company.clients[who].get("/floor/pack")
    pack = answer.get_json() if answer.status_code == 200 else None
    held = [one for one in (pack or {}).get("sessions", []) if one["athletes"]]
    if not pack or not held:
        return []
    one = dice.choice(held)
    athlete, mine = dice.choice(sorted(one["athletes"].items()))
    work = [turn for turn in mine["work"] if not turn["over"]]
    if not work:
        return []
    turn = dice.choice(work)
    what = dice.choice(("set", "set", "set", "skip", "end", "ramp", "trial"))
    fields = {
        "load": [str(turn.get("load") or "20")],
        "reps": [str(turn.get("reps") or 5)],
        "pain_region": [""],
        "pain_character": ["dull"],
    }
    if dice.random() < 0.2:
        fields |= {
            "pain": [dice.choice(("", "6"))],
            "pain_region": ["knee"],
            "pain_character": [dice.choice(("sharp", "dull", "locking"))],
            "painful": ["1"],
        }
    if dice.random() < 0.1:
        fields["reps"] = [dice.choice(("0", "9999", "x"))]
    thing = {
        "client_id": f"walk-{dice.getrandbits(60)}",
        "what": what,
        "cell": turn["cell"],
        "athlete": int(athlete),
        "tapped_ms": dice.choice((1_000, 2**52, 0)),
        "fields": fields | {"reason": ["no place free"]},
    }
    parcel = {
        "format": 1,
        "place": pack["place"],
        "device_ms": dice.choice((2_000, 2**52)),
        "things": [thing] * dice.choice((1, 1, 2)),
    }
    step = Step(who, "/floor/waiting", None, parcel)
    if dice.random() < 0.4:
        waiting.append(step)
        return []
    return [step]


PLACES = (  # where forms stand; ids of the squad's own rows are put in
    "/", "/?show=needs-me", "/athletes/new", "/athletes/{athlete}", "/athletes/{athlete}/edit", "/athletes/{athlete}/test", "/athletes/{athlete}/phone",
    "/health-list/", "/health-list/{athlete}", "/health-list/stops/{stop}/clear", "/ladders/{athlete}", "/screen/", "/screen/many",
    "/screen/athlete/{athlete}", "/screen/own", "/movements/new", "/movements/new?copy=goblet_squat", "/movements/{movement}", "/movements/{movement}/edit",
    "/room/", "/rules", "/export/", "/review/", "/review/decisions/{decision}/otherwise", "/season/", "/season/?week={week}", "/milestones/",
    "/season/matches/{match}/minutes", "/block/", "/block/new", "/block/{block}", "/block/{block}/exercises", "/block/exercises/{exercise}", "/block/exercises/{exercise}?athlete={athlete}", "/block/exercises/{exercise}/own-work/{athlete}",
    "/block/{block}/weeks", "/block/{block}/missing", "/block/new?template=typed", "/block/new?like={block}", "/block/{block}/check", "/block/{block}/replan", "/block/{block}/versions", "/block/what-if", "/block/{block}/compare", "/block/{block}?cell={cell}",
    "/session/", "/session/?session={session}", "/session/?week={week}", "/floor/", "/floor/?athlete={athlete}", "/floor/?week={week}", "/floor/send",
    "/floor/?athlete={athlete}&correct={entry}", "/technique/{athlete}", "/technique/{athlete}/distances", "/technique/{athlete}/stills", "/technique/stills/{still}", "/people", "/account", "/import/", "/import/everybody", "/athletes/me", "/squads",
)  # fmt: skip
TABLES = {"athlete": Athlete, "stop": Stop, "decision": DecisionRow, "match": Match, "block": Block, "exercise": Exercise, "cell": Cell, "session": BlockSession, "entry": SetEntry, "still": Still}  # fmt: skip


def place(company: Company, dice: random.Random) -> str:
    """Somewhere a form may stand, with ids of rows there are: mostly the newest."""
    wanted = dice.choice(PLACES)
    monday = company.clock.today() - dt.timedelta(days=company.clock.today().weekday())
    given = {"week": (monday + dt.timedelta(weeks=dice.randint(-1, 3))).isoformat(), "movement": dice.choice(CODES)}
    with company.reader() as db:
        own = db.scalars(select(LibraryEntry.code).where(LibraryEntry.kind == "movement")).all()
        if own and dice.random() < 0.5:
            given["movement"] = dice.choice(own)
        for name, table in TABLES.items():
            if "{" + name + "}" in wanted:
                ids = db.scalars(select(table.id).order_by(table.id.desc()).limit(12)).all()
                given[name] = str(dice.choice(ids)) if ids else "1"
    return wanted.format(**given)


CODES = ("back_squat", "goblet_squat", "romanian_deadlift", "calf_raise", "nordic_lowering", "split_squat")


def wander(company: Company, dice: random.Random) -> list[Step]:
    """Somebody opens a page, follows a link now and then, and sends a form there: rather one that was seldom sent."""
    who = dice.choices(
        company.roles, [6 if role == "coach" else 2 if role == "physio" else 1 for role in company.roles]
    )[0]
    here = place(company, dice)
    page = company.get(who, here)
    if dice.random() < 0.15:
        links = [one for one in links_in(page) if not NEVER.search(one.split("?")[0]) and not one.startswith("/static")]
        here = dice.choice(links) if links else here
        page = company.get(who, here)
    sent_before: dict[str, int] = company.seen.setdefault("sent", {})
    forms = [form for form in forms_in(page, here) if not NEVER.search(form.path.split("?")[0])]
    if not forms:
        return []
    form = dice.choices(forms, [1 / (1 + sent_before.get(_kind(one.path), 0)) for one in forms])[0]
    sent_before[_kind(form.path)] = sent_before.get(_kind(form.path), 0) + 1
    return [
        Step(
            who,
            form.path,
            filled(form, dice, company.clock.today(), 0.03 if dice.random() < 0.4 else 0, dice.choice((0.1, 0.3, 0.6))),
        )
    ]


def _kind(path: str) -> str:
    return re.sub(r"\d+", "n", path.split("?")[0])


def to_the_next_session(company: Company, dice: random.Random) -> list[Step]:
    """The day of the next session that is held, in the evening."""
    answer = company.clients["coach"].get("/floor/pack")
    days = sorted(one["day"] for one in answer.get_json()["sessions"]) if answer.status_code == 200 else []
    ahead = [day for day in days if dt.date.fromisoformat(day) > company.clock.today()]
    if not ahead:
        return []
    at = dt.datetime.combine(dt.date.fromisoformat(ahead[0]), dt.time(17))
    return [Step("coach", "/", hours=round((at - company.clock.at).total_seconds() / 3600, 2))]


def say_who_is_here(company: Company, dice: random.Random) -> list[Step]:
    """Somebody on the floor's list is late, absent, or here after all."""
    answer = company.clients["assistant"].get("/floor/pack")
    held = [one for one in answer.get_json()["sessions"] if one["athletes"]] if answer.status_code == 200 else []
    if not held:
        return []
    one = dice.choice(held)
    path = f"/floor/sessions/{one['id'].split('.')[0]}/athletes/{dice.choice(sorted(one['athletes']))}/presence"
    said = {"what": [dice.choice(("here", "late", "absent"))], "in_week": [str(one["week"])], "session": [one["id"]]}
    return [Step(dice.choice(("coach", "assistant")), path, said)]


def clear_a_stop(company: Company, dice: random.Random) -> list[Step]:
    page = company.get("physio", "/health-list/")
    links = [one for one in links_in(page) if one.endswith("/clear") or "/clear?" in one]
    if not links:
        return []
    link = dice.choice(links)
    form = next((one for one in forms_in(company.get("physio", link), link) if "/clear" in one.path), None)
    if form is None:
        return []
    return [Step("physio", form.path, filled(form, dice, company.clock.today(), 0))]


def undo_and_redo(company: Company, dice: random.Random) -> list[Step]:
    """What was done last on the sheet: back, and again."""
    block = _block(company, dice)
    page = company.get("coach", f"/block/{block}") if block else ""
    undo = re.search(r'action="(/block/\d+/undo/(\d+))', page)
    if not undo:
        return []
    path = undo.group(1).replace("/undo/", "/redo/")
    return [Step("coach", undo.group(1), {}), Step("coach", path, {})]


def time_passes(company: Company, dice: random.Random) -> list[Step]:
    return [Step(dice.choice(company.roles), "/", hours=dice.choice((1, 3, 9, 24, 24, 48, 24 * 7)))]


ACTS: tuple[tuple[Callable[[Company, random.Random], list[Step]], int], ...] = (
    (log, 30), (wander, 45), (time_passes, 4), (to_the_next_session, 8), (type_a_load, 4), (publish, 6), (plan_again, 4),
    (without_a_line, 10), (arrive, 3), (begin_a_block, 3), (type_a_session, 3), (change_the_weeks, 4), (clear_a_stop, 4), (undo_and_redo, 4), (give_a_phone, 2), (say_what_was_left, 6), (say_who_is_here, 3),
)  # fmt: skip


def beginning(company: Company, dice: random.Random) -> list[Callable[[Company, random.Random], list[Step]]]:
    """What everybody begins with who begins with nothing."""
    return [arrive, arrive, arrive, give_a_phone, begin_a_block, begin_a_block, publish, log, log]
