"""Handing a message to the post service of this machine: plain HTTP, one PUT under a key (docs/DEVICES.md).

A key that the service knows already is not delivered again, so that whoever is not sure asks once more.
"""

import http.client
import json
from dataclasses import asdict, dataclass

WAIT_S = 10
MOST_BYTES = 2 * 1024 * 1024


@dataclass(frozen=True)
class Letter:
    """What one person gets: an address, a subject, a text and perhaps a page in one file."""

    address: str
    subject: str
    text: str
    file_name: str = ""
    file: str = ""


class NotTaken(Exception):
    """The service did not take it; says why in a few words."""


def hand_over(host: str, port: int, key: str, letter: Letter) -> None:
    """Give a letter to the service, which delivers a key once. NotTaken where it cannot be reached or says no."""
    body = json.dumps(asdict(letter)).encode()
    if len(body) > MOST_BYTES:
        raise NotTaken("too large")
    line = http.client.HTTPConnection(host, port, timeout=WAIT_S)
    try:
        line.request("PUT", f"/messages/{key}", body, {"Content-Type": "application/json"})
        status = line.getresponse().status
    except (OSError, http.client.HTTPException) as error:
        raise NotTaken("not reached") from error
    finally:
        line.close()
    if status not in (200, 201):
        raise NotTaken(f"refused ({status})")
