"""Answers kept from one request to the next, until something they were read from is written (`stamps.py` knows).

What is kept is shared by all requests and never changed. Whoever asks through here may read the tables that are nobody's;
where it is said (`plan`) the blocks with their slots and days; for `kept_each` also each athlete's own rows; and nothing
of an unstamped table. Sessions that write keep nothing.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable, Collection, Hashable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any, TypeVar, cast

from sqlalchemy.orm import Session

from backsquat.storage.stamps import OF_ALL, OF_PLAN, stamps_of

Value = TypeVar("Value")
Stamps = tuple[int | None, ...]
KEPT, STAMPS = "kept", "stamps"  # in a reading session's info
LOOKED_AT = "looked at"  # in a writing one's
MOST = 400  # questions; the one not asked for longest goes first


@dataclass(frozen=True)
class May:
    """What a reader of something that is kept may read besides the tables that are nobody's."""

    plan: bool
    athletes: bool

    def within(self, outer: "May | None") -> "May":
        """This, asked for by the reader of something else that is kept; ValueError where that one may not know it."""
        if outer and (self.plan > outer.plan or self.athletes > outer.athletes):
            raise ValueError(f"what is kept asks for what it would not be told of: {self} within {outer}")
        return self


READING: ContextVar[May | None] = ContextVar("reading", default=None)  # what is read now: tests hold it to its tables


class Kept:
    """The answers of one database: by question, the stamps of what is nobody's, and the answers by athlete."""

    def __init__(self) -> None:
        self._answers: OrderedDict[Hashable, tuple[Stamps, dict[Any, Any]]] = OrderedDict()
        self._lock = threading.Lock()

    def known(self, question: Hashable, stamps: Stamps) -> dict[Any, Any]:
        """A copy of those of a question while the stamps hold: nothing put into it is kept."""
        known = self._answers.get(question)
        return dict(known[1]) if known and known[0] == stamps else {}

    def answers(self, question: Hashable, stamps: Stamps) -> dict[Any, Any]:
        """Those of a question while the stamps hold; else none yet, and those to come are kept here."""
        with self._lock:
            known = self._answers.get(question)
            if known is None or known[0] != stamps:
                known = self._answers[question] = (stamps, {})
            self._answers.move_to_end(question)
            while len(self._answers) > MOST:
                self._answers.popitem(last=False)
            return known[1]


def kept(session: Session, question: Hashable, read: Callable[[], Value], *, plan: bool = False) -> Value:
    """What `read` answers: of the squad, its rules, rooms, library, where it is said of its plan; of nobody's log."""
    store: Kept | None = session.info.get(KEPT)
    may = May(plan, athletes=False).within(READING.get())
    if store is None:
        return read()
    answers = store.answers(question, _nobodys(_stamps(session, ()), plan))
    if None not in answers:
        with _reading(may):
            answers[None] = read()
    return cast(Value, answers[None])


def kept_each(
    session: Session,
    question: Hashable,
    athlete_ids: Collection[int],
    read: Callable[[list[int]], Mapping[int, Value]],
    *,
    plan: bool = False,
    no_rows: bool = False,
) -> dict[int, Value]:
    """What `read` answers for each of these athletes, asked for those alone of whom something was written since.

    `read` takes ids and answers by id; whoever it leaves out is left out here. The answer for one athlete may
    depend on no other athlete's rows. `no_rows`: there are none of the database in it, so that whoever writes may
    look at what readers kept, too (a row of another session could not be changed in theirs).
    """
    keeps: Kept | None = session.info.get(KEPT)
    store = keeps or (session.info.get(LOOKED_AT) if no_rows else None)
    may = May(plan, athletes=True).within(READING.get())
    if store is None:
        return dict(read(list(athlete_ids)))
    stamps = _stamps(session, athlete_ids)
    nobodys = _nobodys(stamps, plan)
    known = store.answers(question, nobodys) if keeps else store.known(question, nobodys)
    found = {one: known.get(one) for one in athlete_ids}
    missing = [one for one, answer in found.items() if answer is None or answer[0] != stamps[one]]
    if missing:
        with _reading(may):
            more = read(missing)
        for one in missing:
            found[one] = known[one] = (stamps[one], one in more, more.get(one))
    return {one: answer[2] for one, answer in found.items() if answer and answer[1]}


def _nobodys(stamps: Mapping[int, int | None], plan: bool) -> Stamps:
    return (stamps[OF_ALL], stamps[OF_PLAN]) if plan else (stamps[OF_ALL],)


def _stamps(session: Session, athlete_ids: Collection[int]) -> dict[int, int | None]:
    """Stamps as a session sees them: a reader one state of the data to its end, whoever writes what it wrote so far."""
    wanted = {OF_ALL, OF_PLAN, *athlete_ids}
    if KEPT not in session.info:
        session.flush()
        return dict.fromkeys(wanted) | stamps_of(session.connection(), wanted)
    known: dict[int, int | None] = session.info.setdefault(STAMPS, {})
    if missing := wanted - known.keys():
        known.update(dict.fromkeys(missing) | stamps_of(session.connection(), missing))
    return known


@contextmanager
def _reading(may: May) -> Iterator[None]:
    before = READING.set(may)
    try:
        yield
    finally:
        READING.reset(before)
