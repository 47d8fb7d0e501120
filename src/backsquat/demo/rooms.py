"""The demo's rooms: an invented hall by an invented harbour, and a progression's corner with plates in pounds."""

from decimal import Decimal

from backsquat.core.loads.mass import Unit
from backsquat.work.rooms.describe import BandFacts, BarFacts, PlateFacts, RoomFacts, StackFacts

EQUIPMENT = (
    "rack", "dumbbells", "kettlebells", "bench", "box", "wedge", "band", "rail", "ball", "sliders", "bar_pad",
    "leg_press", "back_bench", "lying_curl", "knee_extension", "soft_bag",
)  # fmt: skip
DUMBBELLS = "2 4 6 8 10 12 14 16 18 20 22.5 25 27.5 30 32.5 35"


def harbour_hall() -> RoomFacts:
    """Everything that stands in it."""
    plates = [
        ("25", 4, 450),
        ("20", 6, 450),
        ("15", 4, 400),
        ("10", 6, 325),
        ("5", 6, 230),
        ("2.5", 4, 190),
        ("1.25", 4, 160),
    ]
    return RoomFacts(
        "Harbour hall, weight room",
        Unit.KG,
        Decimal(0),
        4,
        (BarFacts("bar20", "Long bar", Decimal(20)), BarFacts("bar15", "Light bar", Decimal(15))),
        tuple(PlateFacts(Decimal(mass), pairs, diameter) for mass, pairs, diameter in plates),
        EQUIPMENT,
        dumbbells=tuple((Decimal(mass), 2) for mass in DUMBBELLS.split()),
        kettlebells=tuple((Decimal(mass), 1) for mass in ("8", "12", "16", "20", "24")),
        bags=tuple((Decimal(mass), 1) for mass in ("4", "6", "8", "10")),
        stacks=(
            StackFacts("lying_curl", Decimal(5), Decimal(5), Decimal(80), Decimal("2.5")),
            StackFacts("knee_extension", Decimal(5), Decimal(5), Decimal(100)),
        ),
        bands=(BandFacts("thin", Decimal(5), Decimal(15)), BandFacts("thick", Decimal(15), Decimal(35))),
    )


def school_hall() -> RoomFacts:
    """What a progression has in a corner of its hall."""
    plates = [("45", 3, 450), ("25", 2, 320), ("10", 2, 230), ("5", 2, 200), ("2.5", 2, 160)]
    return RoomFacts(
        "School hall",
        Unit.LB,
        Decimal(0),
        2,
        (BarFacts("bar45", "Bar", Decimal(45)),),
        tuple(PlateFacts(Decimal(mass), pairs, diameter) for mass, pairs, diameter in plates),
        ("rack", "bench", "box", "wedge", "band", "rail"),
        dumbbells=tuple((Decimal(mass), 2) for mass in ("10", "15", "20", "25", "30", "40", "50")),
        kettlebells=tuple((Decimal(mass), 1) for mass in ("20", "35", "50")),
        bands=(BandFacts("thin", Decimal(10), Decimal(35)),),
    )
