"""Names within a sentence."""

import pytest

from backsquat.ui.phrases.names import in_text


@pytest.mark.parametrize(
    ("name", "said"),
    [
        ("Back squat", "back squat"),
        ("Romanian deadlift", "Romanian deadlift"),
        ("Nordic, lowering only", "Nordic, lowering only"),
        ("Nordic", "Nordic"),
        ("SSB squat", "SSB squat"),
        ("B-stance hinge", "B-stance hinge"),
        ("Box squat to the RFE box", "box squat to the RFE box"),
        ("", ""),
        (" ", " "),
    ],
)
def test_only_what_is_no_name_of_its_own_begins_small(name: str, said: str) -> None:
    assert in_text(name) == said
