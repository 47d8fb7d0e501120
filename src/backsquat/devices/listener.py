"""Who listens to a sensor: keeps the line to it, watches one set at a time, remembers its reps when it is unplugged."""

import contextlib
import socket
import threading
import time
from dataclasses import dataclass, field

from backsquat.devices.protocol import LINE_MOST, Hello, Jump, Rep, said_in, start, stop

AGAIN_S = 1.0  # before the line is tried again
PATIENCE_S = 2.0
IDLE_S = 180.0  # a set nobody has ended and of which nothing was heard for so long is over


@dataclass(frozen=True)
class Watcher:
    """Who watches with a sensor: of which squad, and whether they train others."""

    squad_id: int
    user_id: int
    name: str = ""
    staff: bool = True

    def may_take_from(self, other: "Watcher") -> bool:
        """Whether saying so is enough to take a sensor over: never another squad's, and no athlete a coach's."""
        return self.squad_id == other.squad_id and (self.staff or not other.staff)


@dataclass
class Watched:
    """One set as a sensor saw it so far: speeds in m/s by rep, or flights in seconds by jump."""

    of: str
    by: Watcher
    reps: dict[int, float] = field(default_factory=dict)
    ended: bool = False
    heard_at: float = field(default_factory=time.monotonic)  # of the newest rep, or of the beginning

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
        self._heard_at: float | None = None
        self._line: socket.socket | None = None
        self._lock = threading.Lock()
        self._end = threading.Event()
        self._thread = threading.Thread(target=self._run, name=f"sensor {port}", daemon=True)
        self._thread.start()

    @property
    def there(self) -> bool:
        """Whether it is plugged in and has said who it is."""
        return self._line is not None and self.hello is not None

    @property
    def heard_s(self) -> float | None:
        """Seconds since the sensor last said anything we understood; None: it never did."""
        return None if self._heard_at is None else time.monotonic() - self._heard_at

    def held_by(self, by: Watcher) -> Watcher | None:
        """Somebody else who is in the middle of a set with it; None: it is free, or one's own."""
        watched = self.watched
        if watched is None or watched.ended or time.monotonic() - watched.heard_at > IDLE_S:
            return None
        same = (watched.by.squad_id, watched.by.user_id) == (by.squad_id, by.user_id)
        return None if same else watched.by

    def watch(
        self, of: str, by: Watcher, *, load_kg: float = 0.0, about_kg: float = 0.0, take_over: bool = False
    ) -> bool:
        """Watch a set from now on; the one before is over. False where the sensor is not there, or somebody else's.

        Whose it is says `held_by`; it is taken over only by saying so, where that is enough (`Watcher.may_take_from`).
        """
        with self._lock:
            holder = self.held_by(by)
            if holder and not (take_over and by.may_take_from(holder)):
                return False
            if self.watched and self.watched.of != of:
                self._say(stop(self.watched.of))
            self.watched = Watched(of, by)
            return self._say(start(of, load_kg=load_kg, about_kg=about_kg))

    def seen(self, of: str, by: Watcher) -> list[float] | None:
        """What was seen of a set of one's own squad so far; None where another is watched."""
        watched = self.watched
        mine = watched is not None and watched.of == of and watched.by.squad_id == by.squad_id
        return watched.values if watched and mine else None

    def end(self, of: str, by: Watcher) -> None:
        """The set is over; what was seen of it stays until the next."""
        with self._lock:
            if self.watched and self.watched.of == of and self.watched.by.squad_id == by.squad_id:
                self.watched.ended = True
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
        if said is not None:
            self._heard_at = time.monotonic()
        if isinstance(said, Hello):
            self.hello = said
        elif said is not None and self.watched and said.of == self.watched.of:
            value = said.mean_speed_ms if isinstance(said, Rep) else said.flight_s
            assert isinstance(said, Rep | Jump)
            self.watched.reps[said.number] = value
            self.watched.heard_at = time.monotonic()


def until_there(sensor: Sensor, patience_s: float = 10.0) -> bool:
    """Wait for a sensor that was just started; whether it came."""
    end = time.monotonic() + patience_s
    while not sensor.there and time.monotonic() < end:
        time.sleep(0.05)
    return sensor.there
