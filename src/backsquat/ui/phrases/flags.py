"""Words for what spoke against a set when it came in."""

FLAGS = {
    "stopped": "stopped at the time",
    "away": "away at the time",
    "barred": "a limit forbids it",
    "gated": "behind a shut gate",
    "unearned": "a rung not earned",
    "over_limit": "over a limit",
    "replanned": "for an earlier number",
    "extra": "beyond the sets asked for",
    "not_asked": "nothing was planned here",
}
