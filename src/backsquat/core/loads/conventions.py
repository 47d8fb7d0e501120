"""What a written load means, by the implement: looked up by code, never branched on.

Issues to come add dumb-bells (per hand), kettlebells (each), stacks (pin), bands (negative) and
body weight (0 external); each is one more entry here.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class LoadConvention:
    """How a load is written and what one step per side means for the total."""

    code: str
    words: str  # shown beside the load
    sides: int  # a step per side counts this many times in the total


CONVENTIONS = {
    "barbell": LoadConvention("barbell", "total with the bar", 2),
}
