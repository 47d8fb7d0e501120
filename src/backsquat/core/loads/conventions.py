"""What a written load means, by the implement: looked up by code, never branched on."""

from dataclasses import dataclass


@dataclass(frozen=True)
class LoadConvention:
    """How a load is written and what one step per side means for the total."""

    code: str
    words: str  # shown beside the load
    sides: int  # a step per side counts this many times in the total
    loaded: bool = True  # False: the load may be 0
    helps: bool = False  # True: the load is help, less than nothing
    tested: bool = False  # True: no load is planned before a record or a ratio


CONVENTIONS = {
    convention.code: convention
    for convention in (
        LoadConvention("barbell", "total with the bar", 2, tested=True),
        LoadConvention("dumbbells", "in each hand", 1, loaded=False),
        LoadConvention("held", "the one weight held", 1, loaded=False),
        LoadConvention("stack", "as on the pin", 1),
        LoadConvention("machine", "plates on the machine, both sides together", 2, loaded=False),
        LoadConvention("body", "beyond body weight", 1, loaded=False),
        LoadConvention("band", "help of the band, less than nothing", 1, loaded=False, helps=True),
    )
}
