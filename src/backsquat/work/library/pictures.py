"""How a movement looks: pictures and frames of clips, for the whole squad; made again before they are kept."""

from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session, undefer

from backsquat.core.errors import ImpossibleInput, NotThere, Problem, Refused
from backsquat.storage.models import Change, MovementFrame, MovementPicture
from backsquat.work.context import WorkContext
from backsquat.work.journal import remember, restores
from backsquat.work.policy import Act, require

FRAMES_MOST, PICTURES_MOST, WORDS_MOST = 8, 6, 80  # frames of one, of a movement, and what is said of one


@dataclass(frozen=True)
class FramePixels:
    """A frame to keep: a JPEG and its size."""

    pixels: bytes
    width: int
    height: int


@dataclass(frozen=True)
class Shown:
    """A picture of a movement with its frames, whose pixels are read on their own."""

    picture: MovementPicture
    frames: tuple[MovementFrame, ...]


def add_picture(context: WorkContext, movement: str, frames: Sequence[FramePixels], words: str) -> Change:
    """Keep one. Refused where the movement has as many as it can have."""
    require(context.actor, Act.PLAN)
    context.library.get(movement)
    wrong = []
    if not 1 <= len(frames) <= FRAMES_MOST:
        wrong.append(Problem("picture", "frames_range", {"most": FRAMES_MOST}))
    if len(words) > WORDS_MOST:
        wrong.append(Problem("words", "too_long", {"most": WORDS_MOST}))
    if wrong:
        raise ImpossibleInput(*wrong)
    there = select(func.count(MovementPicture.id)).where(
        MovementPicture.squad_id == context.squad_id, MovementPicture.movement == movement, ~MovementPicture.dropped
    )
    if (context.db.scalar(there) or 0) >= PICTURES_MOST:
        raise Refused("pictures_many", most=PICTURES_MOST)
    row = MovementPicture(
        squad_id=context.squad_id, movement=movement, words=words.strip(), by_id=context.actor.user_id, at=context.now
    )
    context.db.add(row)
    context.db.flush()
    context.db.add_all(
        MovementFrame(picture_id=row.id, number=n, width=one.width, height=one.height, pixels=one.pixels)
        for n, one in enumerate(frames)
    )
    context.db.flush()
    return remember(
        context, what="picture_added", subject="movement_picture", subject_id=row.id, before={"dropped": True}
    )


def drop_picture(context: WorkContext, picture_id: int) -> Change:
    """Take one away; undo gives it back."""
    require(context.actor, Act.PLAN)
    row = context.db.get(MovementPicture, picture_id)
    if row is None or row.squad_id != context.squad_id or row.dropped:
        raise NotThere("picture")
    row.dropped = True
    return remember(
        context, what="picture_dropped", subject="movement_picture", subject_id=row.id, before={"dropped": False}
    )


@restores("movement_picture")
def restore_picture(context: WorkContext, change: Change) -> dict[str, bool]:
    row = context.db.get_one(MovementPicture, change.subject_id)
    was = {"dropped": row.dropped}
    row.dropped = change.before["dropped"]
    return was


def pictures_of(db: Session, squad_id: int, movements: Collection[str]) -> dict[str, list[Shown]]:
    """What there is of each movement, the newest first; two queries for all."""
    rows = db.scalars(
        select(MovementPicture)
        .where(MovementPicture.squad_id == squad_id, MovementPicture.movement.in_(movements), ~MovementPicture.dropped)
        .order_by(MovementPicture.id.desc())
    ).all()
    frames: dict[int, list[MovementFrame]] = defaultdict(list)
    query = select(MovementFrame).where(MovementFrame.picture_id.in_([row.id for row in rows]))
    for frame in db.scalars(query.order_by(MovementFrame.number)):
        frames[frame.picture_id].append(frame)
    found: dict[str, list[Shown]] = defaultdict(list)
    for row in rows:
        found[row.movement].append(Shown(row, tuple(frames[row.id])))
    return found


def frame_pixels(db: Session, squad_id: int, frame_ids: Collection[int]) -> dict[int, bytes]:
    """The pixels of these frames, as far as they are this squad's and not dropped."""
    rows = db.scalars(
        select(MovementFrame)
        .join(MovementPicture, MovementPicture.id == MovementFrame.picture_id)
        .where(MovementFrame.id.in_(frame_ids), MovementPicture.squad_id == squad_id, ~MovementPicture.dropped)
        .options(undefer(MovementFrame.pixels))
        .execution_options(populate_existing=True)
    )
    return {row.id: row.pixels for row in rows}
