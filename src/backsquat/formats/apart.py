"""Files from outside are read in a process of its own: one at a time, bounded in time and memory, ended where it goes over.

A small file can ask for very much (a merged range of a whole sheet, a picture of a billion points) and a damaged one can
break a reader in any way. Neither may hold up the floor: the process is started once, kept, and started again after it
had to be ended.
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
from pathlib import Path
from typing import IO, Any

from backsquat.core.errors import ImpossibleInput, Problem

SECONDS, START_SECONDS = 20.0, 30.0  # by the clock, on a machine that has much to do; the first time packages are read
WORK_SECONDS = 4  # of the processor's own time, for one file
MEMORY = 320_000_000  # bytes more than it has when it starts
HEAD = struct.Struct(">Q")
READERS = {  # what it does: nothing else can be asked of it
    "workbook": "backsquat.formats.table:workbook_rows",
    "picture": "backsquat.formats.pictures:made_of",
}


class _Apart:
    """The process, and who waits for it."""

    def __init__(self) -> None:
        self._turn = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None

    def read(self, what: str, field: str, *given: Any) -> Any:
        """What a reader makes of it; ImpossibleInput where it refuses, breaks, or asks for too much."""
        with self._turn:
            process = self._started()
            said = self._asked(process, (what, given))
        if said is None:
            raise ImpossibleInput(Problem(field, "file_heavy"))
        kind, value = said
        if kind == "refused":
            raise ImpossibleInput(*value)
        if kind == "broken":
            raise ImpossibleInput(Problem(field, "file_damaged"))
        return value

    def _started(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None:
            env = {**os.environ, "PYTHONPATH": os.pathsep.join(path for path in sys.path if path)}
            self._process = subprocess.Popen(
                [sys.executable, "-m", "backsquat.formats.apart"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env=env,
            )
            if self._within(self._process, START_SECONDS) is None:
                raise RuntimeError("the reader of files could not be started")
        return self._process

    def _asked(self, process: subprocess.Popen[bytes], what: Any) -> Any:
        assert process.stdin is not None
        try:
            _send(process.stdin, what)
        except OSError:
            self.end()
            return None
        return self._within(process, SECONDS)

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


_ONE = _Apart()
atexit.register(_ONE.end)
read_apart = _ONE.read


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


def _bound() -> None:
    """No more memory than it has now and `MEMORY`; where the system has no such bound the clock alone ends it."""
    with contextlib.suppress(ImportError, OSError, ValueError):
        import resource  # only where there is one

        now = int(Path("/proc/self/statm").read_text("ascii").split()[0]) * resource.getpagesize()
        resource.setrlimit(resource.RLIMIT_AS, (now + MEMORY, now + MEMORY))


def _bound_work() -> None:
    """No more of the processor's time for the next file than `WORK_SECONDS`."""
    with contextlib.suppress(ImportError, OSError, ValueError):
        import resource

        used = resource.getrusage(resource.RUSAGE_SELF)
        most = int(used.ru_utime + used.ru_stime) + 1 + WORK_SECONDS
        resource.setrlimit(resource.RLIMIT_CPU, (most, resource.getrlimit(resource.RLIMIT_CPU)[1]))


def _serve() -> None:
    known = {}
    for name, place in READERS.items():
        module, _, function = place.partition(":")
        known[name] = getattr(importlib.import_module(module), function)
    into, out = sys.stdin.buffer, sys.stdout.buffer
    sys.stdout = sys.stderr  # a reader that prints says nothing of ours
    _bound()
    _send(out, "ready")
    with contextlib.suppress(EOFError, BrokenPipeError):
        while True:
            what, given = _received(into)
            _bound_work()
            _send(out, _done(known[what], given))


def _done(reader: Any, given: tuple[Any, ...]) -> tuple[str, Any]:
    try:
        return "done", reader(*given)
    except ImpossibleInput as error:
        return "refused", error.problems
    except Exception:  # whatever a damaged file does to a reader, it is a damaged file
        return "broken", None


if __name__ == "__main__":
    _serve()
