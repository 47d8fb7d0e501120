"""Names within a sentence, and whom of a list somebody means."""

import pytest

from backsquat.ui.phrases.names import in_text, meant, near


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


NAMES = ["Back squat", "Box squat", "Split squat", "Calf raise with end hold", "Romanian deadlift", "Own level: Calves"]


@pytest.mark.parametrize(
    ("typed", "name"),
    [
        ("Back squat", "Back squat"), (" back  SQUAT ", "Back squat"), ("Calf raise", "Calf raise with end hold"),
        ("B", None), ("squat", None), ("", None), ("Leg press", None), ("romanian", "Romanian deadlift"),
    ],
)  # fmt: skip
def test_who_types_a_name_in_their_letters_or_begins_it_is_understood(typed: str, name: str | None) -> None:
    assert meant(typed, NAMES) == name


def test_what_might_have_been_meant_is_offered_and_nothing_far_off() -> None:
    assert near("squat", NAMES) == ["Box squat", "Back squat", "Split squat"]
    assert near("Romanain deadlift", NAMES) == ["Romanian deadlift"]
    assert near("zzz", NAMES) == [] and near("", NAMES) == []
