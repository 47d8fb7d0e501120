"""Words for pain as it was said, and for what a stop locks."""

from typing import Protocol

from backsquat.core.movements.library import Library
from backsquat.ui.phrases.names import in_text


class PainSaid(Protocol):
    """Pain with a place, a character and perhaps a number: a report, a stop."""

    @property
    def region(self) -> str: ...
    @property
    def character(self) -> str: ...
    @property
    def level(self) -> int | None: ...


class Stopping(PainSaid, Protocol):
    """A stop, with the movement it came from; empty: none in particular."""

    @property
    def movement(self) -> str: ...


def pain_words(said: PainSaid) -> str:
    """dull pain, 5 of 10, knee · sharp pain, knee"""
    level = "" if said.level is None else f", {said.level} of 10"
    return f"{said.character} pain{level}, {said.region}"


def locked_words(stop: Stopping, library: Library, *, why: bool) -> str:
    """back squat, its family and every movement loading the knee; `why`: the place is said to who reads of health."""
    known = library.movements.get(stop.movement)
    name = in_text(known.name) if known else stop.movement
    place = f"every movement loading the {stop.region}" if why else "what loads the same place"
    return f"{name}, its family and {place}" if name else place
