"""Text from outside is cleaned in one place: it can be stored and shown, and cleaning it again changes nothing."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.words import clean_plain, clean_words


@given(st.text(st.characters(codec=None, categories=None)))  # halves of pairs and control signs among them
def test_whatever_comes_can_be_stored_and_is_clean_for_good(text: str) -> None:
    clean = clean_words(text)
    clean.encode("utf-8")
    assert clean_words(clean) == clean and unicodedata.is_normalized("NFC", clean)
    assert not [sign for sign in clean if unicodedata.category(sign) in ("Cc", "Cs") and sign not in "\n\t"]


@pytest.mark.parametrize(
    ("sent", "kept"),
    [
        ("Marit Holm", "Marit Holm"), ("Zoe\u0308", "Zoë"), ("a\x00b\ud800c", "abc"), ("one\r\ntwo\rthree", "one\ntwo\nthree"),
        ("load\u202e001", "load001"), ("Łucja Ó'Byrne 🏋", "Łucja Ó'Byrne 🏋"), ("", ""),
    ],
)  # fmt: skip
def test_signs_that_are_read_stay_and_others_go(sent: str, kept: str) -> None:
    assert clean_words(sent) == kept


def test_plain_data_is_cleaned_all_through() -> None:
    assert clean_plain({"a\x00": ["b\ud800", {"c": 1.5}], "d": None}) == {"a": ["b", {"c": 1.5}], "d": None}
