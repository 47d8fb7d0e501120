"""Names within a sentence."""

OF_PLACES_AND_PEOPLE = frozenset(
    ("Romanian", "Nordic", "Copenhagen", "Spanish", "Bulgarian", "Cossack", "Jefferson", "Zercher")
)


def in_text(name: str) -> str:
    """A name as it stands within a sentence: back squat, but Romanian deadlift, SSB squat, B-stance hinge."""
    first = name.split(maxsplit=1)[0].rstrip(",") if name.strip() else ""
    if first in OF_PLACES_AND_PEOPLE or first[1:] != first[1:].lower() or (first[:1].isupper() and first[1:2] == "-"):
        return name
    return name[:1].lower() + name[1:]
