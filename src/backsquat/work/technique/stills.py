"""Pictures of athletes from the side: taken with consent, marked, read, erased.

A picture is a fact about somebody's body and treated like what is known of their health: nobody outside the staff but
the athlete sees it, looking leaves a line, and withdrawing consent erases it. What was read from it stays.
"""

import datetime as dt
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session, undefer

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.core.rules import Rules
from backsquat.core.technique.linkage import BOUNDS
from backsquat.core.technique.still import MeasuredAngle, Spot, StillKind, TakenStill, measure
from backsquat.storage.models import Reading, Still, StillMark, User
from backsquat.work.audit import note
from backsquat.work.context import WorkContext
from backsquat.work.policy import Act, only_own, require
from backsquat.work.squad.athletes import athlete_of
from backsquat.work.squad.consents import agreed_to_pictures, set_pictures

NOTE_MOST = 200
PLATE_CM = (10.0, 60.0)
STILLS_MOST = 400  # of one athlete


@dataclass(frozen=True)
class StillFacts:
    """What is said of a picture as it is added; its pixels have been made again by then."""

    kind: StillKind
    taken_on: dt.date
    faces_right: bool
    picture: bytes
    width: int
    height: int
    movement: str = ""
    wedge_mm: int = 0
    load_kg: float = 0.0
    note: str = ""


@dataclass(frozen=True)
class Seen:
    """A picture with the mark that stands, what it says, and who took and marked it."""

    still: Still
    mark: StillMark | None
    measured: MeasuredAngle | None
    taken_by: str
    marked_by: str

    @property
    def points(self) -> dict[Spot, tuple[float, float]]:
        """The placed points; none where nobody has."""
        return placed(self.mark.points) if self.mark else {}


def placed(points: Mapping[str, Sequence[float]]) -> dict[Spot, tuple[float, float]]:
    """Points as kept, read back."""
    return {Spot(name): (float(x), float(y)) for name, (x, y) in points.items()}


def add_still(context: WorkContext, athlete_id: int, facts: StillFacts) -> Still:
    """Keep a picture. Refused without consent; ImpossibleInput where what is said of it cannot be."""
    require(context.actor, Act.SCREEN)
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    if not agreed_to_pictures(context.db, [athlete_id]):
        raise Refused("pictures_not_agreed", name=athlete.name)
    if facts.movement:
        context.library.get(facts.movement)
    wrong = []
    if facts.taken_on > context.today:
        wrong.append(Problem("taken_on", "in_future", {"today": context.today.isoformat()}))
    if facts.taken_on < athlete.born_on:
        wrong.append(Problem("taken_on", "before_birth"))
    for name, value in (("wedge_mm", facts.wedge_mm), ("load_kg", facts.load_kg)):
        low, high = BOUNDS[name]
        if not low <= value <= high:
            wrong.append(Problem(name, "between", {"low": low, "high": high}))
    if len(facts.note) > NOTE_MOST:
        wrong.append(Problem("note", "too_long", {"most": NOTE_MOST}))
    if wrong:
        raise ImpossibleInput(*wrong)
    if (context.db.scalar(select(func.count(Still.id)).where(Still.athlete_id == athlete_id)) or 0) >= STILLS_MOST:
        raise Refused("pictures_many", most=STILLS_MOST)
    still = Still(
        **{**vars(facts), "kind": facts.kind.value}, athlete_id=athlete_id, by_id=context.actor.user_id, at=context.now
    )
    context.db.add(still)
    context.db.flush()
    note(context.db, context.actor, "still_added", athlete=athlete_id, picture=still.id)
    return still


def still_of(context: WorkContext, still_id: int) -> Still:
    """A picture of this squad, or of the athlete who asks; NotThere where it is none of theirs."""
    still = context.db.get(Still, still_id)
    if still is None:
        raise NotThere("still")
    athlete_of(context.db, context.squad_id, still.athlete_id)
    only_own(context.actor, still.athlete_id)
    return still


def pixels_of(context: WorkContext, still_id: int) -> bytes:
    """The picture itself. NotThere once erased, or where consent does not stand."""
    still = still_of(context, still_id)
    if still.erased_at or not agreed_to_pictures(context.db, [still.athlete_id]):
        raise NotThere("still")
    query = select(Still).where(Still.id == still.id).options(undefer(Still.picture))
    return context.db.scalars(query.execution_options(populate_existing=True)).one().picture


def log_looking(context: WorkContext, athlete_id: int) -> None:
    """Opening somebody's pictures leaves a line, every time."""
    context.db.add(Reading(athlete_id=athlete_id, what="pictures", by_id=context.actor.user_id, at=context.now))
    note(context.db, context.actor, "pictures_seen", athlete=athlete_id)


def mark_still(
    context: WorkContext,
    still_id: int,
    points: Mapping[Spot, tuple[float, float]],
    plate_cm: float,
    suggested_by: str = "",
) -> StillMark:
    """Keep where the points are. ImpossibleInput as `measure`; nothing is written where they stand so already."""
    require(context.actor, Act.SCREEN)
    still = still_of(context, still_id)
    if still.erased_at:
        raise Refused("picture_erased")
    if plate_cm and not PLATE_CM[0] <= plate_cm <= PLATE_CM[1]:
        raise ImpossibleInput(Problem("plate_cm", "between", {"low": PLATE_CM[0], "high": PLATE_CM[1]}))
    if not points:
        raise ImpossibleInput(Problem("points", "no_points"))
    measure(taken_of(still, points, plate_cm), context.rules)
    plain = {spot.value: [round(x, 1), round(y, 1)] for spot, (x, y) in points.items()}
    before = newest_marks(context.db, [still.id]).get(still.id)
    if before and (before.points, before.plate_cm) == (plain, plate_cm):
        return before
    mark = StillMark(
        still_id=still.id,
        points=plain,
        plate_cm=plate_cm,
        suggested_by=suggested_by[:80],
        by_id=context.actor.user_id,
        at=context.now,
    )
    context.db.add(mark)
    context.db.flush()
    return mark


def taken_of(still: Still, points: Mapping[Spot, tuple[float, float]], plate_cm: float) -> TakenStill:
    """A picture as the rules take it."""
    return TakenStill(StillKind(still.kind), still.width, still.height, still.faces_right, points, plate_cm)


def newest_marks(db: Session, still_ids: Sequence[int]) -> dict[int, StillMark]:
    """The mark that stands of each picture."""
    newest = select(func.max(StillMark.id)).where(StillMark.still_id.in_(still_ids)).group_by(StillMark.still_id)
    return {row.still_id: row for row in db.scalars(select(StillMark).where(StillMark.id.in_(newest)))}


def stills_of(db: Session, athlete_ids: Sequence[int], rules: Rules) -> dict[int, list[Seen]]:
    """Everybody's pictures with what they say, the newest first; three queries for all."""
    query = select(Still).where(Still.athlete_id.in_(athlete_ids)).order_by(Still.taken_on.desc(), Still.id.desc())
    stills = list(db.scalars(query))
    marks = newest_marks(db, [still.id for still in stills])
    people = {still.by_id for still in stills} | {mark.by_id for mark in marks.values()}
    rows = db.execute(select(User.id, User.name).where(User.id.in_(people))).all()
    names = {user_id: name for user_id, name in rows}  # noqa: C416 - rows are no mapping
    found: dict[int, list[Seen]] = defaultdict(list)
    for still in stills:
        mark = marks.get(still.id)
        measured = measure(taken_of(still, placed(mark.points), mark.plate_cm), rules) if mark else None
        marked_by = names[mark.by_id] if mark else ""
        found[still.athlete_id].append(Seen(still, mark, measured, names[still.by_id], marked_by))
    return found


def put_on_card(context: WorkContext, still_id: int, on: bool) -> Still:
    """Let a picture stand on the athlete's own card with its movement, or no more. Refused where it has none."""
    require(context.actor, Act.SCREEN)
    still = still_of(context, still_id)
    if on and (still.erased_at or not still.movement):
        raise Refused("no_card_movement")
    still.on_card = on
    note(
        context.db,
        context.actor,
        "still_on_card" if on else "still_off_card",
        athlete=still.athlete_id,
        picture=still.id,
    )
    context.db.flush()
    return still


def on_cards(db: Session, athlete_ids: Sequence[int]) -> dict[tuple[int, str], bytes]:
    """(athlete, movement) → the newest picture for the own card, while consent stands."""
    agreed = agreed_to_pictures(db, athlete_ids)
    query = select(Still).where(Still.athlete_id.in_(list(agreed)), Still.on_card, Still.erased_at.is_(None))
    rows = db.scalars(
        query.order_by(Still.taken_on, Still.id)
        .options(undefer(Still.picture))
        .execution_options(populate_existing=True)
    )
    return {(row.athlete_id, row.movement): row.picture for row in rows}


def erase_still(context: WorkContext, still_id: int) -> Still:
    """The pixels gone for good; date, set-up and what was read stay."""
    require(context.actor, Act.KEEP_ATHLETES)
    still = still_of(context, still_id)
    _erase(context, [still])
    return still


def _erase(context: WorkContext, stills: Sequence[Still]) -> int:
    fresh = [still for still in stills if not still.erased_at]
    for still in fresh:
        still.picture, still.on_card = b"", False
        still.erased_at, still.erased_by_id = context.now, context.actor.user_id
        note(context.db, context.actor, "still_erased", athlete=still.athlete_id, picture=still.id)
    context.db.flush()
    return len(fresh)


def say_pictures(context: WorkContext, athlete_id: int, agreed: bool, by: str) -> int:
    """Consent to pictures given, or withdrawn and with it every picture erased; how many that were."""
    athlete = athlete_of(context.db, context.squad_id, athlete_id)
    if agreed and not by.strip():
        raise ImpossibleInput(Problem("by", "missing"))
    set_pictures(context, athlete, agreed, by)
    if agreed:
        return 0
    return _erase(context, context.db.scalars(select(Still).where(Still.athlete_id == athlete_id)).all())
