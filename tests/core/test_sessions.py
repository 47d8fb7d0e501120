"""Sharing racks and taking turns."""

from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.sessions.turns import LifterInTurn, share_racks, turn_order

lifters = st.lists(st.tuples(st.floats(20, 200), st.integers(0, 3)), max_size=20).map(
    lambda rows: [LifterInTurn(n, load, done, 3) for n, (load, done) in enumerate(rows)]
)


@given(lifters, st.integers(1, 6))
def test_everybody_has_one_rack_and_racks_are_even_and_ordered(group: list[LifterInTurn], racks: int) -> None:
    shared = share_racks(group, racks)
    assert sorted(lifter.athlete_id for rack in shared for lifter in rack) == [lifter.athlete_id for lifter in group]
    sizes = [len(rack) for rack in shared]
    assert len(sizes) <= racks and (not sizes or max(sizes) - min(sizes) <= 1) and 0 not in sizes
    loads = [lifter.load_kg for rack in shared for lifter in rack]
    assert loads == sorted(loads)


@given(lifters)
def test_nobody_has_two_sets_before_everybody_has_one(group: list[LifterInTurn]) -> None:
    order = turn_order(group)
    assert [lifter.sets_done for lifter in order] == sorted(lifter.sets_done for lifter in order)
    assert not any(lifter.finished for lifter in order)
    assert len(order) == sum(lifter.sets_done < 3 for lifter in group)
