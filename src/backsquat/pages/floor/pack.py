"""What a device takes along: the sessions about to come, each with its lists, cards, cautions and stops, as plain data.

A device without a line walks through the steps it was given; it works out nothing of the rules itself.
"""

import datetime as dt
import hashlib
from typing import Any

from flask_login import current_user

from backsquat.core.loads.conventions import CONVENTIONS
from backsquat.core.movements.movement import Movement, Region
from backsquat.core.pain import STOPPING, stop_level
from backsquat.core.readiness.pain import locks
from backsquat.core.sessions.running import ActKind, Done, remaining
from backsquat.core.strength.reach import reach_targets
from backsquat.pages.drawing import bar_picture
from backsquat.pages.floor.card import band_note, directions_of, likely_of, offered, pace
from backsquat.pages.floor.phrases import asked_reserve_words, asked_words, hold_words, kept_off_groups, turn_notes
from backsquat.pages.request import (
    clock,
    context,
    membership,
    own_athlete,
    own_sessions,
    reader,
    settings,
    squad_library,
)
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.sessions import end_words, manner_words, reach_words, side_words
from backsquat.ui.phrases.set_up import SETUP_WORDS
from backsquat.work.floor.ahead import LastTime, last_times, sessions_ahead
from backsquat.work.floor.floor import Asked, Floor, RunningList, floor_of
from backsquat.work.floor.sessions import sessions_in_week
from backsquat.work.floor.turn import Turn
from backsquat.work.log.reaches import WHEEL, newest_reaches
from backsquat.work.plan.chances import Chances
from backsquat.work.plan.timed import ramp_sets
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.squad.athletes import rules_for

FORMAT = 1  # of the pack and of what is sent back: a device with another one asks for a new pack first
Said = dict[str, Any]


def place() -> str:
    """Whose data these are: what was kept for other data, or another squad, must not land here."""
    squad = membership().squad_id
    of = f"place {settings().secret}" + (f" {squad}" if squad != 1 else "")  # the first: as before there were others
    return hashlib.sha256(of.encode()).hexdigest()[:16]


def pack(week: dt.date | None = None) -> Said:
    """Everything for the sessions about to come, or for those of a week."""
    here, squad_id = context(), context().squad.id
    held = sessions_in_week(reader(), squad_id, week) if week else sessions_ahead(reader(), squad_id, here.today)
    sessions = own_sessions(held)
    rooms = rooms_of(reader(), here.squad.id)
    floors = [
        floor_of(reader(), sessions, one, rooms, here.rules, now=clock().now(), asked=Asked(), only=own_athlete())
        for one in sessions
    ]
    packer = _Packer(floors)
    return {
        "format": FORMAT,
        "place": place(),
        "person": current_user.id,
        "athlete": own_athlete(),
        "at": clock().now().isoformat(timespec="seconds"),
        "today": here.today.isoformat(),
        "stopping": sorted(STOPPING),
        "or_more": here.rules.reserve_or_more,
        "sessions": [packer.session(floor) for floor in floors],
        "movements": packer.movements(),
    }


class _Packer:
    """Packs floors, with what all of them need read once."""

    def __init__(self, floors: list[Floor]) -> None:
        self.here, self.library = context(), squad_library()
        lists = [mine for floor in floors for rack in floor.racks for mine in rack.lists]
        athletes = {mine.athlete.id: mine.athlete for mine in lists}
        days = {floor.chosen.day for floor in floors}
        self.last = {day: last_times(reader(), athletes, day) for day in days}  # of the two or three days taken along
        self.reached = newest_reaches(reader(), list(athletes))
        self.used = {turn.movement.code: turn.movement for mine in lists for turn in mine.turns}
        rest = reader(), list(athletes.values())
        loaded = {turn.movement.code for mine in lists for turn in mine.turns if not turn.on_level}
        self.chances = {code: Chances.of(*rest, code, self.here.today, self.here.rules) for code in sorted(loaded)}

    def session(self, floor: Floor) -> Said:
        """One session: who lifts where, everybody's list."""
        chosen = floor.chosen
        lists = [mine for rack in floor.racks for mine in rack.lists]
        return {
            "id": chosen.key,
            "week": chosen.week,
            "day": chosen.day.isoformat(),
            "day_words": f"{chosen.day:%A}",
            "name": chosen.held.name or chosen.block.name,
            "minutes": chosen.held.minutes,
            "racks": [
                {"label": rack.label, "short": rack.short, "athletes": [mine.athlete.id for mine in rack.lists]}
                for rack in floor.racks
            ],
            "athletes": {str(mine.athlete.id): self._list(mine, chosen.day) for mine in lists},
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

    def _list(self, mine: RunningList, day: dt.date) -> Said:
        done = {turn.exercise.id: Done(turn.sets_done, turn.finished) for turn in mine.turns}
        own = rules_for(mine.athlete, self.here.rules)
        lifter = mine.lifter
        return {
            "name": mine.athlete.name,
            "stop_at": stop_level(own),
            "done": lifter.rounds,
            "awaited": mine.awaited or "",
            "rest_left_s": mine.rest_left_s,
            "steps": [
                [step.item.key, step.number, step.rest_s, step.inside]
                for step in remaining(mine.session, done, self.here.rules)
            ],
            "work": [self._turn(turn, day) for turn in mine.turns],
        }

    def _turn(self, turn: Turn, day: dt.date) -> Said:
        cell, item, movement = turn.cell, turn.item, turn.movement
        last = self.last[day].get((turn.athlete.id, movement.code))
        said: Said = {
            "exercise": turn.exercise.id,
            "cell": cell.id,
            "movement": movement.code,
            "sets": cell.sets,
            "done": turn.sets_done,
            "entries": len(turn.entries),
            "half": turn.half_done,
            "over": turn.finished,
            "why_over": "stopped" if turn.stopped else "left out" if turn.skipped else "",
            "spare": item.spare,
            "superset": item.superset,
            "logged": [f"{entry.load_amount:g} × {side_words(entry)}" for entry in turn.entries],
        }
        return said if turn.finished else said | self._asked(turn, last, day)

    def _asked(self, turn: Turn, last: LastTime | None, day: dt.date) -> Said:
        """The card: what is asked, what is read before it."""
        cell, item, movement = turn.cell, turn.item, turn.movement
        offer = offered(turn, last if turn.on_level else None)
        chance = likely_of(turn, offer.load, self.chances.get(movement.code), self.here.today)
        left = chance.left if chance else cell.reserve_reps
        shown = offer.load
        return {
            "load": f"{offer.amount:g}" if offer.amount and not offer.to_find else "",
            "start": f"{offer.start:g}" if offer.start else "",
            "find": offer.to_find and (movement.takes_load or CONVENTIONS[movement.convention].loaded),
            "unit": cell.load_unit,
            "a_hand": movement.convention == "dumbbells",
            "reps": item.reps,
            "hold_s": item.hold_s,
            "reserve": left,
            "asked": asked_words(turn, offer.usual, offer.found_reps, left, to_find=offer.to_find),
            "rir": asked_reserve_words(turn, left, to_find=offer.to_find),
            "end": end_words(item),
            "manner": manner_words(item.manner),
            "cues": [*self._notes(turn, last)],
            "ramp": [f"{one.load.total.text} × {one.reps}" for one in self._ramp(turn)],
            "ramped": [act.facts.get("n") for act in turn.acts if act.what is ActKind.RAMP],
            "bar": str(bar_picture(turn.room, shown)) if shown and turn.room else "",
            "pace": pace(turn),
            "set_up": [f"{SETUP_WORDS[field]}: {note.value}" for field, note in turn.set_up.items()],
        }

    def _ramp(self, turn: Turn) -> Any:
        return ramp_sets(turn.load, turn.movement, turn.room) if turn.room and turn.load and not turn.entries else ()

    def _notes(self, turn: Turn, last: LastTime | None) -> list[str]:
        """What is to be read before the set, the gravest first."""
        movement = turn.movement
        fault = self.library.fault(movement.code, last.fault) if last else None
        felt = next((f for f in movement.felt if last and f.where == last.felt and not f.right), None)
        said = [
            hold_words(turn.hold, turn.planned, self.library, own=own_athlete() is not None) if turn.hold else "",
            *turn_notes(turn),
            manner_words(turn.item.manner),
            self._reach(turn),
            *(band_note(turn, last.notes, last) if last else ()),
            turn.exercise.variation,
            f"Last time felt in the {felt.where}: {felt.means}" if felt else "",
            f"Last time: {in_text(fault.look)}. {fault.fix}" if fault else "",
            f"Noted last time: {last.note}" if last and last.note else "",
        ]
        return [words for words in said if words]

    def _reach(self, turn: Turn) -> str:
        """How far to lunge, direction by direction."""
        if turn.movement.code != WHEEL or turn.athlete.id not in self.reached:
            return ""
        last = self.reached[turn.athlete.id]
        return reach_words(directions_of(turn), reach_targets(last.reach, last.faults, self.here.rules))

    def movements(self) -> Said:
        """What is the same for everybody of the movements of these sessions, and what a stop of each locks."""
        return {code: self._movement(movement) for code, movement in self.used.items()}

    def _movement(self, movement: Movement) -> Said:
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
            "cues": list(movement.cues),
            "steps": list(movement.set_up),
            "safety": movement.safety,
            "failing": movement.failing,
            "faults": [[fault.code, fault.look, fault.fix] for fault in movement.faults],
            "felt": [[felt.where, felt.means] for felt in movement.felt],
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
