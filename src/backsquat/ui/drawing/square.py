"""The square a phone reads an address from."""

import io

import segno
from markupsafe import Markup


def draw_square(address: str) -> Markup:
    """A QR picture with the usual error correction."""
    out = io.BytesIO()
    segno.make(address, error="m").save(out, kind="svg", scale=4, xmldecl=False, svgns=False, title="For the phone")
    return Markup(out.getvalue().decode())
