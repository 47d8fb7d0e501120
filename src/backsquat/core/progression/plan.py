"""From a planning max to the loads one athlete will really lift, week by week.

For each week: the progression's prescription → load from the inverse formula, or from the last load →
ceilings → nearest load of this room. What comes back holds the working of every number.

No load is planned with which the last set would be made less often than agreed (`chance_work`): in a rep window the
reps give way first, then the load. Where the room's next load is too far for that, reps grow first.
"""

from collections.abc import Sequence
from dataclasses import replace

from backsquat.core.loads.achievable import Load
from backsquat.core.loads.ceilings import Ceiling, CeilingKind, round_under
from backsquat.core.loads.room import RigKind
from backsquat.core.loads.rounding import RoundedLoad, Rounding, grains, how_made, offers_under_bar
from backsquat.core.progression.caps import Cap, cap_for
from backsquat.core.progression.finding import still_finding
from backsquat.core.progression.parameters import share_of
from backsquat.core.progression.prescription import Basis, ExposureKind, Prescription
from backsquat.core.progression.target import target_of, wave_max
from backsquat.core.progression.terms import BARS, PlanBase, PlannedWeek, Progress, Terms, counted_reps, planned_reps
from backsquat.core.working import Fact, Step

CLOSE_KG = 1e-6  # caps are worked out in floats
IN_HAND = frozenset({RigKind.DUMBBELLS, RigKind.DUMBBELL, RigKind.KETTLEBELL, RigKind.PLATE, RigKind.BAG, RigKind.SLED})
SMALL_PLATES_KG = (1.25, 1.0, 0.75, 0.5, 0.25)  # what is sold to make a coarse room finer
GROWS = (Basis.MAX, Basis.LAST)  # where reps may grow in the load's stead


def plan_weeks(prescriptions: Sequence[Prescription], base: PlanBase, terms: Terms) -> tuple[PlannedWeek, ...]:
    """Plan the given weeks in order. Never above a cap unless marked; never a load the room lacks."""
    before = terms.eased.get(base.weeks_before - 1)
    done = {reps: load for reps, _reserve, load in base.same_reps_kg}
    working = [p for p in prescriptions if p.kind is ExposureKind.WORK]
    alike = len({p.reps for p in working}) == 1
    progress = Progress(base.last_kg, 0, done, last_ease=before.load_share if before else 1.0, reps_alike=alike)
    weeks, nth = [], 0
    for laid in prescriptions:
        prescription = _worked_on_return(laid, working, terms)
        if laid.kind is ExposureKind.WORK:
            asked = replace(working[nth], week=prescription.week)
            if _must_wait(asked, base, progress, terms.in_week(prescription.week)):
                aim = replace(asked.aim, steps=0)
                reps = asked.reps if asked.fixed_reps else progress.last_reps + 1
                prescription = replace(asked, reps=reps, aim=aim, wave=max(asked.wave - 1, 0))
            else:
                prescription, nth = asked, nth + 1
        prescription = _no_harder_deload(_fewer_sets(prescription, terms), progress)
        week = _fewer_on_the_same(_plan_week(prescription, base, terms, progress), progress, terms)
        if week.load and prescription.kind is ExposureKind.WORK:
            progress.done[prescription.reps] = week.load.kg
            progress.last_kg, progress.last_reps = week.load.kg, week.prescription.reps
            progress.last_reserve = week.prescription.reserve_reps
            progress.fewer_reps = max(prescription.reps - week.prescription.reps, 0) if not prescription.low else 0
            progress.worked += 1
            ease = terms.eased.get(prescription.week)
            progress.last_ease = ease.load_share if ease else 1.0
            progress.meant_kg = week.target_kg if ease else None
        weeks.append(week)
    return tuple(weeks)


def _no_harder_deload(prescription: Prescription, progress: Progress) -> Prescription:
    """A deload that goes on from the working week before it asks no more reps than that did, nor less in reserve."""
    deload = prescription.kind is ExposureKind.DELOAD and prescription.aim.basis is Basis.LAST
    if not deload or not progress.worked:
        return prescription
    reserve = max(prescription.reserve_reps, progress.last_reserve)
    return replace(prescription, reps=min(prescription.reps, progress.last_reps), reserve_reps=reserve)


def _fewer_on_the_same(week: PlannedWeek, progress: Progress, terms: Terms) -> PlannedWeek:
    """A deload asks no more reps than the work: of the same load, where the room has nothing lighter; as many fewer as
    the work before it had for a coarse step; and so few that they leave no less than that did.
    """
    asked, last_kg = week.prescription, progress.last_kg
    if asked.kind is not ExposureKind.DELOAD or not progress.worked:
        return week
    heavy = week.load is not None and last_kg is not None and week.load.kg >= last_kg - CLOSE_KG
    reps = max(asked.reps - progress.fewer_reps, 1)
    reps = min(reps, progress.last_reps) if heavy else reps
    if week.load is not None and last_kg is not None:
        before = terms.left_after(last_kg, progress.last_reps, 0.0)
        while reps > 1 and before and (terms.left_after(week.load.kg, reps, 0.0) or 0.0) < before:
            reps -= 1
    return replace(week, prescription=replace(asked, reps=reps))


def _worked_on_return(asked: Prescription, working: Sequence[Prescription], terms: Terms) -> Prescription:
    """No deload right on a return: the week is worked, as eased as the return has it."""
    first = min(terms.eased, default=0)
    back = first <= asked.week < first + terms.rules.return_work_weeks * terms.a_week
    back = back and (asked.week in terms.eased or asked.week - 1 in terms.eased)
    if asked.kind is not ExposureKind.DELOAD or not back:
        return asked
    sets = max((one.sets for one in working), default=asked.sets)
    return replace(asked, kind=ExposureKind.WORK, sets=sets)


def _fewer_sets(prescription: Prescription, terms: Terms) -> Prescription:
    """Fewer sets after time away; in season never fewer than two."""
    ease = terms.eased.get(prescription.week)
    if not ease:
        return prescription
    least = min(terms.rules.in_season_least_sets, prescription.sets) if terms.in_season else 1
    return replace(prescription, sets=max(share_of(prescription.sets, ease.sets_share), least))


def _must_wait(asked: Prescription, base: PlanBase, progress: Progress, terms: Terms) -> bool:
    """A coarse step is paid in reps first: the next load must promise the bottom of the window."""
    if not asked.aim.waits or progress.last_kg is None or not progress.last_reps or progress.last_reps >= 30:
        return False
    following = terms.loads.climbed(progress.last_kg, asked.aim.steps, terms.rules.step_least).kg
    if progress.last_reps < asked.high or following <= progress.last_kg + CLOSE_KG:
        return True  # not at the top yet, or at the heaviest there is: reps go on growing
    most = terms.most_by_chance(asked, terms.ahead(asked, base))
    if most is not None:
        return following > most
    reached = terms.max_for(progress.last_kg, counted_reps(progress.last_reps, asked.reserve_reps, terms.rules))
    return terms.reps_at(following, max(reached, base.planning_max_kg)) < asked.low


def _plan_week(prescription: Prescription, base: PlanBase, terms: Terms, progress: Progress) -> PlannedWeek:
    week = _as_asked(prescription, base, terms, progress)
    full = week.prescription.reps - prescription.reps >= terms.rules.coarse_reps
    stays = terms.in_season or terms.newcomer or prescription.low or not progress.reps_alike
    return week if stays or not full else _on_the_next(week, prescription, base, terms, progress) or week


def _on_the_next(
    week: PlannedWeek, asked: Prescription, base: PlanBase, terms: Terms, progress: Progress
) -> PlannedWeek | None:
    """Where even the most reps at this load leave plenty: the room's next load with fewer, as hard as was asked.

    Not for newcomers, who have reps to learn with, nor where the reps fall from week to week and the load rises anyway.
    """
    here, least = terms.in_week(asked.week), max(asked.reps - terms.rules.coarse_reps, terms.rules.coarse_least_reps)
    for reps in range(asked.reps - 1, least - 1, -1):
        other = _as_asked(replace(asked, reps=reps), base, terms, progress)
        if other.load is None or week.load is None or other.load.kg <= week.load.kg + CLOSE_KG:
            continue
        left = here.left_after(other.load.kg, reps, here.ahead(asked, base)) or 0.0
        often = (other.chance or 0.0) >= terms.rules.chance_work
        if other.breaks_cap or not often or left < asked.reserve_reps or other.prescription.reps != reps:
            continue
        facts: dict[str, Fact] = {"reps": asked.reps, "last_kg": week.load.kg, "more": week.prescription.reps}
        return replace(other, working=other.working.then(Step("coarse_fewer", facts, reps, "reps")))
    return None


def _as_asked(prescription: Prescription, base: PlanBase, terms: Terms, progress: Progress) -> PlannedWeek:
    max_kg, steps = wave_max(prescription, base, terms)  # its steps are those of the squad's own room
    if prescription.week in terms.elsewhere:
        terms = terms.in_week(prescription.week)
        steps += (Step("room", {"room": terms.room.name, "rig": terms.rig.name}),)
    target, target_step = target_of(prescription, max_kg, base, terms, progress)
    prescription = _fewer_reps(prescription, target, base, terms)
    cap = _cap(prescription, base, terms, progress)
    ceilings = _ceilings(prescription, base, terms, progress)
    wanted, under_steps = _under(target, ceilings, prescription, terms, progress)
    steps += (target_step, *under_steps)
    load, breaks_cap = _load(prescription, wanted, cap, ceilings, terms, progress)
    if load is None:
        offers = offers_under_bar(min(wanted, cap.most_kg), terms.room, terms.rig)
        working = base.working.then(*steps, Step("under_bar", {"rig": terms.rig.name}))
        return PlannedWeek(prescription, None, wanted, max_kg, cap, False, offers, working)
    kept = not base.reps_grow or any(step.code != "under_chance" for step in under_steps)
    prescription, more_steps = (prescription, ()) if kept else _more_reps(prescription, load, base, terms)
    steps += (cap.step(load.load.kg), *_marked(load.load, breaks_cap, progress))
    steps += (*more_steps, replace(load, target_kg=wanted).step)
    ahead = terms.ahead(prescription, base)
    chance = terms.chance_of(load.load.kg, prescription, ahead)
    left = terms.left_after(load.load.kg, prescription.reps, ahead)
    if chance is not None and left is not None:
        facts: dict[str, Fact] = {"sets": prescription.sets, "reps": prescription.reps, "left": left}
        steps += (Step("chance", facts, chance, "share"),)
    steps += (*_both_ways(progress.last_kg, load.load), how_made(load.load))
    working = base.working.then(*steps)
    return PlannedWeek(prescription, load.load, wanted, max_kg, cap, breaks_cap, (), working, chance)


def _fewer_reps(prescription: Prescription, target_kg: float, base: PlanBase, terms: Terms) -> Prescription:
    """In a rep window the reps give way before the load, down to its bottom."""
    if prescription.kind is not ExposureKind.WORK or not prescription.low or prescription.reps <= prescription.low:
        return prescription
    load = terms.loads.nearest(grains(target_kg))
    ahead, reps = terms.ahead(prescription, base), prescription.reps
    while reps > prescription.low:
        chance = terms.chance_of(load.kg, replace(prescription, reps=reps), ahead)
        if chance is None or chance >= terms.rules.chance_work:
            break
        reps -= 1
    return replace(prescription, reps=reps)


def _more_reps(
    prescription: Prescription, rounded: RoundedLoad, base: PlanBase, terms: Terms
) -> tuple[Prescription, tuple[Step, ...]]:
    """Where the room's next load is too far, or would be made too seldom, and this one leaves plenty, reps grow first.

    A window that is to be filled in one session grows as a whole; one that reps climb through does so by itself.
    """
    ahead = terms.ahead(prescription, base)
    load, most = rounded.load, terms.most_by_chance(prescription, ahead)
    above = _too_far(prescription, rounded, most, terms)
    if above is None or most is None:
        return prescription, ()
    more, top = 0, prescription.high or prescription.reps
    while not prescription.fixed_reps and more < terms.rules.coarse_reps:
        left = terms.left_after(load.kg, top + more + 1, ahead) or 0.0
        harder = replace(prescription, reps=prescription.reps + more + 1)
        if (
            left < prescription.reserve_reps
            or (terms.chance_of(load.kg, harder, ahead) or 0.0) < terms.rules.chance_work
        ):
            break
        more += 1
    if not more:
        return prescription, ()
    facts: dict[str, Fact] = {"reps": prescription.reps, "more": prescription.reps + more, "next_kg": above.kg}
    small_kg = _small_plate_kg(min(most, above.kg - CLOSE_KG) - load.kg) if load.rig.kind in BARS else None
    if small_kg:
        facts |= {"plate_kg": small_kg, "then_kg": load.kg + 2 * small_kg}
    grown = replace(prescription, reps=prescription.reps + more)
    if prescription.low:
        grown = replace(grown, low=prescription.low + more, high=prescription.high + more)
    return grown, (Step("coarse_reps", facts, grown.reps, "reps"),)


def _too_far(prescription: Prescription, rounded: RoundedLoad, most: float | None, terms: Terms) -> Load | None:
    """The room's next load, where it is a coarse step away and over what is wanted or made often enough."""
    filled, aim = prescription.aim.reps == prescription.high, prescription.aim
    grows = prescription.kind is ExposureKind.WORK and aim.basis in GROWS and (filled or not prescription.low)
    above = terms.loads.next_above(grains(rounded.load.kg))
    if most is None or above is None or not grows:
        return None
    aimed = aim.basis is Basis.MAX and aim.reserve_reps is None  # at just so many left
    step_kg = above.kg - rounded.load.kg
    coarse = step_kg >= terms.rules.coarse_step * (rounded.load.kg + terms.carried_kg)  # else a rep or two: next week's
    return above if coarse and above.kg > (min(most, rounded.target_kg) if aimed else most) else None


def _small_plate_kg(room_kg: float) -> float | None:
    """The largest of the small plates of which a pair would fit into so many kg; None where none would."""
    return next((kg for kg in SMALL_PLATES_KG if 2 * kg <= room_kg), None)


def _cap(prescription: Prescription, base: PlanBase, terms: Terms, progress: Progress) -> Cap:
    """How far this exposure may rise over the estimate, and over the last load at the same reps."""
    return cap_for(
        estimate_kg=base.estimate_kg,
        weeks_ahead=0.0 if terms.in_season else terms.ahead(prescription, base) + 1,
        reps=planned_reps(prescription, terms.rules),
        same_reps_kg=None if still_finding(terms, progress) else progress.done.get(prescription.reps),
        newcomer=terms.newcomer,
        rules=terms.rules,
        carried_kg=terms.carried_kg,
        formula=terms.formula,
        manner_share=terms.manner_share,
    )


def _ceilings(prescription: Prescription, base: PlanBase, terms: Terms, progress: Progress) -> tuple[Ceiling, ...]:
    """What no load of this week may exceed, whatever the progression says; the cap has exemptions and stands apart."""
    found = []
    limit_kg = terms.most_kg.get(prescription.week)
    if limit_kg is not None:
        found.append(Ceiling(CeilingKind.LIMIT, limit_kg))
    if base.hold_kg is not None and prescription.wave == base.at_wave:
        found.append(Ceiling(CeilingKind.HELD, base.hold_kg))
    if base.first_most_kg is not None and not progress.first_done and prescription.kind is ExposureKind.WORK:
        found.append(Ceiling(CeilingKind.LOWER, base.first_most_kg))
    most = terms.most_by_chance(prescription, terms.ahead(prescription, base))
    if most is not None:
        found.append(Ceiling(CeilingKind.CHANCE, most))
    return tuple(found)


def _under(
    target_kg: float, ceilings: Sequence[Ceiling], prescription: Prescription, terms: Terms, progress: Progress
) -> tuple[float, tuple[Step, ...]]:
    """The target eased by a return and brought under the ceilings, each with its step of working.

    What goes on from the last load keeps to the share that one was: neither eased once more nor caught up at once.
    """
    wanted, steps = target_kg, []
    ease = terms.eased.get(prescription.week)
    if ease:
        if prescription.aim.basis is Basis.LAST and progress.last_kg is not None:
            before_kg = (
                progress.last_kg if progress.meant_kg is None else progress.meant_kg
            )  # no rounding upon rounding
            wanted = min(max(wanted, before_kg), before_kg * ease.load_share / progress.last_ease)
        else:
            wanted *= ease.load_share
        facts = {"load_share": ease.load_share, "sets_share": ease.sets_share}
        steps.append(Step("eased_return", facts, wanted, "kg"))
    if prescription.kind is ExposureKind.DELOAD and progress.last_kg is not None:
        wanted = min(wanted, progress.last_kg)  # a deload is never heavier than the work before it
    for ceiling in ceilings:
        if wanted > ceiling.most_kg:
            wanted = ceiling.most_kg
            steps.append(Step(f"under_{ceiling.kind.value}", {}, wanted, "kg"))
    return wanted, tuple(steps)


def _rounding(prescription: Prescription, terms: Terms, progress: Progress) -> Rounding:
    """Down where the load is meant to be lower: deload weeks, returns, a load taken down, in season, under a ratio."""
    lowered = prescription.aim.share < 1 and prescription.aim.basis is Basis.LAST
    deload = prescription.kind is ExposureKind.DELOAD
    first_back = prescription.week in terms.eased and prescription.week - 1 not in terms.eased
    down = deload or lowered or terms.in_season or first_back or still_finding(terms, progress)
    return Rounding.DOWN if down else Rounding.NEAREST


def _load(
    prescription: Prescription, wanted: float, cap: Cap, ceilings: Sequence[Ceiling], terms: Terms, progress: Progress
) -> tuple[RoundedLoad | None, bool]:
    """The load for a wanted kg under ceilings and cap, and whether it breaks the cap and is marked."""
    room, rig = terms.room, terms.rig
    rounded = round_under(wanted, ceilings, room, rig, _rounding(prescription, terms, progress))
    if rounded is None or (not rounded.load.kg and rig.kind in IN_HAND):
        rounded = _lightest(wanted, cap, ceilings, prescription, terms, progress)
    if rounded is None or cap.allows(rounded.load.kg):
        return rounded, False
    capped = (*ceilings, Ceiling(CeilingKind.CAP, cap.most_kg))
    lower = round_under(wanted, capped, room, rig, Rounding.DOWN)
    if lower is not None and not lower.load.kg and rig.kind in IN_HAND:
        lower = _lightest(wanted, cap, ceilings, prescription, terms, progress)
    aim, last = prescription.aim, progress.last_kg
    if aim.basis is Basis.LAST and last is not None and rounded.load.kg <= last + CLOSE_KG:
        return rounded, prescription.kind is ExposureKind.WORK  # a cap limits rises: what was lifted may be repeated
    before = progress.done.get(prescription.reps)
    if before is None and aim.basis is Basis.LAST and aim.steps > 0:
        before = last
    smallest = _smallest_step(wanted, before, lower, rounded, terms)
    return (replace(rounded, load=smallest), True) if smallest else (lower, False)


def _lightest(
    wanted: float, cap: Cap, ceilings: Sequence[Ceiling], prescription: Prescription, terms: Terms, progress: Progress
) -> RoundedLoad | None:
    """Where a target is under the lightest load there is: that load, or None, never nothing at all in the hands.

    What was lifted before stays where a week is meant to be lighter: there are fewer sets of it. A bell is taken for
    a target of more than half of it; a bar never for less than itself.
    """
    lightest = terms.loads.lightest
    rounded = RoundedLoad(lightest, wanted, _rounding(prescription, terms, progress))
    lifted = progress.worked > 0 and progress.last_kg is not None and progress.last_kg >= lightest.kg - CLOSE_KG
    if lifted and (prescription.kind is ExposureKind.DELOAD or prescription.week in terms.eased):
        most = min((one.most_kg for one in ceilings), default=lightest.kg)  # but the cap: it was lifted
        return rounded if lightest.kg <= most + CLOSE_KG else None
    near = terms.rig.kind in IN_HAND and wanted > lightest.kg / 2
    most = min([cap.most_kg, *(one.most_kg for one in ceilings)])
    return rounded if near and lightest.kg <= most + CLOSE_KG else None


def _smallest_step(
    wanted: float, before: float | None, lower: RoundedLoad | None, rounded: RoundedLoad, terms: Terms
) -> Load | None:
    """The smallest step over the load before, where the cap would allow none: always allowed, and marked; in season the
    load is kept."""
    if (
        terms.in_season
        or before is None
        or wanted <= before
        or (lower is not None and lower.load.kg > before + CLOSE_KG)
    ):
        return None
    smallest = terms.loads.next_above(grains(before))
    if smallest is None or smallest.kg > rounded.load.kg + CLOSE_KG:
        return None
    return smallest


def _marked(load: Load, breaks_cap: bool, progress: Progress) -> tuple[Step, ...]:
    if not breaks_cap:
        return ()
    same = progress.last_kg is not None and load.kg <= progress.last_kg + CLOSE_KG
    return (Step("over_cap", {"same": int(same)}, load.total.text, load.total.unit),)


def _both_ways(before_kg: float | None, load: Load) -> tuple[Step, ...]:
    """A step on a bar said both ways: so much a side is twice that in all."""
    if before_kg is None or load.rig.kind not in BARS or abs(load.kg - before_kg) < CLOSE_KG:
        return ()
    more = load.kg - before_kg
    return (Step("against_last", {"side_kg": more / 2}, more, "kg"),)
