"""Who listens to a sensor: keeps the line to it, watches one set at a time, remembers its reps when it is unplugged."""

import contextlib
import socket
import threading
import time
from dataclasses import dataclass, field

from backsquat.devices.protocol import LINE_MOST, Hello, Jump, Rep, said_in, start, stop

AGAIN_S = 1.0  # before the line is tried again
PATIENCE_S = 2.0


@dataclass
class Watched:
    """One set as a sensor saw it so far: speeds in m/s by rep, or flights in seconds by jump."""

    of: str
    reps: dict[int, float] = field(default_factory=dict)

    @property
    def values(self) -> list[float]:
        """In the order of the reps; one that was lost on the line is left out."""
        return [self.reps[number] for number in sorted(self.reps)]


class Sensor:
    """The line to one sensor at an address of this machine."""

    def __init__(self, host: str, port: int) -> None:
        self.address = (host, port)
        self.hello: Hello | None = None
        self.watched: Watched | None = None
        self._line: socket.socket | None = None
        self._lock = threading.Lock()
        self._end = threading.Event()
        self._thread = threading.Thread(target=self._run, name=f"sensor {port}", daemon=True)
        self._thread.start()

    @property
    def there(self) -> bool:
        """Whether it is plugged in and has said who it is."""
        return self._line is not None and self.hello is not None

    def watch(self, of: str, load_kg: float = 0.0, about_kg: float = 0.0) -> bool:
        """Watch a set from now on; the one before is over. False where the sensor is not there."""
        with self._lock:
            if self.watched and self.watched.of != of:
                self._say(stop(self.watched.of))
            self.watched = Watched(of)
            return self._say(start(of, load_kg=load_kg, about_kg=about_kg))

    def seen(self, of: str) -> list[float] | None:
        """What was seen of a set so far; None where another is watched."""
        watched = self.watched
        return watched.values if watched and watched.of == of else None

    def end(self, of: str) -> None:
        """The set is over; what was seen of it stays until the next."""
        with self._lock:
            if self.watched and self.watched.of == of:
                self._say(stop(of))

    def close(self) -> None:
        """Listen no more."""
        self._end.set()
        self._drop()
        self._thread.join(PATIENCE_S)

    def _say(self, words: bytes) -> bool:
        if self._line is None or self.hello is None:
            return False
        try:
            self._line.sendall(words)
        except OSError:
            self._drop()
            return False
        return True

    def _drop(self) -> None:
        held, self._line, self.hello = self._line, None, None
        if held is not None:
            with contextlib.suppress(OSError):
                held.shutdown(socket.SHUT_RDWR)
            held.close()

    def _run(self) -> None:
        while not self._end.is_set():
            try:
                with socket.create_connection(self.address, timeout=PATIENCE_S) as opened:
                    opened.settimeout(None)
                    self._line = opened
                    self._listen(opened)
            except OSError:
                pass
            self._drop()
            self._end.wait(AGAIN_S)

    def _listen(self, opened: socket.socket) -> None:
        kept = b""
        while not self._end.is_set():
            got = opened.recv(LINE_MOST)
            if not got:
                return
            *lines, kept = (kept + got).split(b"\n")
            for raw in lines:
                self._heard(raw)
            if len(kept) > LINE_MOST:
                kept = b""

    def _heard(self, raw: bytes) -> None:
        said = said_in(raw)
        if isinstance(said, Hello):
            self.hello = said
        elif said is not None and self.watched and said.of == self.watched.of:
            value = said.mean_speed_ms if isinstance(said, Rep) else said.flight_s
            assert isinstance(said, Rep | Jump)
            self.watched.reps[said.number] = value


def until_there(sensor: Sensor, patience_s: float = 10.0) -> bool:
    """Wait for a sensor that was just started; whether it came."""
    end = time.monotonic() + patience_s
    while not sensor.there and time.monotonic() < end:
        time.sleep(0.05)
    return sensor.there
