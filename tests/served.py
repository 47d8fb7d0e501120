"""A server that a test has started: asked until it answers, or until it has ended."""

import subprocess
import urllib.error
import urllib.request
from contextlib import suppress

BETWEEN_S = 0.05


def answer(server: subprocess.Popen[str], address: str) -> tuple[int, bytes]:
    """Status and content: its first words may come before its ear is open, and how long that takes is the machine's."""
    while server.poll() is None:
        try:
            with urllib.request.urlopen(address) as page:
                return page.status, page.read()
        except urllib.error.HTTPError as error:
            return error.code, error.read()
        except OSError:
            with suppress(subprocess.TimeoutExpired):
                server.wait(BETWEEN_S)
    raise AssertionError(f"the server ended before {address} answered")
