"""A deload week out of turn: on red flags, or because the coach says so. Only that week changes."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace

from sqlalchemy import or_, select
from sqlalchemy.orm import Session, aliased

from backsquat.core.errors import Refused
from backsquat.core.loads.rounding import eased_load, how_made
from backsquat.core.progression.cell import LIFTED, Origin
from backsquat.core.progression.parameters import Parameters, deload_sets
from backsquat.core.progression.prescription import ExposureKind
from backsquat.core.working import Fact, Step
from backsquat.storage.models import Athlete, Block, Cell, Change
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember
from backsquat.work.log.sets import logged_cells
from backsquat.work.plan.cells import cell_load, movement_of, place_drafts
from backsquat.work.plan.drafts import Draft
from backsquat.work.plan.progression_settings import athlete_settings, setting_of
from backsquat.work.policy import Act, require
from backsquat.work.rooms.rooms import rooms_of
from backsquat.work.sessions.blocks import block_of, to_come


@dataclass
class Easing:
    """What a week still holds for an athlete: cells that can be made a deload, and how many are already."""

    open: list[Cell] = field(default_factory=list)
    deload: int = 0


def easings(context: WorkContext, block: Block, week: int) -> dict[int, Easing]:
    """By athlete, what is still to come in a week of the block; a few queries for everybody."""
    exercises = {exercise.id: exercise for exercise in block.exercises}
    logged = logged_cells(context.db, list(exercises))
    cells = context.db.scalars(
        select(Cell)
        .where(Cell.exercise_id.in_(list(exercises)), Cell.week == week, Cell.current, Cell.state.in_(LIFTED))
        .order_by(Cell.id)
    )
    found: dict[int, Easing] = {}
    for cell in cells:
        if not to_come(exercises[cell.exercise_id], week, context.today):
            continue
        easing = found.setdefault(cell.athlete_id, Easing())
        if cell.kind is not ExposureKind.WORK:
            easing.deload += 1
        elif (cell.exercise_id, cell.athlete_id, week) not in logged:
            easing.open.append(cell)
    return found


def eased_drafts(
    context: WorkContext,
    block: Block,
    week: int,
    athlete_ids: Collection[int] | None = None,
    exercise_ids: Collection[int] | None = None,
    flags: Collection[str] = (),
    *,
    keep_load: bool = False,
) -> list[Draft]:
    """Fewer sets and a lighter load in what is left of a week, of everybody and all work where nothing else is said.

    `keep_load`: the load stays as it is, a taper. `flags` are the codes of what asked for it; none: the coach's own
    choice. The drafts are the coach's own, so that planning again leaves them easy.
    """
    exercises = {exercise.id: exercise for exercise in block.exercises}
    settings = athlete_settings(context.db, list(exercises))
    rooms, library = rooms_of(context.db, context.squad_id), context.library
    drafts = []
    for athlete_id, easing in easings(context, block, week).items():
        for cell in easing.open if athlete_ids is None or athlete_id in athlete_ids else ():
            if exercise_ids is not None and cell.exercise_id not in exercise_ids:
                continue
            exercise = exercises[cell.exercise_id]
            parameters = (settings.get((exercise.id, athlete_id)) or setting_of(exercise)).parameters
            load = cell_load(rooms.of_cell(cell), movement_of(library, exercise, cell), cell)
            facts: Mapping[str, Fact] = {"flags": " ".join(flags), "sets": cell.sets}
            eased = _deload_sets(cell, parameters)
            step = Step("deload_week", facts, eased.sets)
            if load is None or keep_load:
                drafts.append(replace(eased, working=eased.working.then(step)))
                continue
            share = parameters.deload_load_share
            lighter, rounded = eased_load(load, share, rooms.of_cell(cell))
            eased = replace(eased, target_kg=load.kg * share)
            steps = (step, Step("deload_load", {"load_kg": load.kg, "share": share}, load.kg * share, "kg"))
            drafts.append(replace(eased.loaded(lighter, *steps, rounded, how_made(lighter)), over_cap=False))
    return drafts


def ease_week(
    context: WorkContext, block_id: int, athlete_ids: Collection[int], week: int, flags: Collection[str] = ()
) -> tuple[Change, int]:
    """What is left of a week made a deload for these athletes, as a draft; one undo for all. Refused where nothing is."""
    require(context.actor, Act.PLAN)
    block = block_of(context.db, context.squad_id, block_id)
    drafts = eased_drafts(context, block, week, athlete_ids, flags=flags)
    if not drafts:
        raise Refused("no_easing")
    replaced = place_drafts(context, drafts).replaced
    before = {"cells": replaced}
    names = context.db.scalars(select(Athlete.name).where(Athlete.id.in_({draft.athlete_id for draft in drafts})))
    named = {"names": sorted(names), "week": week + 1}
    change = remember(context, what="week_eased", subject="cells", subject_id=block.id, before=before, facts=named)
    return change, len(drafts)


def before_easing(db: Session, replaced: Collection[int]) -> list[int]:
    """Of the cells an easing replaced, those that may come back: it still stands there, and the row is what it was.

    A row in which anything but an easing was written since then is another one by now.
    """
    eased, newer = aliased(Cell), aliased(Cell)
    since = (newer.exercise_id == Cell.exercise_id) & (newer.athlete_id == Cell.athlete_id) & (newer.id > eased.id)
    another = (
        select(newer.id).where(since, or_(newer.kind != ExposureKind.DELOAD, newer.origin != Origin.COACH)).exists()
    )
    stands = (eased.replaces_id == Cell.id) & eased.current & (eased.kind == ExposureKind.DELOAD)
    return list(db.scalars(select(Cell.id).join(eased, stands).where(Cell.id.in_(replaced), ~another)))


def _deload_sets(cell: Cell, parameters: Parameters) -> Draft:
    """The cell with the deload week's sets: a share of them, never more than it was."""
    sets = deload_sets(parameters) if not cell.movement else max(1, cell.sets - 1)
    return replace(Draft.of(cell), kind=ExposureKind.DELOAD, sets=min(cell.sets, sets), origin=Origin.COACH)
