"""Asking a finder of this machine where the joints of a picture are: plain HTTP, one POST of a JPEG (docs/DEVICES.md).

What it answers is a suggestion. It is shown as one, and counts only once somebody has looked at it and kept it.
"""

import http.client
import json
import math
from dataclasses import dataclass

from backsquat.core.technique.still import Spot

WAIT_S = 20
ANSWER_MOST = 64 * 1024
Point = tuple[float, float]


@dataclass(frozen=True)
class Suggested:
    """Points in pixels, and what the finder calls itself."""

    finder: str
    points: dict[Spot, Point]


class NotFound(Exception):
    """No suggestion; says why in a few words."""


def suggest(host: str, port: int, picture: bytes, faces_right: bool) -> Suggested:
    """Ask for the points of a JPEG. NotFound where the finder cannot be reached, or answers nonsense."""
    line = http.client.HTTPConnection(host, port, timeout=WAIT_S)
    try:
        heads = {"Content-Type": "image/jpeg", "Faces": "right" if faces_right else "left"}
        line.request("POST", "/points", picture, heads)
        answer = line.getresponse()
        body = answer.read(ANSWER_MOST + 1)
    except (OSError, http.client.HTTPException) as error:
        raise NotFound("not reached") from error
    finally:
        line.close()
    if answer.status != 200 or len(body) > ANSWER_MOST:
        raise NotFound(f"refused ({answer.status})")
    return read_answer(body)


def read_answer(body: bytes) -> Suggested:
    """The points in an answer. NotFound where it is none; points it does not know by name are left out."""
    try:
        said = json.loads(body)
        points = {
            Spot(name): (float(x), float(y))
            for name, (x, y) in said["points"].items()
            if name in set(Spot) and math.isfinite(float(x)) and math.isfinite(float(y))
        }
        return Suggested(str(said["finder"])[:80], points)
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError) as error:
        raise NotFound("an answer that cannot be read") from error
