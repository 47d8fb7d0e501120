"""From one load to the next on the same bar: which plates come off a side, which go on."""

from dataclasses import dataclass

from backsquat.core.loads.mass import Mass


@dataclass(frozen=True)
class PlateChange:
    """Plates of one side, in the order they are handled."""

    off: tuple[Mass, ...]  # outermost first
    on: tuple[Mass, ...]  # innermost first

    @property
    def moves(self) -> int:
        """Plates to be taken off and put on, on one side."""
        return len(self.off) + len(self.on)


def plate_change(now: tuple[Mass, ...], then: tuple[Mass, ...]) -> PlateChange:
    """The change a side needs. Plates sit largest inside, so all outside the first difference moves."""
    same = 0
    for have, want in zip(now, then, strict=False):
        if have != want:
            break
        same += 1
    return PlateChange(tuple(reversed(now[same:])), then[same:])
