"""No crafted file of any kind ends in anything but what it holds or a sentence; 2,000 of each by `make trust`."""

from tests.crafted import KINDS, crafted


def test_a_crafted_file_is_read_or_refused_in_words() -> None:
    found = crafted(25)
    assert not found.faults and set(found.tried) == set(KINDS)
    assert all(found.read.get(kind, 0) < found.tried[kind] for kind in ("workbooks", "archives", "pictures"))
