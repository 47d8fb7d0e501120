"""On paper: an athlete's card for a session or the days to come, and the wall sheet of a session; as PDF or one file.

What stands on them is made from the floor's own cards, so that paper, phone and tablet say the same.
"""

import datetime as dt
from typing import Any

from flask import render_template, request
from flask.typing import ResponseReturnValue

from backsquat.core.errors import NotThere
from backsquat.core.movements.movement import Movement
from backsquat.core.season.calendar import monday_of
from backsquat.formats.pdf import Paper
from backsquat.formats.pictures import as_address
from backsquat.pages.floor.card import Offered
from backsquat.pages.floor.pack import Packer, floors_of_week
from backsquat.pages.floor.phrases import asked_reserve_words
from backsquat.pages.floor.routes import blueprint, none_page
from backsquat.pages.papers import sent_file, sent_pdf
from backsquat.pages.request import allow, clock, context, number, own_athlete, reader, second_factor_given
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.sessions import clock_words, end_words
from backsquat.ui.phrases.set_up import SETUP_WORDS
from backsquat.work.floor.turn import Turn
from backsquat.work.library.pictures import frame_pixels, pictures_of
from backsquat.work.policy import Act
from backsquat.work.technique.stills import on_cards

PAPERS = {"a4": Paper.A4, "a5": Paper.A5}
SHEETS = {"card": "floor/card_sheet.html", "wall": "floor/wall_sheet.html"}


@blueprint.get("/paper/<kind>")
@allow(Act.LOG_OWN)
def paper(kind: str) -> ResponseReturnValue:
    """Cards or the wall sheet: of the days to come, or of another week where one is chosen.

    `session`, `athlete`: only these; `file`: one that works without anything else; `pdf`: the paper it is made for.
    """
    if kind not in SHEETS:
        raise NotThere("sheet")
    packed = on_paper(_other_week())
    sessions = chosen(packed, request.args.get("session"), request.args.get("athlete", type=number))
    if not sessions:
        return none_page("floor.paper", kind=kind)
    for_pdf = request.args.get("pdf", "")
    as_file = request.args.get("file") == "1" or for_pdf in PAPERS
    page = laid_out(kind, sessions, packed, as_file)
    name = f"{kind}-{sessions[0]['day']}"
    if for_pdf in PAPERS:
        size = Paper.A4_LYING if kind == "wall" else PAPERS[for_pdf]
        return sent_pdf(page, size, name)
    return sent_file(page, name) if as_file else page


class PaperPacker(Packer):
    """What paper shows of a turn: words and a drawing, and nothing to tap."""

    kind = "on paper"

    def shown(self, turn: Turn, card: dict[str, Any]) -> dict[str, Any]:
        """The dose in its parts, what is to be read first, the ramp and the bar."""
        offer: Offered = card["offer"]
        item, find = turn.item, offer.to_find
        return {
            "superset": item.superset,
            "load": f"{offer.amount:g}" if offer.amount and not find else "",
            "start": f"{offer.start:g}" if offer.start else "",
            "unit": turn.cell.load_unit,
            "a_hand": turn.movement.convention == "dumbbells",
            "reps": item.reps,
            "hold_s": item.hold_s,
            "asked": card["asked"],
            "rir": asked_reserve_words(turn, card["left"], to_find=find),
            "end": end_words(item),
            "manner": card["manner"],
            "cues": _notes(turn, card),
            "ramp": [f"{one.load.total.text} × {one.reps}" for one in card["ramp"]],
            "bar": card["bar_svg"] or "",
            "set_up": [f"{SETUP_WORDS[field]}: {note.value}" for field, note in turn.set_up.items()],
        }

    def movement(self, movement: Movement) -> dict[str, Any]:
        """Its name, one cue at least, and what keeps it safe."""
        about = {"name": movement.name, "tag": movement.tag, "cues": list(movement.cues), "safety": movement.safety}
        return about | {"sides": movement.sides}


def _notes(turn: Turn, card: dict[str, Any]) -> list[str]:
    """What is to be read before the set, the gravest first."""
    fault, felt, last = card["fault"], card["felt_wrong"], card["last"]
    said = [
        card["hold_note"],
        *card["notes"],
        card["manner"],
        *card["last_words"],
        turn.exercise.variation,
        f"Last time felt in the {felt.where}: {felt.means}" if felt else "",
        f"Last time: {in_text(fault.look)}. {fault.fix}" if fault else "",
        f"Noted last time: {last.note}" if last.note else "",
    ]
    return [words for words in said if words]


def on_paper(week: dt.date | None = None) -> dict[str, Any]:
    """What paper says of the sessions of a week, or of those about to come."""
    packer = PaperPacker(floors_of_week(week))
    at = clock().now().isoformat(timespec="seconds")
    return {"at": at, "sessions": packer.sessions(), "movements": packer.movements()}


def laid_out(kind: str, sessions: list[dict[str, Any]], packed: dict[str, Any], as_file: bool) -> str:
    """The page of a sheet; as a file without the ways to others."""
    about: dict[str, Any] = {"sessions": sessions, "movements": packed["movements"], "made_at": packed["at"]}
    return render_template(
        SHEETS[kind],
        **about,
        context=context(),
        seconds=seconds_words,
        as_file=as_file,
        kind=kind,
        asked=_asked(),
        other_week=_other_week(),
        looks=_looks(sessions) if kind == "card" else {},
    )


CARD_FRAMES = 3


def _looks(sessions: list[dict[str, Any]]) -> dict[tuple[int, str], list[str]]:
    """(athlete, movement) → the pictures of its card: how the movement looks, and the athlete's own still of it."""
    here = context()
    athletes = {mine["id"] for session in sessions for mine in session["people"]}
    codes = {work["movement"] for session in sessions for mine in session["people"] for work in mine["work"]}
    shown = {code: found[0] for code, found in pictures_of(reader(), here.squad.id, codes).items()}
    frames = {code: _some([frame.id for frame in one.frames]) for code, one in shown.items()}
    pixels = frame_pixels(reader(), here.squad.id, [one for ids in frames.values() for one in ids])
    general = {code: [as_address(pixels[one]) for one in ids if one in pixels] for code, ids in frames.items()}
    # A body is seen by whose it is, and by staff with a second factor, on a card as anywhere.
    sees = own_athlete() is not None or second_factor_given()
    stills = on_cards(reader(), list(athletes)) if sees else {}
    own = {key: as_address(content) for key, content in stills.items()}
    return {
        (athlete, code): [*general.get(code, []), *([own[athlete, code]] if (athlete, code) in own else [])]
        for athlete in athletes
        for code in codes
    }


def _some(ids: list[int]) -> list[int]:
    """A few of these, the first and the last among them."""
    if len(ids) <= CARD_FRAMES:
        return ids
    return [ids[round(n * (len(ids) - 1) / (CARD_FRAMES - 1))] for n in range(CARD_FRAMES)]


def seconds_words(seconds: int) -> str:
    """20 s; from two minutes on 5:00 min"""
    return f"{clock_words(seconds)} min" if seconds >= 120 else f"{seconds} s"


def _other_week() -> dt.date | None:
    """The chosen week, where it is not this one."""
    here = context()
    return here.week if here.week != monday_of(here.today) else None


def _asked() -> dict[str, str]:
    return {name: value for name in ("session", "athlete") if (value := request.args.get(name, ""))}


def chosen(packed: dict[str, Any], key: str | None = None, athlete_id: int | None = None) -> list[dict[str, Any]]:
    """The sessions asked for, each with its athletes in the order of the racks; those without any are left out."""
    found = []
    for session in packed["sessions"]:
        order = [str(id) for rack in session["racks"] for id in rack["athletes"]]
        mine = [id for id in order if athlete_id is None or id == str(athlete_id)]
        if mine and key in (None, session["id"]):
            racks = {str(id): rack["label"] for rack in session["racks"] for id in rack["athletes"]}
            people = [session["athletes"][id] | {"rack": racks[id], "id": int(id)} for id in mine]
            found.append(session | {"people": people})
    return found
