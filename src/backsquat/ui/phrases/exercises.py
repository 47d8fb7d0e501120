"""How an exercise is called."""

from backsquat.core.movements.library import Library

OWN_LEVEL = "Own level: {}"


def name_of(library: Library, movement: str, ladder: str) -> str:
    """The name an exercise is shown under."""
    if ladder and ladder in library.ladders:
        return OWN_LEVEL.format(library.ladders[ladder].name)
    return library.movements[movement].name if movement in library.movements else movement
