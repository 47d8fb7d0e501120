"""Photographs as they come in: known by their content, turned upright, made smaller, written again without anything else.

What a camera writes beside the picture (place, time, device, a smaller copy) is not taken over: only pixels are.
"""

import base64
import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from backsquat.core.errors import ImpossibleInput, Problem
from backsquat.formats.apart import read_apart

BYTES_MOST = 12_000_000  # a photograph of a good phone
PIXELS_MOST = 60_000_000  # when unpacked: a small file can hold a very large picture
SIDE_MOST, SIDE_LEAST = 1280, 200  # of what is kept
QUALITY = 82
WHOLE_MOST = 25_000_000  # of what can only be read whole
KINDS = ("JPEG", "PNG", "WEBP")


@dataclass(frozen=True)
class Picture:
    """A JPEG of our own making, and its size in pixels."""

    content: bytes
    width: int
    height: int


def picture_of(content: bytes, side_most: int = SIDE_MOST) -> Picture:
    """The picture in a file, no side longer than this. ImpossibleInput where there is none, or one too large or small."""
    if len(content) > BYTES_MOST:
        raise ImpossibleInput(Problem("picture", "picture_large", {"most": BYTES_MOST // 1_000_000}))
    found: Picture = read_apart("picture", "picture", content, side_most)
    return found


def made_of(content: bytes, side_most: int) -> Picture:
    """The same in this process; read where it can be ended."""
    ImageFile.LOAD_TRUNCATED_IMAGES = False  # a package that draws PDF turns it on for all; half a picture is none
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(content), formats=KINDS) as found:
                whole = PIXELS_MOST if found.format == "JPEG" else WHOLE_MOST  # a JPEG is made smaller while it is read
                if found.width * found.height > whole:
                    raise ImpossibleInput(Problem("picture", "picture_large", {"most": BYTES_MOST // 1_000_000}))
                found.draft("RGB", (side_most, side_most))
                upright = ImageOps.exif_transpose(found)
                return _kept(upright, side_most)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombWarning) as error:
        raise ImpossibleInput(Problem("picture", "picture_kind")) from error
    except Image.DecompressionBombError as error:
        raise ImpossibleInput(Problem("picture", "picture_kind")) from error


def _kept(image: Image.Image, side_most: int) -> Picture:
    if min(image.size) < SIDE_LEAST:
        raise ImpossibleInput(Problem("picture", "picture_small", {"least": SIDE_LEAST}))
    image.thumbnail((side_most, side_most))  # first: what follows is of the small one
    plain = Image.new("RGB", image.size, (255, 255, 255))
    with_alpha = image.convert("RGBA")
    plain.paste(with_alpha, mask=with_alpha.getchannel("A"))
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=QUALITY, optimize=True)
    return Picture(out.getvalue(), plain.width, plain.height)


def as_address(content: bytes) -> str:
    """A JPEG as an address that holds it, for a page that works without anything else."""
    return f"data:image/jpeg;base64,{base64.b64encode(content).decode('ascii')}"
