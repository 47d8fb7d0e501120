"""Drafts of cells, and the way from planned weeks to them: what the sheet, a replan and a decision all write."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from decimal import Decimal
from typing import Any

from backsquat.core.loads.achievable import Load, loads_on
from backsquat.core.loads.rigs import rigs_for
from backsquat.core.loads.rounding import Offer
from backsquat.core.movements.movement import Implement, Movement
from backsquat.core.progression.cell import Origin, StandIn, State
from backsquat.core.progression.parameters import share_of
from backsquat.core.progression.prescription import ExposureKind, Prescription
from backsquat.core.progression.row import Candidate, Row, plan_row
from backsquat.core.progression.terms import BARS, PlannedWeek, Terms
from backsquat.core.progression.usual_rest import usual_rest_s
from backsquat.core.rules import Rules
from backsquat.core.strength.first_load import first_load
from backsquat.core.working import Step, Working
from backsquat.storage.models import Athlete, Cell
from backsquat.work.actor import Actor
from backsquat.work.plan.exercise_plan import ExercisePlan

COMPARED = ("state", "movement", "load_kg", "start_amount", "sets", "reps", "kind", "hold_s", "room_id")


@dataclass(frozen=True)
class Draft:
    """A cell that is not written yet: one exercise, athlete and week with what is asked there."""

    exercise_id: int
    athlete_id: int
    week: int  # from 0 in the block
    kind: ExposureKind
    wave: int
    sets: int
    reps: int
    reserve_reps: int
    state: State
    origin: Origin = Origin.PLAN
    low: int = 0
    high: int = 0
    hold_s: int = 0
    rest_s: int = 0
    movement: str = ""  # in the stead of the exercise's
    stands_in: StandIn = StandIn.NOT
    bar: str = ""
    room_id: int | None = None
    load_amount: Decimal | None = None
    load_unit: str = "kg"
    load_kg: float | None = None
    start_amount: Decimal | None = None
    side: tuple[str, ...] = ()
    target_kg: float | None = None
    planning_max_kg: float | None = None
    estimate_kg: float | None = None
    cap_kg: float | None = None
    over_cap: bool = False
    held: bool = False
    by_ratio: bool = False  # from another lift's record
    decided_on_id: int | None = None
    inputs: Mapping[str, Any] = field(default_factory=dict)
    working: Working = field(default_factory=Working)

    @classmethod
    def of(cls, cell: Cell) -> "Draft":
        """The draft that says the same as a cell."""
        same = {item.name: getattr(cell, item.name) for item in fields(cls) if item.name != "working"}
        return cls(**same | {"side": tuple(cell.side)}, working=Working.from_plain(cell.working))

    def loaded(self, load: Load | None, *steps: Step) -> "Draft":
        """With another load (None: none), and what explains it."""
        working = self.working.then(*steps)
        if load is None:
            return replace(self, bar="", load_amount=None, load_unit="kg", load_kg=None, side=(), working=working)
        return replace(
            self,
            bar=load.rig.code,
            load_amount=load.total.amount,
            load_unit=load.total.unit.value,
            load_kg=load.kg,
            side=tuple(mass.text for mass in load.side),
            over_cap=self.cap_kg is not None and load.kg > self.cap_kg + 1e-6,
            working=working,
        )

    def differs_from(self, cell: Cell) -> bool:
        """Whether it asks for something else than the cell."""
        chosen = (cell.stands_in is StandIn.CHOSEN) is not (self.stands_in is StandIn.CHOSEN)
        return chosen or any(getattr(cell, name) != getattr(self, name) for name in COMPARED)

    def row(self, actor: Actor) -> dict[str, Any]:
        """The values of the row that writes it."""
        values = {item.name: getattr(self, item.name) for item in fields(self)}
        return values | {
            "side": list(self.side),
            "inputs": dict(self.inputs),
            "working": self.working.to_plain(),
            "current": True,
            "live": False,
            "version_id": None,
            "by_id": actor.user_id,
            "at": actor.now,
        }


def planned_drafts(
    plan: ExercisePlan,
    athletes: Iterable[Athlete],
    known: Mapping[int, Candidate],
    weeks: Mapping[int, Collection[int]],
) -> list[Draft]:
    """Drafts of the plan's exercise for these athletes, loads or refusals alike; `weeks` to plan of each exercise of its
    row.

    A row is planned whole, whichever of its exercises is asked for: each load goes on from the one before.
    """
    drafts: list[Draft] = []
    for athlete in athletes:
        own = plan.of(athlete.id)
        outline = [p for p, (exercise, week) in zip(own.outline, own.places, strict=True) if week in weeks[exercise.id]]
        found = _Planner(own, athlete.id, known[athlete.id]).drafts(outline)
        drafts += [draft for draft in found if draft.exercise_id == plan.exercise.id]
    return drafts


@dataclass(frozen=True)
class _Planner:
    """One athlete in one exercise."""

    plan: ExercisePlan
    athlete_id: int
    candidate: Candidate

    def drafts(self, outline: Sequence[Prescription]) -> list[Draft]:
        """A draft a week: a load, work without one, or why there is neither."""
        terms = self.plan.terms(self.candidate.newcomer)
        refusal = self.candidate.refusal
        if refusal is None and (terms is None or not self.plan.progression.loaded):
            refusal = State.WORK
        own = self.plan.setting.own_work
        if own:  # before the week from which it holds, what stands there stays
            outline = [p for p in outline if self.plan.places[p.week][1] >= self.plan.setting.from_week]
        if refusal is State.LEFT_OUT:
            return [self._bare(asked, refusal) for asked in outline]
        if refusal is State.LEVEL:
            return [self._instead(asked) for asked in outline]
        if refusal is State.WORK:
            return [self._work_or_instead(asked) for asked in outline]
        if refusal or terms is None:
            return [self._bare(asked, refusal or State.NO_ROOM) for asked in outline]
        return self._loaded(outline, terms)

    def _loaded(self, outline: Sequence[Prescription], terms: Terms) -> list[Draft]:
        row = self._on_a_bar_it_fits(outline, terms)
        inputs = inputs_of(self.candidate, self.plan.rules) | self._manner
        by_ratio = self.candidate.by_ratio
        lighter = self.candidate.lighter
        found = [
            self._level(week.prescription, lighter, StandIn.LIGHT)
            if week.load is None and lighter
            else replace(draft_of_week(self.plan, self.athlete_id, week, inputs), by_ratio=by_ratio)
            for week in row.weeks
        ]
        planned = {week.prescription.week for week in row.weeks}
        # Weeks a limit forbids, or with nothing to load it with in that week's room.
        return found + [self._work_or_instead(asked) for asked in outline if asked.week not in planned]

    def _on_a_bar_it_fits(self, outline: Sequence[Prescription], terms: Terms) -> Row:
        """The row on the usual bar; on a lighter one of the room where the usual one is more than is asked for."""
        rigged = [p for p in outline if self.plan.rig_in(p.week)]
        row = plan_row(self.candidate, rigged, terms)
        under = sum(week.load is None for week in row.weeks)
        if not under or terms.rig.kind not in BARS:
            return row
        others = [rig for rig in rigs_for(self.plan.movement, terms.room) if rig.mass.kg < terms.rig.mass.kg]
        for rig in sorted(others, key=lambda rig: -rig.mass.kg):
            lighter = self.plan.terms(self.candidate.newcomer, rig.code)
            found = plan_row(self.candidate, rigged, lighter) if lighter else row
            if sum(week.load is None for week in found.weeks) < under:
                return found
        return row

    @property
    def _manner(self) -> dict[str, Any]:
        share = self.plan.manner_share
        return {"manner_share": share} if share != 1 else {}

    def _work_or_instead(self, asked: Prescription) -> Draft:
        barred = asked.week in self.candidate.barred
        return self._instead(asked) if barred else self._bare(asked, State.WORK)

    def _instead(self, asked: Prescription) -> Draft:
        """What stands in in that week, or the word that nothing may."""
        lacks = asked.week in self.candidate.lacks
        movement = self.candidate.level_in(asked.week)
        if movement is None:
            return self._bare(asked, State.NO_ROOM if lacks else State.LOCKED)
        why = self.candidate.why
        return self._level(asked, movement, StandIn.ROOM if lacks and why is StandIn.LIMIT else why)

    def _level(self, asked: Prescription, movement: Movement, why: StandIn) -> Draft:
        """The work of the own level, or of what stands in, in the stead of the exercise's: no load is worked out."""
        work, deload = movement.work, asked.kind is ExposureKind.DELOAD
        own = self.plan.setting.own_work if why is StandIn.CHOSEN else None
        sets = own.sets if own and own.sets else work.sets
        ease = self.candidate.eased.get(asked.week) if own else None
        return replace(
            self._bare(asked, State.LEVEL),
            movement=movement.code,
            stands_in=why,
            sets=max(1, sets - 1) if deload else share_of(sets, ease.sets_share) if ease else sets,
            reps=1 if work.seconds else work.high,
            reserve_reps=0,
            low=0,
            high=0,
            hold_s=work.high if work.seconds else 0,
            rest_s=work.rest_s,
            **self._start(asked, movement),
        )

    def _bare(self, asked: Prescription, state: State) -> Draft:
        inputs = inputs_of(self.candidate, self.plan.rules)
        draft = _asked_draft(self.plan, self.athlete_id, asked, state, inputs)
        return replace(draft, **self._start(asked, self.plan.movement)) if state is State.WORK else draft

    def _start(self, asked: Prescription, movement: Movement) -> dict[str, Any]:
        """The load the first set begins with, for somebody who has never lifted it."""
        room = self.plan.room_in(asked.week)
        rig = next(iter(rigs_for(movement, room)), None)
        if movement.code not in self.candidate.starts or rig is None:
            return {}
        ratio_kg, mass_kg = self.candidate.starts[movement.code], self.candidate.body_mass_kg
        load = first_load(movement, loads_on(room, rig), mass_kg, ratio_kg, self.plan.rules)
        return {"start_amount": load.total.amount, "load_unit": load.total.unit.value} if load else {}


def inputs_of(candidate: Candidate, rules: Rules) -> dict[str, Any]:
    """What a cell was worked out from, for reading: nothing is planned from it."""
    current = candidate.current
    return {
        "formula": rules.formula,
        "newcomer": candidate.newcomer,
        "readiness_check": [finding.code for finding in candidate.readiness_check],
        "estimate_kg": current.max_kg if current else None,
        "low_kg": current.value.low_kg if current else None,
        "high_kg": current.value.high_kg if current else None,
        "newest_on": current.newest_on.isoformat() if current else None,
        "stale": current.stale if current else False,
    }


def draft_of_week(
    plan: ExercisePlan, athlete_id: int, week: PlannedWeek, inputs: Mapping[str, Any], origin: Origin = Origin.PLAN
) -> Draft:
    """The draft of a planned week: its load, or the word that the target is under the lightest there is.

    Under body weight there is no lighter bar: the reps stay, and it is done as it goes.
    """
    if week.load is None and plan.movement.implement is Implement.BODY:
        return replace(_asked_draft(plan, athlete_id, week.prescription, State.WORK, inputs), origin=origin)
    state = State.LOAD if week.load else State.UNDER_BAR
    offers = [_offer(offer) for offer in week.offers]
    draft = _asked_draft(plan, athlete_id, week.prescription, state, {**inputs, "offers": offers})
    draft = replace(
        draft,
        origin=origin,
        target_kg=week.target_kg,
        planning_max_kg=week.planning_max_kg,
        estimate_kg=week.cap.estimate_kg,
        cap_kg=week.cap.most_kg,
        working=week.working,
    )
    return replace(draft.loaded(week.load), over_cap=week.breaks_cap)


def _offer(offer: Offer) -> dict[str, str]:
    load = offer.load
    named = {"bar": load.rig.code, "name": load.rig.name, "load": load.total.text} if load else {}
    return {"kind": offer.kind} | named


def _asked_draft(
    plan: ExercisePlan, athlete_id: int, asked: Prescription, state: State, inputs: Mapping[str, Any]
) -> Draft:
    exercise, week = plan.places[asked.week]
    return Draft(
        exercise_id=exercise.id,
        athlete_id=athlete_id,
        week=week,
        kind=asked.kind,
        wave=asked.wave,
        sets=asked.sets,
        reps=asked.reps,
        reserve_reps=asked.reserve_reps,
        low=asked.low,
        high=asked.high,
        hold_s=asked.hold_s,
        rest_s=usual_rest_s(asked, plan.movement, plan.setting.given, plan.rules),
        state=state,
        room_id=plan.elsewhere.get(asked.week),
        inputs=inputs,
    )
