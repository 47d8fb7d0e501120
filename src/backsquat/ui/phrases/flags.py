"""Words for what spoke against a set when it came in."""

FLAGS = {
    "stopped": "stopped at the time",
    "away": "away at the time",
    "barred": "a limit forbids it",
    "not_ready": "not ready for the bar",
    "doubted": "far from what was to be expected",
    "not_in_stock": "not from this room's stock",
    "unearned": "a level not earned, or no consent to a weight",
    "over_limit": "over a limit",
    "replanned": "for an earlier number",
    "also_logged": "another device had logged one meanwhile",
    "moved": "its session had been moved to a later day",
    "same_id": "sent by the name of another set",
    "extra": "beyond the sets asked for",
    "imported": "from a log kept elsewhere",
    "not_asked": "nothing was planned here",
}
