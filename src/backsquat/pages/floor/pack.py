"""What a device takes along: the sessions about to come, each with its lists, cards, cautions and stops, as plain data.

A device without a line walks through the steps it was given; it works out nothing of the rules itself.
"""

import datetime as dt
import hashlib
from abc import ABC, abstractmethod
from functools import partial
from typing import Any, NamedTuple

from flask import current_app
from flask_login import current_user

from backsquat.core.movements.manner import DIRECTIONS
from backsquat.core.movements.movement import Movement, Region
from backsquat.core.pain import stopping_levels
from backsquat.core.readiness.pain import locks
from backsquat.core.sessions.running import Done, remaining
from backsquat.pages.floor.card import Offered, asked_of, turn_card
from backsquat.pages.floor.forms import SetForm
from backsquat.pages.floor.phrases import kept_off_groups, set_notes_words, steered_words
from backsquat.pages.request import (
    clock,
    context,
    membership,
    own_athlete,
    own_sessions,
    reader,
    settings,
    squad_library,
    trusted_with_health,
)
from backsquat.storage.cache import cached_each
from backsquat.ui.phrases.sessions import clock_words, item_dose, side_words
from backsquat.work.floor.ahead import last_times, sessions_ahead
from backsquat.work.floor.floor import Asked, Floor, floor_of
from backsquat.work.floor.racks import RunningList
from backsquat.work.floor.sessions import FloorSession, sessions_in_week
from backsquat.work.floor.turn import Turn
from backsquat.work.log.reaches import WHEEL, newest_reaches
from backsquat.work.plan.chances import Chances
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.squad.athletes import rules_for

FORMAT = 2  # of the pack and of what is sent back: a device with another one asks for a new pack first
APART = "\x1e"  # between a card and its row: no text has it
UNKNOWN = dict.fromkeys(("decision", "correcting", "watched", "is_here", "step"))  # to a device that takes it along
Said = dict[str, Any]


def place() -> str:
    """Whose data these are: what was kept for other data, or another squad, must not land here."""
    squad = membership().squad_id
    of = f"place {settings().secret}" + (f" {squad}" if squad != 1 else "")  # the first: as before there were others
    return hashlib.sha256(of.encode()).hexdigest()[:16]


def pack() -> Said:
    """Everything a device shows and counts by in the sessions about to come."""
    here = context()
    packer = DevicePacker(_floors(sessions_ahead(reader(), here.squad.id, here.today)))
    return {
        "format": FORMAT,
        "place": place(),
        "person": current_user.id,
        "athlete": own_athlete(),
        "at": clock().now().isoformat(timespec="seconds"),
        "today": here.today.isoformat(),
        "or_more": here.rules.reserve_or_more,
        "sessions": packer.sessions(),
        "movements": packer.movements(),
        "parts": packer.parts,
    }


def _floors(held: list[FloorSession]) -> list[Floor]:
    here, sessions = context(), own_sessions(held)
    rooms = rooms_of(reader(), here.squad.id)
    return [
        floor_of(reader(), sessions, one, rooms, here.rules, now=clock().now(), asked=Asked(), only=own_athlete())
        for one in sessions
    ]


def floors_of_week(week: dt.date | None) -> list[Floor]:
    """The floors of the sessions of a week, or of those about to come."""
    here = context()
    held = (
        sessions_in_week(reader(), here.squad.id, week) if week else sessions_ahead(reader(), here.squad.id, here.today)
    )
    return _floors(held)


class Turns(NamedTuple):
    """One athlete's turns of a session as they are shown, and the parts of a pack that they name."""

    work: list[Said]
    parts: dict[str, str]


class Packer(ABC):
    """Packs floors. What is shown of somebody is made again only once something was written of them."""

    kind: str  # of what is kept

    def __init__(self, floors: list[Floor]) -> None:
        self.here, self.library, self.floors = context(), squad_library(), floors
        lists = [mine for floor in floors for rack in floor.racks for mine in rack.lists]
        self.used = {turn.movement.code: turn.movement for mine in lists for turn in mine.turns}
        self.parts: dict[str, str] = {}

    @abstractmethod
    def shown(self, turn: Turn, card: Said) -> Said:
        """How a turn is shown, from its card."""

    @abstractmethod
    def movement(self, movement: Movement) -> Said:
        """What is the same for everybody of a movement."""

    def sessions(self) -> list[Said]:
        """Every session in its order."""
        return [self.session(floor) for floor in self.floors]

    def movements(self) -> Said:
        """The movements of these sessions by their codes."""
        return {code: self.movement(movement) for code, movement in self.used.items()}

    def session(self, floor: Floor) -> Said:
        """One session: who lifts where, everybody's list."""
        chosen = floor.chosen
        lists = {mine.athlete.id: mine for rack in floor.racks for mine in rack.lists}
        reads = membership().role, own_athlete() is not None, trusted_with_health()
        question = self.kind, chosen.session_id, chosen.week, chosen.day, chosen.own, self.here.today, self.here.rules
        turns = cached_each(
            reader(),
            (*question, *reads),
            list(lists),
            lambda ids: self._turns([lists[one] for one in ids], chosen.day),
            plan=True,
        )
        for shown in turns.values():
            self.parts |= shown.parts
        return {
            "id": chosen.key,
            "week": chosen.week,
            "day": chosen.day.isoformat(),
            "day_words": f"{chosen.day:%A}",
            "name": chosen.held.name or chosen.block.name,
            "minutes": chosen.held.minutes,
            "racks": [
                {
                    "key": rack.key,
                    "label": rack.label,
                    "short": rack.short,
                    "athletes": [mine.athlete.id for mine in rack.lists],
                }
                for rack in floor.racks
            ],
            "athletes": {str(one): self._list(mine) | {"work": turns[one].work} for one, mine in lists.items()},
            "kept_off": self._kept_off(floor),
            "unsafe": [f"{check.station}: {check.found}" for check in floor.unsafe],
        }

    def _kept_off(self, floor: Floor) -> list[Said]:
        by_name: dict[str, list[Any]] = {}
        for one in floor.kept_off:
            by_name.setdefault(one.athlete.name, []).append(one)
        groups = {name: kept_off_groups(all, self.library) for name, all in by_name.items()}
        return [
            {"name": name, "words": "; ".join(f"{', '.join(work)}: {why}" for why, work in said)}
            for name, said in groups.items()
        ]

    def _list(self, mine: RunningList) -> Said:
        done = {turn.exercise.id: Done(turn.sets_done, turn.finished) for turn in mine.turns}
        return {
            "name": mine.athlete.name,
            "done": mine.lifter.rounds,
            "awaited": mine.awaited or "",
            "rest_left_s": mine.rest_left_s,
            "steps": [
                [step.item.key, step.number, step.rest_s, step.inside]
                for step in remaining(mine.session, done, self.here.rules)
            ],
        }

    def _turns(self, lists: list[RunningList], day: dt.date) -> dict[int, Turns]:
        """What is shown of these athletes, with what all of them need read once."""
        athletes = {mine.athlete.id: mine.athlete for mine in lists}
        last, reached = last_times(reader(), athletes, day), newest_reaches(reader(), list(athletes))
        loaded = {turn.movement.code for mine in lists for turn in mine.turns if not turn.on_level}
        rest = reader(), list(athletes.values())
        chances = {code: Chances.of(*rest, code, self.here.today, self.here.rules) for code in sorted(loaded)}
        found = {}
        for mine in lists:
            who, work = mine.athlete.id, []
            for turn in mine.turns:
                code = turn.movement.code
                reach = reached.get(who) if code == WHEEL else None
                card = turn_card(turn, mine, last.get((who, code)), chances.get(code), reach)
                work.append(self._counted(turn) | self.shown(turn, card))
            named = {str(turn[name]) for turn in work for name in ("form", "pain") if name in turn}
            found[who] = Turns(work, {name: self.parts[name] for name in named})
        return found

    @staticmethod
    def _counted(turn: Turn) -> Said:
        """What a turn is counted by."""
        return {
            "exercise": turn.exercise.id,
            "cell": turn.cell.id,
            "movement": turn.movement.code,
            "sets": turn.cell.sets,
            "done": turn.sets_done,
            "entries": len(turn.entries),
            "half": turn.half_done,
            "over": turn.finished,
            "why_over": "stopped" if turn.stopped else "left out" if turn.skipped else "",
            "spare": turn.item.spare,
            "logged": [f"{entry.load_amount:g} × {side_words(entry)}" for entry in turn.entries],
        }


class DevicePacker(Packer):
    """What a device shows: the cards and rows the floor's own templates make, and each long form once."""

    kind = "taken along"

    def __init__(self, floors: list[Floor]) -> None:
        super().__init__(floors)
        self.forms: dict[tuple[Any, ...], str] = {}  # by all that the form of a set depends on, the part it is
        told = partial(set_notes_words, with_health=trusted_with_health() or own_athlete() is not None)
        self.around: Said = {
            "context": self.here,
            "packed": True,
            "apart": APART,
            "own_only": own_athlete() is not None,
        }
        self.around |= {"clock": clock_words, "dose": item_dose, "steered_words": steered_words}
        self.around |= {"set_notes_words": told, **UNKNOWN}
        current_app.update_template_context(self.around)

    def _render(self, template: str, about: Said) -> str:
        return current_app.jinja_env.get_template(template).render(self.around | about)

    def shown(self, turn: Turn, card: Said) -> Said:
        """The row of the list, and while something is left to do the card with what is put into its forms."""
        shown, row = self._render("floor/_packed.html", card).split(APART)
        if turn.finished:
            return {"row": row}
        offer: Offered = card["offer"]
        typed = {name: str(value) for name, value in asked_of(turn, offer).items() if value is not None}
        reach = {
            f"reach_{DIRECTIONS.index(way)}_{side}": f"{cm:g}"
            for way, pair in card["reached"].items()
            for side, cm in zip(("left", "right"), pair, strict=True)
            if cm
        }
        return {
            "row": row,
            "card": shown,
            "load": f"{offer.amount:g}" if offer.amount and not offer.to_find else "",
            "reps": turn.item.reps,
            "form": self._form(turn, card),
            "pain": self._pain(turn),
            "values": typed | ({"load": f"{offer.amount:g}"} if offer.amount is not None else {}),
            "hints": reach,
            "left": card["left"],
            "loads": card["loads"],
        }

    def _form(self, turn: Turn, card: Said) -> str:
        """Which part is its form; made where it is the first of its kind."""
        bands = turn.room.bands if turn.room else ()
        wrong = card["felt_wrong"] is not None
        about = turn.movement.code, turn.cell.load_unit, bool(card["hold_s"]), turn.on_level, wrong
        key = (*about, tuple(card["directions"]), tuple(bands))
        if key not in self.forms:
            form = SetForm(self.here.today, formdata=None, meta={"csrf": False}).offer(turn.movement, bands)
            empty = {"set_form": form, "ticked": (), "reached": {}, "reach_faults": {}, "loads": (), "left": ""}
            html = self._render("floor/_packed_form.html", card | empty)
            self.forms[key] = hashlib.sha256(html.encode()).hexdigest()[:12]
            self.parts[self.forms[key]] = html
        return self.forms[key]

    def _pain(self, turn: Turn) -> str:
        """Which part is its pain form: by the level that stops this athlete."""
        levels = stopping_levels(rules_for(turn.athlete, self.here.rules))
        key = f"pain {min(levels, default=0)}"
        if key not in self.parts:
            self.parts[key] = self._render("ui/_pain_fields.html", {"stopping_levels": levels})
        return key

    def movement(self, movement: Movement) -> Said:
        """Its name, how it is set up, what is easier and harder, and what a stop of each region locks."""
        ladders = self.library.ladders_of(movement.code)
        names = self.library.movements
        easier = [names[code].name for ladder, n in ladders if n for code in ladder.levels[n - 1]]
        harder = [
            names[code].name for ladder, n in ladders if n + 1 < len(ladder.levels) for code in ladder.levels[n + 1]
        ]
        return {
            "name": movement.name,
            "tag": movement.tag,
            "family": movement.family.value,
            "sides": movement.sides,
            "safety": movement.safety,
            "set_up": self._render("floor/_set_up.html", {"movement": movement}),
            "easier": easier,
            "harder": harder,
            "locks": {region.value: self._locked(movement, region) for region in Region},
        }

    def _locked(self, movement: Movement, region: Region) -> list[str]:
        """What a stop here locks at once: what loads the place, and for the rest of the day whatever takes a load."""
        day = self.here.rules.stop_ends_loads
        return [
            code
            for code, one in self.used.items()
            if locks(movement.code, movement.family, region.value, one) or (day and one.takes_load)
        ]
