"""Which slots of a block climb as one: a lift on several days under a school that goes by exposure (rules 2.3.2)."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from backsquat.storage.models import Block, BlockSlot
from backsquat.work.plan.school_settings import AthleteSettings, athlete_settings, setting_of


def same_lift(block: Block, slot: BlockSlot) -> list[BlockSlot]:
    """The slots of a slot's movement, itself first; of everybody's own rung there is never more than one."""
    others = [one for one in block.slots if one.movement == slot.movement and one is not slot and not one.ladder]
    return [slot] if slot.ladder else [slot, *others]


def row_of(
    slot: BlockSlot, same: Sequence[BlockSlot], settings: AthleteSettings, athlete_id: int = 0
) -> tuple[BlockSlot, ...]:
    """The slots that climb as one with a slot for an athlete (0: everybody who was given nothing else), itself first.

    The same school with the same numbers on other days; twice in one session is a lift and its back-off, and no row.
    """
    mine = settings.get((slot.id, athlete_id)) or setting_of(slot)
    if not mine.school.by_exposure:
        return (slot,)
    row = [slot]
    for other in same:
        its = settings.get((other.id, athlete_id)) or setting_of(other)
        if other is not slot and its.code == mine.code and its.parameters == mine.parameters:
            row.append(other)
    apart = len({one.session_id for one in row}) == len(row)
    return tuple(row) if apart else (slot,)


def rows_at(block: Block, slots: Sequence[BlockSlot]) -> list[int]:
    """Ids of the slots of every row of several days that some slots stand in, as everybody does them."""
    rows = (row_of(slot, same_lift(block, slot), {}) for slot in slots)
    return list(dict.fromkeys(slot.id for row in rows if len(row) > 1 for slot in row))


class ExposureRows:
    """The rows of a block; nothing is asked of the database where no lift is on two days."""

    def __init__(self, session: Session, block: Block, settings: AthleteSettings | None = None) -> None:
        """`settings` of all its slots, where somebody has asked for them already."""
        self._same = {slot.id: same_lift(block, slot) for slot in block.slots}
        several = [slot_id for slot_id, same in self._same.items() if len(same) > 1]
        self._settings = athlete_settings(session, several) if settings is None and several else settings or {}

    def of(self, slot: BlockSlot, athlete_id: int) -> tuple[BlockSlot, ...]:
        """The slots of an athlete's row, the slot itself first."""
        same = self._same.get(slot.id, [slot])
        return row_of(slot, same, self._settings, athlete_id) if len(same) > 1 else (slot,)
