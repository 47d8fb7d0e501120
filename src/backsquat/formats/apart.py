"""Heavy work is done in a process of its own: one at a time, bounded in time and memory, ended where it goes over.

A small file from outside can ask for very much (a merged range of a whole sheet, a picture of a billion points) and a
damaged one can break a reader in any way. Neither may hold up the floor: the process is started once, kept, and started
again after it had to be ended.

What we make ourselves (a PDF) takes seconds of a core as well, and has a process beside it. All heavy work has few places,
working and waiting together: whoever finds them taken is told so at once, and the threads that are left answer the floor.
"""

import atexit
import contextlib
import importlib
import os
import pickle
import struct
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any, NamedTuple

from backsquat.core.errors import ImpossibleInput, Problem, Refused

START_SECONDS = 30.0  # by the clock: the first time packages are read
PLACES = threading.BoundedSemaphore(3)  # of the eight threads that serve (`serving.py`)
HEAD = struct.Struct(">Q")


class HeavyKind(NamedTuple):
    """One kind of work, and how much of it there may be."""

    place: str  # module:function
    work_s: int  # of the processor's own time, for one piece
    clock_s: float  # by the clock, on a machine that has much to do
    memory: int  # bytes more than the process has when it starts


KINDS = {  # nothing else can be asked for
    "workbook": HeavyKind("backsquat.formats.table:workbook_sheets", 4, 20.0, 320_000_000),
    "picture": HeavyKind("backsquat.formats.pictures:made_of", 4, 20.0, 320_000_000),
    "pdf": HeavyKind("backsquat.formats.pdf:laid_out", 60, 90.0, 1_000_000_000),
}


@contextmanager
def heavy_work() -> Iterator[None]:
    """A place for work that takes seconds; Refused at once where all are taken."""
    if not PLACES.acquire(blocking=False):
        raise Refused("heavy_busy")
    try:
        yield
    finally:
        PLACES.release()


class Apart:
    """The process for some kinds of work, and who waits for it."""

    def __init__(self, *kinds: str) -> None:
        self._kinds = kinds
        self._turn = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None

    def read(self, what: str, field: str, *given: Any) -> Any:
        """What a reader makes of it; ImpossibleInput where it refuses, breaks, or asks for too much."""
        said = self.ask(what, *given)
        if said is None:
            raise ImpossibleInput(Problem(field, "file_heavy"))
        kind, value = said
        if kind == "refused":
            raise ImpossibleInput(*value)
        if kind == "broken":
            raise ImpossibleInput(Problem(field, "file_damaged"))
        return value

    def ask(self, what: str, *given: Any) -> tuple[str, Any] | None:
        """How it went (done, refused, forbidden, broken) with what came of it; None where it had to be ended.

        Refused at once where too many wait.
        """
        clock_s = KINDS[what].clock_s
        with heavy_work(), self._turn:
            said: tuple[str, Any] | None = self._asked(self._started(), (what, given), clock_s)
            return said

    def _started(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None:
            env = {**os.environ, "PYTHONPATH": os.pathsep.join(path for path in sys.path if path)}
            self._process = subprocess.Popen(
                [sys.executable, "-m", "backsquat.formats.apart", *self._kinds],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env=env,
            )
            if self._within(self._process, START_SECONDS) is None:
                raise RuntimeError("the process for heavy work could not be started")
        return self._process

    def _asked(self, process: subprocess.Popen[bytes], asked: Any, clock_s: float) -> Any:
        assert process.stdin is not None
        try:
            _send(process.stdin, asked)
        except OSError:
            self.end()
            return None
        return self._within(process, clock_s)

    def _within(self, process: subprocess.Popen[bytes], seconds: float) -> Any:
        """What it says within so many seconds; it is ended where it says nothing."""
        watch = threading.Timer(seconds, process.kill)
        watch.start()
        try:
            assert process.stdout is not None
            return _received(process.stdout)
        except (EOFError, OSError, pickle.UnpicklingError):
            self.end()
            return None
        finally:
            watch.cancel()

    def end(self) -> None:
        """Let it go; the next file starts another."""
        process, self._process = self._process, None
        if process is None:
            return
        process.kill()
        process.wait()
        for end in (process.stdin, process.stdout):
            if end is not None:
                with contextlib.suppress(OSError):
                    end.close()


_FILES = Apart("workbook", "picture")
atexit.register(_FILES.end)
read_apart = _FILES.read


def _send(pipe: IO[bytes], what: Any) -> None:
    packed = pickle.dumps(what)
    pipe.write(HEAD.pack(len(packed)) + packed)
    pipe.flush()


def _received(pipe: IO[bytes]) -> Any:
    head = pipe.read(HEAD.size)
    if len(head) < HEAD.size:
        raise EOFError
    packed = pipe.read(HEAD.unpack(head)[0])
    return pickle.loads(packed)


def _bound(memory: int) -> None:
    """No more memory than it has now and so many bytes; where the system has no such bound the clock alone ends it."""
    with contextlib.suppress(ImportError, OSError, ValueError):
        import resource  # only where there is one

        now = int(Path("/proc/self/statm").read_text("ascii").split()[0]) * resource.getpagesize()
        resource.setrlimit(resource.RLIMIT_AS, (now + memory, now + memory))


def _bound_work(seconds: int) -> None:
    """No more of the processor's time than so much for the next piece."""
    with contextlib.suppress(ImportError, OSError, ValueError):
        import resource

        used = resource.getrusage(resource.RUSAGE_SELF)
        most = int(used.ru_utime + used.ru_stime) + 1 + seconds
        resource.setrlimit(resource.RLIMIT_CPU, (most, resource.getrlimit(resource.RLIMIT_CPU)[1]))


def _serve(kinds: list[str]) -> None:
    known = {}
    for name in kinds:
        module, _, function = KINDS[name].place.partition(":")
        known[name] = getattr(importlib.import_module(module), function)
    into, out = sys.stdin.buffer, sys.stdout.buffer
    sys.stdout = sys.stderr  # a reader that prints says nothing of ours
    _bound(max(KINDS[name].memory for name in kinds))
    _send(out, "ready")
    with contextlib.suppress(EOFError, BrokenPipeError):
        while True:
            what, given = _received(into)
            _bound_work(KINDS[what].work_s)
            _send(out, _done(known[what], given))


def _done(reader: Any, given: tuple[Any, ...]) -> tuple[str, Any]:
    try:
        return "done", reader(*given)
    except ImpossibleInput as error:
        return "refused", error.problems
    except Refused as error:
        return "forbidden", error.code
    except Exception:  # whatever a damaged file does to a reader, it is a damaged file
        return "broken", None


if __name__ == "__main__":
    _serve(sys.argv[1:])
