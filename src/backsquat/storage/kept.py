"""Answers kept from one request to the next, until something they were read from is written (`stamps.py` knows).

What is kept is shared by all requests and never changed. A reader that asks through here may read, for `kept`, the
tables that are nobody's; for `kept_each`, those and the athlete's own rows; and nothing of an unstamped table.
Sessions that write keep nothing and are told everything anew.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable, Collection, Hashable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, TypeVar, cast

from sqlalchemy.orm import Session

from backsquat.storage.stamps import OF_ALL, stamps_of

Value = TypeVar("Value")
KEPT, STAMPS = "kept", "stamps"  # in a reading session's info
MOST = 400  # questions; the one not asked for longest goes first
READING: ContextVar[str] = ContextVar("reading", default="")  # what is being kept just now: tests hold it to its tables


class Kept:
    """The answers of one database: by question, the stamp of what is nobody's, and the answers by athlete."""

    def __init__(self) -> None:
        self._answers: OrderedDict[Hashable, tuple[int | None, dict[Any, Any]]] = OrderedDict()
        self._lock = threading.Lock()

    def answers(self, question: Hashable, stamp: int | None) -> dict[Any, Any]:
        """Those of a question while the stamp holds; else none yet."""
        with self._lock:
            known = self._answers.get(question)
            if known is None or known[0] != stamp:
                known = self._answers[question] = (stamp, {})
            self._answers.move_to_end(question)
            while len(self._answers) > MOST:
                self._answers.popitem(last=False)
            return known[1]


def kept(session: Session, question: Hashable, read: Callable[[], Value]) -> Value:
    """What `read` answers: of the squad, its rules, rooms, library, blocks and days, not of anybody's log."""
    store: Kept | None = session.info.get(KEPT)
    if store is None:
        return read()
    answers = store.answers(question, _stamps(session, ())[OF_ALL])
    if None not in answers:
        with _reading("kept"):
            answers[None] = read()
    return cast(Value, answers[None])


def kept_each(
    session: Session, question: Hashable, athlete_ids: Collection[int], read: Callable[[list[int]], Mapping[int, Value]]
) -> dict[int, Value]:
    """What `read` answers for each of these athletes, asked for those alone of whom something was written since.

    `read` takes ids and answers by id; whoever it leaves out is left out here. The answer for one athlete may
    depend on no other athlete's rows.
    """
    store: Kept | None = session.info.get(KEPT)
    if store is None:
        return dict(read(list(athlete_ids)))
    stamps = _stamps(session, athlete_ids)
    answers = store.answers(question, stamps[OF_ALL])
    known = {one: answers.get(one) for one in athlete_ids}
    missing = [one for one, answer in known.items() if answer is None or answer[0] != stamps[one]]
    if missing:
        with _reading("kept_each"):
            found = read(missing)
        for one in missing:
            known[one] = answers[one] = (stamps[one], one in found, found.get(one))
    return {one: answer[2] for one, answer in known.items() if answer and answer[1]}


def _stamps(session: Session, athlete_ids: Collection[int]) -> dict[int, int | None]:
    """Stamps as this session sees them: they hold to its end, as it sees one state of the data."""
    known: dict[int, int | None] = session.info.setdefault(STAMPS, {})
    wanted = {OF_ALL, *athlete_ids} - known.keys()
    if wanted:
        found = stamps_of(session.connection(), wanted)
        known.update((one, found.get(one)) for one in wanted)
    return known


@contextmanager
def _reading(what: str) -> Iterator[None]:
    before = READING.set("kept" if READING.get() == "kept" else what)  # the narrower of what is being kept
    try:
        yield
    finally:
        READING.reset(before)
