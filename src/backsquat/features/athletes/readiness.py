"""What each athlete may do now: stops, limits, gates, rungs, time away. One place, asked at every door."""

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from backsquat.core.findings import Finding
from backsquat.core.movements.choice import unlikeness
from backsquat.core.movements.ladder import Ladder, rigged
from backsquat.core.movements.movement import Family, Gate, Movement
from backsquat.core.readiness.absence import EasedWeek
from backsquat.core.readiness.gate import (
    Candidacy,
    GateView,
    barbell_gate,
    gate_findings,
    overhead_gate,
)
from backsquat.core.readiness.limits import Bounds, bounds_on
from backsquat.core.readiness.limits import Limit as CoreLimit
from backsquat.core.readiness.pain import locks
from backsquat.core.readiness.screens import Known
from backsquat.core.rules import Rules
from backsquat.features.athletes.readings import Parts
from backsquat.features.movements.queries import Library
from backsquat.storage.models import (
    Absence,
    Athlete,
    RungMove,
    Stop,
)


@dataclass(frozen=True)
class Readiness:
    """One athlete's readiness on a day."""

    athlete: Athlete
    parts: Parts

    @property
    def today(self) -> dt.date:
        return self.parts.today

    @property
    def library(self) -> Library:
        return self.parts.library

    @property
    def stops(self) -> tuple[Stop, ...]:
        return tuple(self.parts.stops.get(self.athlete.id, ()))

    @property
    def limits(self) -> tuple[CoreLimit, ...]:
        return tuple(self.parts.limits.get(self.athlete.id, ()))

    @property
    def rungs(self) -> dict[str, RungMove]:
        """Ladder → where the athlete stands."""
        return self.parts.rungs.get(self.athlete.id, {})

    @property
    def known(self) -> Known:
        return self.parts.results.get(self.athlete.id, {})

    @property
    def body_mass_kg(self) -> float | None:
        return self.parts.masses.get(self.athlete.id)

    @property
    def away(self) -> tuple[Absence, ...]:
        """Absences, newest first."""
        return tuple(self.parts.away.get(self.athlete.id, ()))

    def view(self, gate: Gate) -> GateView:
        """The checklist of a gate as it stands; worked out once for all who ask of it."""
        known = self.parts.views.get((self.athlete.id, gate))
        if known is None:
            known = self.parts.views[self.athlete.id, gate] = self._view(gate)
        return known

    def _view(self, gate: Gate) -> GateView:
        parts, athlete = self.parts, self.athlete
        override = parts.overrides.get((athlete.id, gate.value))
        sessions, days = parts.road.get(athlete.id, (0, 0)) if gate is Gate.BARBELL else (0, 0)
        who = Candidacy(
            self.known, athlete.born_on, athlete.consent, bool(self.stops) and athlete.id not in parts.lifted,
            self.body_mass_kg, sessions, days, override,
        )  # fmt: skip
        check = barbell_gate if gate is Gate.BARBELL else overhead_gate
        return check(who, self.today, parts.rules)

    def stop_on(self, movement: Movement) -> Stop | None:
        """The open stop that locks a movement."""
        for stop in self.stops:
            stopped = self.library.movements.get(stop.movement)
            family: Family | None = stopped.family if stopped else None
            if locks(stop.movement, family, stop.place, movement):
                return stop
        return None

    def bounds(self, movement: Movement, day: dt.date | None = None) -> Bounds:
        return bounds_on(self.limits, movement, day or self.today)

    def gate(self, movement: Movement) -> tuple[Finding, ...]:
        """What shuts the gates before this movement; empty: they are open, or it has none."""
        return tuple(finding for gate in movement.gates for finding in gate_findings(self.view(gate)))

    def locked(self, movement: Movement, day: dt.date | None = None) -> bool:
        """Locked by pain, or barred by a limit on that day."""
        return self.stop_on(movement) is not None or self.bounds(movement, day).barred_by is not None

    def lacking(self, movement: Movement, day: dt.date | None = None) -> tuple[str, ...]:
        """What the movement needs and the athlete's room of that day has not."""
        return rigged(movement, self.parts.equipment(self.athlete.id, day or self.today))

    def moves(self, days: Iterable[dt.date]) -> bool:
        """Whether the athlete trains in different rooms on these days, or in another than today."""
        return len({self.parts.room_id(self.athlete.id, day) for day in (self.today, *days)}) > 1

    def blocked(self, movement: Movement, day: dt.date | None = None) -> tuple[str, ...]:
        """Codes of what stands between this athlete and a movement now, or on a day to come, besides equipment."""
        found = []
        if self.stop_on(movement):
            found.append("locked")
        if self.bounds(movement, day).barred_by:
            found.append("barred")
        if self.gate(movement):
            found.append("gate")
        if movement.retired:
            found.append("retired")
        return tuple(found)

    def may(self, code: str, day: dt.date | None = None) -> bool:
        """Whether the athlete may do a movement here, now or on a day to come, with what the room has."""
        movement = self.library.movements.get(code)
        return movement is not None and not self.lacking(movement, day) and not self.blocked(movement, day)

    def rung_on(self, ladder: Ladder) -> int | None:
        move = self.rungs.get(ladder.code)
        return None if move is None else min(move.rung, len(ladder.rungs) - 1)

    def rung_work(self, movement: Movement, day: dt.date | None = None) -> Movement | None:
        """What this athlete does in place of a movement behind a shut gate: the work of their own rung."""
        for ladder, place in self.library.ladders_of(movement.code):
            move = self.rungs.get(ladder.code)
            own = ladder.rung_of(move.movement) if move else None
            if own is not None and own <= place:
                work = self.own_rung(ladder, day)
                if work:
                    return work
        return None

    def own_rung(self, ladder: Ladder, day: dt.date | None = None) -> Movement | None:
        """The work of the athlete's own rung of a ladder, or of the next below that may be done here now."""
        move = self.rungs.get(ladder.code)
        own = ladder.rung_of(move.movement) if move else None
        if move is None or own is None:
            return None
        if self.may(move.movement, day):
            return self.library.movements[move.movement]
        for rung in range(own, -1, -1):
            code = next((code for code in ladder.rungs[rung] if self.may(code, day)), None)
            if code:
                return self.library.movements[code]
        return None

    def stand_in(self, movement: Movement, day: dt.date | None = None) -> Movement | None:
        """The movement of the same family most like this one that may be done here, on that day too."""
        others = [
            other
            for other in self.library.in_use()
            if other.family is movement.family and other.code != movement.code and self.may(other.code, day)
        ]  # fmt: skip
        return min(others, key=lambda other: (unlikeness(movement, other), other.name), default=None)

    def eased(self, movement: Movement, day: dt.date) -> EasedWeek | None:
        """The eased week of an accepted return that a day falls in; after a stop only for what it had locked."""
        for absence in self.away:
            if absence.back_on and absence.back_on <= day and self._concerns(absence, movement):
                week = (day - absence.back_on).days // 7
                if week < len(absence.weeks):
                    return EasedWeek(*absence.weeks[week])
        return None

    def _concerns(self, absence: Absence, movement: Movement) -> bool:
        stopped = self.library.movements.get(absence.movement)
        family = stopped.family if stopped else None
        return not absence.movement or locks(absence.movement, family, absence.place, movement)

    @property
    def absent(self) -> Absence | None:
        """The absence that is not over."""
        return next(
            (
                a
                for a in self.away
                if a.first_on <= self.today and (a.back_on is None or a.back_on > self.today)
            ),
            None,
        )


def readiness_of(
    session: Session, squad_id: int, athletes: Sequence[Athlete], today: dt.date, rules: Rules
) -> dict[int, Readiness]:
    """Readiness of some athletes of a squad; the queries are as few for sixty as for one."""
    parts = Parts(session, squad_id, [athlete.id for athlete in athletes], today, rules)
    return {athlete.id: Readiness(athlete, parts) for athlete in athletes}


def rules_for(athlete: Athlete, rules: Rules) -> Rules:
    """The squad's rules with the athlete's own pain line, where a physio or doctor has set one."""
    return rules if athlete.pain_line is None else replace(rules, pain_stop_level=athlete.pain_line)


def readiness_one(session: Session, athlete: Athlete, today: dt.date, rules: Rules) -> Readiness:
    return readiness_of(session, athlete.squad_id, [athlete], today, rules)[athlete.id]
