"""Wording of estimates: how far to trust them, why a set does not count."""

from backsquat.core.strength.current import CurrentValue
from backsquat.core.strength.estimate import Trust
from backsquat.ui.phrases.days import day_words

TRUST = {
    Trust.GOOD: "good", Trust.FAIR: "fair", Trust.WEAK: "weak", Trust.NONE: "none",
}  # fmt: skip


NOT_COUNTED = {
    "no_rep_to_depth": "No rep reached the depth standard, so the set says nothing about strength at that depth.",
    "form_broke": "Form broke, so the set does not count towards the e1RM.",
    "pain": "Pain stopped the set, so it does not count towards the e1RM.",
    "held": "Seconds held say nothing about a maximum; they count for the ladder.",
    "supported": "A hand held on to something, so the set is not compared with free ones.",
    "other_manner": "Done another way on purpose (range, pause, tempo): a record line of its own.",
    "share_unknown": "How much of the body this moves is not known, so it is progressed by reps and levels.",
    "no_load": "Without a load a set says how many reps, not how much; it counts for reps and levels.",
    "all_help": "The help was as much as what was moved, so the set says nothing about strength.",
    "too_many_reps": "Too many reps for a maximum to be told from them; test with 3 to 8 reps.",
}


def doubt_word(value: CurrentValue) -> str:
    """One word for what a number rests on, where it is little; days without training before anything."""
    if value.away_days:
        return f"{value.away_days} days away"
    if not value.firm:
        return "at least"
    return "stale" if value.stale else ""


def newest_words(value: CurrentValue) -> str:
    """How new what a number rests on is; after time away, what it was before."""
    day = day_words(value.newest_on)
    if value.away_days:
        return f"{value.max_kg:.0f} kg before {value.away_days} days without training, last reliable set {day}"
    if not value.firm:
        return f"at least that: no set says its RIR, newest {day}"
    return f"stale, nothing firm since {day}" if value.stale else f"last reliable set {day}"
