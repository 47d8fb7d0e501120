"""Stand-ins for sensors, as processes of their own: they speak the protocol and make their numbers up.

    python -m backsquat.devices.stand_in bar 9301        a bar-speed sensor on port 9301
    python -m backsquat.devices.stand_in mat 9302        a jump mat

The bar's speeds fall with the load it is told and from rep to rep, with some chance in them; a jump takes half a second.
"""

import contextlib
import random
import socket
import sys
import threading
import time
from collections.abc import Iterator

from backsquat.devices.protocol import BAR, MAT, PROTOCOL, line, read

REP_S, JUMP_S, REPS_MOST = 1.6, 2.0, 30
FASTEST_MS, AT_MAXIMUM_MS = 1.45, 0.32  # of the empty line of nobody in particular
TIRED_A_REP = 0.045  # share of the speed a rep takes from the next
FLIGHT_S = 0.49


def speeds(load_kg: float, max_kg: float, dice: random.Random) -> Iterator[float]:
    """Mean speeds of one rep after the other at a load, for somebody with this maximum."""
    fresh = FASTEST_MS - (FASTEST_MS - AT_MAXIMUM_MS) * min(load_kg / max_kg, 1.0)
    for number in range(REPS_MOST):
        slower = 1 - TIRED_A_REP * number * (0.4 + load_kg / max_kg)
        yield round(max(fresh * slower + dice.gauss(0, 0.012), 0.1), 2)


def flights(dice: random.Random) -> Iterator[float]:
    """Times in the air of jump after jump."""
    for _ in range(REPS_MOST):
        yield round(max(dice.gauss(FLIGHT_S, 0.008), 0.2), 3)


class SensorStandIn:
    """One sensor: answers whoever connects, one set at a time. `pace` 0: at once, for tests."""

    def __init__(self, kind: str, port: int = 0, *, max_kg: float = 100.0, pace: float = 1.0, seed: int = 7) -> None:
        self.kind, self.max_kg, self.pace, self.dice = kind, max_kg, pace, random.Random(seed)
        self.server = socket.create_server(("127.0.0.1", port))
        self.port = self.server.getsockname()[1]
        self.lines: list[socket.socket] = []
        self.watching = ""
        threading.Thread(target=self._accept, daemon=True).start()

    def unplug(self) -> None:
        """As if the cable was pulled: nobody is answered any more."""
        self.watching = ""
        with contextlib.suppress(OSError):
            self.server.shutdown(socket.SHUT_RDWR)  # whoever waits for a line is let go, and the port is free
        self.server.close()
        for opened in self.lines:
            with contextlib.suppress(OSError):
                opened.shutdown(socket.SHUT_RDWR)
            opened.close()

    def _accept(self) -> None:
        while True:
            try:
                opened, _ = self.server.accept()
            except OSError:
                return
            self.lines.append(opened)
            threading.Thread(target=self._serve, args=(opened,), daemon=True).start()

    def _serve(self, opened: socket.socket) -> None:
        device = BAR if self.kind == "bar" else MAT
        try:
            opened.sendall(line({"device": device, "protocol": PROTOCOL, "name": f"stand-in, {device}"}))
            with opened.makefile("rb") as asked:
                for raw in asked:
                    found = read(raw) or {}
                    if "watch" in found:
                        self.watching = str(found["watch"])
                        threading.Thread(target=self._stream, args=(opened, found), daemon=True).start()
                    elif found.get("stop") == self.watching:
                        self.watching = ""
        except OSError:
            return

    def _stream(self, opened: socket.socket, asked: dict[str, object]) -> None:
        of, load_kg = str(asked["watch"]), float(str(asked.get("load_kg", 0)))
        max_kg = float(str(asked.get("about_kg", 0))) or self.max_kg
        bar = self.kind == "bar"
        values = speeds(load_kg, max_kg, self.dice) if bar else flights(self.dice)
        for number, value in enumerate(values, 1):
            time.sleep(self.pace * (REP_S if bar else JUMP_S))
            if self.watching != of:
                return
            said = {"rep": number, "mean_speed": value} if bar else {"jump": number, "flight_s": value}
            try:
                opened.sendall(line({"of": of, **said}))
            except OSError:
                return


def main() -> None:
    """Be one until stopped."""
    kind, port = sys.argv[1], int(sys.argv[2])
    made = SensorStandIn(kind, port)
    print(f"{kind} on 127.0.0.1:{made.port}", flush=True)
    threading.Event().wait()


if __name__ == "__main__":
    main()
