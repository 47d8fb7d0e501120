"""Pages made into PDF: the same HTML, styles and drawings as on the screen, black on white."""

import atexit
import re
import tempfile
import traceback
from enum import StrEnum
from functools import cache
from pathlib import Path
from typing import Any

from backsquat.core.errors import Refused
from backsquat.formats.apart import Apart

STYLES = "styles/paper.css"
DRAWINGS = "styles/paper-drawings.css"  # a drawing reads only what stands in it
FONTS = [
    (weight, f"vendor/barlow-{signs}-{weight}.woff2") for weight in (400, 600, 700) for signs in ("latin-ext", "latin")
]
PICTURE = re.compile(r"<svg\b[^>]*>")


class Paper(StrEnum):
    """What it is printed on."""

    A4 = "A4"
    A5 = "A5"
    A4_LYING = "A4 landscape"


_PAPERS = Apart("pdf")
atexit.register(_PAPERS.end)


def as_pdf(page: str, paper: Paper, static: Path) -> bytes:
    """A page as PDF, made beside the server: laying out takes seconds of a core, and the floor is to be answered meanwhile.

    Refused where this machine cannot make any, where too many wait, and where it did not come about.
    """
    said = _PAPERS.ask("pdf", page, paper, static)
    if said is None or said[0] == "broken":
        raise Refused("pdf_failed")
    if said[0] == "forbidden":
        raise Refused(str(said[1]))
    return bytes(said[1])


def laid_out(page: str, paper: Paper, static: Path) -> bytes:
    """The same here and now; nothing is fetched but files that ship in `static`."""
    try:
        return _laid_out(page, paper, static)
    except Refused:
        raise
    except Exception:
        traceback.print_exc()  # the page is ours: whoever keeps the server is to know
        raise


def _laid_out(page: str, paper: Paper, static: Path) -> bytes:
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
    document = HTML(string=shown, url_fetcher=fetcher, media_type="print")
    return bytes(document.write_pdf(stylesheets=sheets, font_config=fonts))


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
