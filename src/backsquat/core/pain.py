"""What pain means stop and refer (rules 2.10).

The tool stops and refers; it never diagnoses or clears. Soreness is not pain and is logged apart.
"""

from enum import StrEnum

from backsquat.core.rules import Rules


class Character(StrEnum):
    """How the pain feels; those in STOPPING stop the movement at any level."""

    DULL = "dull"
    SHARP = "sharp"
    ELECTRIC = "electric"
    NUMB = "numb"
    TINGLING = "tingling"
    SWELLING = "swelling"
    GIVING_WAY = "giving way"
    LOCKING = "locking"


STOPPING = frozenset(Character) - {Character.DULL}


def stops(level: int, character: str, rules: Rules) -> bool:
    """Whether pain of this level (0–10) and character means stop and refer.

    The stopping characters count whatever number was put beside them: an athlete who says
    "tingling, but nought" has still said tingling.
    """
    if character in STOPPING:
        return True
    return level >= (1 if rules.no_discomfort else rules.pain_stop_level)
