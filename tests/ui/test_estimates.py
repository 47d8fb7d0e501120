"""What a number rests on, in a word and in a sentence."""

import datetime as dt
from dataclasses import replace

import pytest

from backsquat.core.strength.current import CurrentValue
from backsquat.core.strength.estimate import Trust
from backsquat.ui.phrases.estimates import doubt_word, newest_words


@pytest.mark.parametrize(
    ("stale", "firm", "word", "words"),
    [
        (False, True, "", "last reliable set 3 Nov"),
        (True, True, "stale", "stale, nothing firm since 3 Nov"),
        (True, False, "at least", "at least that: no set says its RIR, newest 3 Nov"),
        (False, False, "at least", "at least that: no set says its RIR, newest 3 Nov"),
    ],
)
def test_an_old_number_is_stale_and_an_unrated_one_a_least(stale: bool, firm: bool, word: str, words: str) -> None:
    value = CurrentValue(100.0, 0.05, Trust.WEAK, dt.date(2026, 11, 3), stale, firm=firm)
    assert (doubt_word(value), newest_words(value)) == (word, words)
    away = replace(value, away_days=60, away_share=0.83)
    assert doubt_word(away) == "60 days away" and newest_words(away).startswith("100 kg before 60 days without")
