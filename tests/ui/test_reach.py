"""The wheel of lunges: every direction at its own eighth of a turn."""

import re

from backsquat.core.strength.set_notes import DIRECTIONS
from backsquat.ui.drawing.reach import TURNS, draw_reach


def test_every_direction_has_its_own_place_and_the_open_side_lies_opposite_the_side() -> None:
    assert sorted(TURNS) == sorted(DIRECTIONS) and sorted(TURNS.values()) == list(range(8))
    assert TURNS["open side"] - TURNS["side"] == 4 and TURNS["behind and across"] - TURNS["diagonal ahead"] == 4
    assert TURNS["ahead and across"] == 7, "beside ahead, on the other side of it"


def test_a_figure_is_drawn_around_and_not_across() -> None:
    reach = {way: (50.0 + n, None) for n, way in enumerate(reversed(DIRECTIONS))}
    drawn = str(draw_reach([(reach, False)], 0, "left"))
    corners = re.search(r'd="(M[^"]+)"', drawn)
    assert corners and corners[1].count("L") == 7 and corners[1].endswith("Z")
