"""Answers cached from one request to the next, until something they were read from is written (`stamps.py` knows).

What is cached is shared by all requests and never changed. Whoever asks through here may read the tables that are nobody's;
where it is said (`plan`) the blocks with their exercises and days; for `cached_each` also each athlete's own rows; and
nothing
of an unstamped table. Sessions that write keep nothing.
"""

import threading
from collections import OrderedDict
from collections.abc import Callable, Collection, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any, TypeVar, cast

from sqlalchemy.orm import Session

from backsquat.storage.stamps import OF_ALL, OF_PLAN, stamps_of

Value = TypeVar("Value")
Stamps = tuple[int | None, ...]
Question = tuple[Any, ...]  # its kind, then what it is about: everything the answer depends on besides the data
CACHE, STAMPS = "cache", "stamps"  # in a reading session's info
LOOKED_AT = "looked at"  # in a writing one's
MOST = 40  # questions of a kind, the one not asked for longest goes first; a floor of 60 with seven items weighs 3 MB


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


class Cache:
    """The answers of one database: by question, the stamps of what is nobody's, and the answers by athlete."""

    def __init__(self) -> None:
        self._kinds: dict[str, OrderedDict[Question, tuple[Stamps, dict[Any, Any]]]] = {}
        self._lock = threading.Lock()

    def known(self, question: Question, stamps: Stamps) -> dict[Any, Any]:
        """A copy of those of a question while the stamps hold: nothing put into it is kept."""
        known = self._kinds.get(question[0], OrderedDict()).get(question)
        return dict(known[1]) if known and known[0] == stamps else {}

    def answers(self, question: Question, stamps: Stamps) -> dict[Any, Any]:
        """Those of a question while the stamps hold; else none yet, and those to come are kept here."""
        with self._lock:
            kind = self._kinds.setdefault(question[0], OrderedDict())
            known = kind.get(question)
            if known is None or known[0] != stamps:
                known = kind[question] = (stamps, {})
            kind.move_to_end(question)
            if len(kind) > MOST:
                kind.popitem(last=False)
            return known[1]


def cached(
    db: Session, question: Question, read: Callable[[], Value], *, plan: bool = False, unchanged: bool = False
) -> Value:
    """What `read` answers: of the squad, its rules, rooms, library, where it is said of its plan; of nobody's log.

    `unchanged`: no row of the database in it is ever changed by whoever asks, so that those who write may look at what
    readers kept, too (a row of another session could not be changed in theirs).
    """
    may = May(plan, athletes=False).within(READING.get())
    answers, _ = _known(db, question, (), plan, unchanged)
    if None not in answers:
        with _reading(may):
            answers[None] = read()
    return cast(Value, answers[None])


def cached_each(
    db: Session,
    question: Question,
    athlete_ids: Collection[int],
    read: Callable[[list[int]], Mapping[int, Value]],
    *,
    plan: bool = False,
    unchanged: bool = False,
) -> dict[int, Value]:
    """What `read` answers for each of these athletes, asked for those alone of whom something was written since.

    `read` takes ids and answers by id; whoever it leaves out is left out here. The answer for one athlete may
    depend on no other athlete's rows. `unchanged` as in `cached`.
    """
    may = May(plan, athletes=True).within(READING.get())
    answers, stamps = _known(db, question, athlete_ids, plan, unchanged)
    found = {one: answers.get(one) for one in athlete_ids}
    missing = [one for one, answer in found.items() if answer is None or answer[0] != stamps.get(one)]
    if missing:
        with _reading(may):
            more = read(missing)
        for one in missing:
            found[one] = answers[one] = (stamps.get(one), one in more, more.get(one))
    return {one: answer[2] for one, answer in found.items() if answer and answer[1]}


def _known(
    db: Session, question: Question, athlete_ids: Collection[int], plan: bool, unchanged: bool
) -> tuple[dict[Any, Any], Mapping[int, int | None]]:
    """The answers there are, and the stamps by which they were found. What is put to them is kept, by a reader."""
    keeps: Cache | None = db.info.get(CACHE)
    store = keeps or (db.info.get(LOOKED_AT) if unchanged else None)
    if store is None:
        return {}, {}
    stamps = _stamps(db, athlete_ids)
    nobodys = _nobodys(stamps, plan)
    return store.answers(question, nobodys) if keeps else store.known(question, nobodys), stamps


def _nobodys(stamps: Mapping[int, int | None], plan: bool) -> Stamps:
    return (stamps[OF_ALL], stamps[OF_PLAN]) if plan else (stamps[OF_ALL],)


def _stamps(db: Session, athlete_ids: Collection[int]) -> dict[int, int | None]:
    """Stamps as a session sees them: a reader one state of the data to its end, whoever writes what it wrote so far."""
    wanted = {OF_ALL, OF_PLAN, *athlete_ids}
    if CACHE not in db.info:
        db.flush()
        return dict.fromkeys(wanted) | stamps_of(db.connection(), wanted)
    known: dict[int, int | None] = db.info.setdefault(STAMPS, {})
    if missing := wanted - known.keys():
        known.update(dict.fromkeys(missing) | stamps_of(db.connection(), missing))
    return known


@contextmanager
def _reading(may: May) -> Iterator[None]:
    before = READING.set(may)
    try:
        yield
    finally:
        READING.reset(before)
