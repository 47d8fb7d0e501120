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


LEVEL_MOST = 10
STOPPING = frozenset(Character) - {Character.DULL}


def stop_level(rules: Rules) -> float:
    """The level from which dull pain stops."""
    return 1 if rules.no_discomfort else rules.pain_stop_level


def stops(level: float, character: str, rules: Rules) -> bool:
    """Whether pain of this level (0–10) and character means stop and refer.

    The stopping characters count whatever number was put beside them: an athlete who says
    "tingling, but nought" has still said tingling. However it is written, a character that is not
    dull stops, also one this program has no word for; a level that is no number stops too.
    """
    said = character.strip().casefold()
    if said and said != Character.DULL:
        return True
    if not 0 <= level <= LEVEL_MOST:
        return True
    return level >= stop_level(rules)


def stopping_levels(rules: Rules) -> frozenset[int]:
    """The levels (1–10) at which dull pain stops."""
    return frozenset(level for level in range(1, LEVEL_MOST + 1) if stops(level, Character.DULL, rules))
