"""A squad that trains while pages are measured, and what logging a set takes."""

import datetime as dt
import statistics
import time
from collections.abc import Callable
from functools import partial
from itertools import cycle
from uuid import uuid4

from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import select

from backsquat.storage.models import Cell, ExerciseWeek, SessionDay, SetEntry


def timed(run: Callable[[], object], times: int, before: Callable[[], object] = lambda: None) -> list[float]:
    """Milliseconds of each run, after one run to warm up; what is done `before` each is not counted."""
    run()
    taken = []
    for _ in range(times):
        before()
        start = time.perf_counter()
        run()
        taken.append(1000 * (time.perf_counter() - start))
    return taken


def middle_and_high(taken: list[float]) -> tuple[float, float]:
    return statistics.median(taken), statistics.quantiles(taken, n=20)[-1]


class Training:
    """The squad does the first lift of a day: sets logged one by one, going round, as the floor sends them."""

    def __init__(self, app: Flask, client: FlaskClient, day: dt.date) -> None:
        self.app, self.client, self.last = app, client, ""
        with app.extensions["database"].reader() as db:
            cells = db.execute(
                select(Cell.id, Cell.load_amount, ExerciseWeek.session_id)
                .join(ExerciseWeek, (ExerciseWeek.exercise_id == Cell.exercise_id) & (ExerciseWeek.week == Cell.week))
                .join(
                    SessionDay,
                    (SessionDay.session_id == ExerciseWeek.session_id) & (SessionDay.week == ExerciseWeek.week),
                )
                .where(Cell.live, Cell.load_kg.is_not(None), SessionDay.held_on == day, ExerciseWeek.position == 0)
                .order_by(Cell.athlete_id)
            ).all()
        self.cells = cycle(cells)

    def set(self) -> None:
        """The next set of whoever is next."""
        cell_id, amount, held = next(self.cells)
        self.last = str(uuid4())
        data = {"client_id": self.last, "load": str(amount), "reps": "6", "reserve_reps": "2", "session": str(held)}
        self._sent(f"/floor/cells/{cell_id}/sets", data)

    def set_or_back(self) -> None:
        """The next set, or taken back what was logged before: many can follow, and nobody lifts a hundred sets."""
        if not self.last:
            return self.set()
        with self.app.extensions["database"].reader() as db:
            entry_id = db.scalars(select(SetEntry.id).where(SetEntry.client_id == self.last)).one()
        self.last = ""
        return self._sent(f"/floor/sets/{entry_id}/take-back", {})

    def _sent(self, address: str, data: dict[str, str]) -> None:
        answer = self.client.post(address, data=data, headers={"HX-Request": "true"})
        assert answer.status_code == 204, answer.text


def log_sets(app: Flask, client: FlaskClient, day: dt.date, athletes: int) -> list[tuple[str, float, float, str, str]]:
    """Everybody's three sets of today: the first with the floor in view, one without, the last, which is judged."""
    training, shown = Training(app, client, day), partial(client.get, "/floor/")
    each = athletes - 1  # one more is made to warm up
    first = timed(training.set, each, shown)
    second = timed(training.set, each, app.extensions["database"].forget)
    last = timed(training.set, each, shown)
    return [
        ("Log a set on the floor (htmx, whole request)", *middle_and_high(first), "–", "20"),
        ("The same where nothing was looked at since the start", *middle_and_high(second), "–", "–"),
        ("Log the last set of an exercise, which is judged", *middle_and_high(last), "–", "–"),
    ]
