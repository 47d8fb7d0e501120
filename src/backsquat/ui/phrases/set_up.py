"""Names of what is remembered of a set-up."""

SETUP_WORDS = {
    "stance": "Stance", "box": "Box", "wedge": "Wedge", "pad": "Pad", "pins": "Pins", "band": "Band",
    "support": "Support", "grip": "Grip", "wall": "Toes to the wall",
}  # fmt: skip
