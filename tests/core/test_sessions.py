"""Sharing racks and taking turns."""

from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.sessions.turns import LifterInTurn, around_closed, share_racks, turn_order

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


@given(lifters, st.integers(2, 6), st.data())
def test_who_lifts_on_an_open_rack_stays_there_when_others_close(
    group: list[LifterInTurn], racks: int, data: st.DataObject
) -> None:
    closed = data.draw(st.sets(st.integers(0, racks - 1), max_size=racks - 1))
    before = share_racks(group, racks)
    after = around_closed(before, racks, closed)
    assert sorted(lifter.athlete_id for rack in after for lifter in rack) == [lifter.athlete_id for lifter in group]
    assert len(after) == racks and not any(after[n] for n in closed)
    for n, was in enumerate(before):
        if n not in closed:
            assert after[n][: len(was)] == was, "nobody moves who need not, and who comes stands behind"
    if len(before) + len(closed) <= racks:  # free racks for all of them: groups stay together
        assert {*before} == {rack for rack in after if rack}


def test_a_group_without_a_free_rack_is_shared_out_by_load_among_the_smallest() -> None:
    at = [LifterInTurn(n, load, 1, 3) for n, load in enumerate((40, 42, 60, 62, 100, 102))]
    light, middle, heavy = around_closed([at[:2], at[2:4], at[4:]], 3, [1])
    assert ([one.load_kg for one in light], middle) == ([40, 42, 60], ())
    assert [one.load_kg for one in heavy] == [100, 102, 62], "the first went to the lighter ones, who are three now"
