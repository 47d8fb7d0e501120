"""A stand-in for a finder of joints: knows the coloured marks of drawn figures (`drawn.py`) and nothing about people.

There is no model in it. A real one that answers the same request can stand in its place.
"""

import io
import json
import sys
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from PIL import Image, ImageChops, UnidentifiedImageError

from backsquat.core.technique.still import Spot
from backsquat.devices.drawn import COLOURS

NAME = "stand-in: reads the marks of drawn figures only"
BYTES_MOST = 4_000_000
NEAR = 70  # of 255, how far a channel may be off: a JPEG smears edges
PIXELS_LEAST, SPREAD_MOST = 12, 0.06  # a mark is a small spot, in share of the picture's height


def marks_in(picture: bytes) -> dict[Spot, tuple[float, float]]:
    """The middle of every mark in a JPEG, in pixels; nothing where a colour is not there, or all over the place."""
    with Image.open(io.BytesIO(picture), formats=("JPEG",)) as found:
        image = found.convert("RGB")
    marks = {spot: _middle(image, colour) for spot, colour in COLOURS.items()}
    return {spot: point for spot, point in marks.items() if point is not None}


def _middle(image: Image.Image, colour: tuple[int, int, int]) -> tuple[float, float] | None:
    away = ImageChops.difference(image, Image.new("RGB", image.size, colour))
    channels = [channel.point(lambda off: 255 if off < NEAR else 0) for channel in away.split()]
    mask = ImageChops.multiply(ImageChops.multiply(channels[0], channels[1]), channels[2])
    box = mask.getbbox()
    if box is None or max(box[2] - box[0], box[3] - box[1]) > SPREAD_MOST * image.height:
        return None
    if mask.histogram()[255] < PIXELS_LEAST:
        return None
    return (box[0] + box[2] - 1) / 2, (box[1] + box[3] - 1) / 2


class PoseFinder(ThreadingHTTPServer):
    """Listens on 127.0.0.1 and answers where the marks are."""

    daemon_threads = True

    def __init__(self, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Eye)
        self.port = int(self.server_address[1])

    def start(self) -> None:
        threading.Thread(target=self.serve_forever, daemon=True).start()


class _Eye(BaseHTTPRequestHandler):
    timeout = 20

    def do_POST(self) -> None:
        length = self.headers.get("Content-Length", "")
        if self.path != "/points" or not length.isdecimal() or int(length) > BYTES_MOST:
            return self._say(400, {"finder": NAME, "points": {}})
        try:
            points = marks_in(self.rfile.read(int(length)))
        except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
            return self._say(400, {"finder": NAME, "points": {}})
        return self._say(200, {"finder": NAME, "points": {spot.value: point for spot, point in points.items()}})

    def _say(self, status: int, what: object) -> None:
        body = json.dumps(what).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: object) -> None:
        """Says nothing: what it saw is nobody's business."""


def main() -> None:
    """Be one until stopped."""
    finder = PoseFinder(int(sys.argv[1]))
    print(f"finder on 127.0.0.1:{finder.port}", flush=True)
    finder.serve_forever()


if __name__ == "__main__":
    main()
