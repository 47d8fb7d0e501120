"""Pages made into PDF: the same HTML, styles and drawings as on the screen, black on white."""

import re
import tempfile
import threading
from enum import StrEnum
from functools import cache
from pathlib import Path
from typing import Any

from backsquat.core.errors import Refused

STYLES = "styles/paper.css"
DRAWINGS = "styles/paper-drawings.css"  # a drawing reads only what stands in it
FONTS = [
    (weight, f"vendor/barlow-{signs}-{weight}.woff2") for weight in (400, 600, 700) for signs in ("latin-ext", "latin")
]
WAITS_S = 15
ONE_AT_A_TIME = threading.Lock()  # laying out takes a core: the floor needs the other
PICTURE = re.compile(r"<svg\b[^>]*>")


class Paper(StrEnum):
    """What it is printed on."""

    A4 = "A4"
    A5 = "A5"
    A4_LYING = "A4 landscape"


def as_pdf(page: str, paper: Paper, static: Path) -> bytes:
    """A page as PDF; nothing is fetched but files that ship in `static`. Refused where this machine cannot make any."""
    try:
        from weasyprint import CSS, HTML
        from weasyprint.text.fonts import FontConfiguration
        from weasyprint.urls import URLFetcher
    except (OSError, ImportError) as error:  # it draws text with Pango, a library of the system
        raise Refused("no_pdf") from error

    fonts_folder = _fonts(static)

    class Shipped(URLFetcher):  # type: ignore[misc]
        """Opens the fonts and pictures that stand in the page, and nothing else."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            if url.startswith("data:image/jpeg;base64,"):
                return super().fetch(url, headers)
            path = Path(url.removeprefix("file://")).resolve()
            if not url.startswith("file://") or path.parent != fonts_folder.resolve():
                raise ValueError("nothing is fetched for a page on paper")
            return super().fetch(url, headers)

    drawings, fonts, fetcher = (static / DRAWINGS).read_text("utf-8"), FontConfiguration(), Shipped()
    shown = PICTURE.sub(lambda found: f"{found.group()}<style>{drawings}</style>", page)
    faces = "".join(
        f"@font-face {{ font-family: Barlow; font-weight: {weight}; src: url({(fonts_folder / Path(name).stem).as_uri()}) }}"
        for weight, name in FONTS
    )
    around = f"{faces} @page {{ size: {paper.value}; margin: 10mm }}"
    texts = ((static / STYLES).read_text("utf-8"), around)
    sheets = [CSS(string=text, font_config=fonts, url_fetcher=fetcher) for text in texts]
    if not ONE_AT_A_TIME.acquire(timeout=WAITS_S):
        raise Refused("pdf_busy")
    try:
        document = HTML(string=shown, url_fetcher=fetcher, media_type="print")
        return bytes(document.write_pdf(stylesheets=sheets, font_config=fonts))
    finally:
        ONE_AT_A_TIME.release()


@cache
def _fonts(static: Path) -> Path:
    """A folder with the shipped fonts unpacked, made once: unpacking takes longer than a page."""
    from fontTools.ttLib import TTFont

    folder = Path(tempfile.mkdtemp(prefix="backsquat-fonts-"))
    for _, name in FONTS:
        font = TTFont(static / name)
        font.flavor = None
        font.save(folder / Path(name).stem)
    return folder
