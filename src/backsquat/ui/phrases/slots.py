"""How a slot is called."""

from backsquat.core.movements.library import Library

OWN_RUNG = "Own level: {}"


def name_of(library: Library, movement: str, ladder: str) -> str:
    """The name a slot is shown under."""
    if ladder and ladder in library.ladders:
        return OWN_RUNG.format(library.ladders[ladder].name)
    return library.movements[movement].name if movement in library.movements else movement
