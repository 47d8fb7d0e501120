"""A short walk in every run of the suite; `make walk` goes on for as long as it is given."""

import pytest
from flask import Flask

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from tests.draws import LONG
from tests.walk.walking import Walk, as_test

STEPS, DEMO_STEPS = (45, 15) if LONG else (25, 10)


@pytest.fixture
def walked(tmp_path, monkeypatch: pytest.MonkeyPatch) -> Flask:  # type: ignore[no-untyped-def]
    """An application of its own: the clock is moved and the data replaced."""
    app = create_app(Config(tmp_path, demo=True, testing=True, fixed_day=DEMO_DAY, hash_cost=1))
    app.config["WTF_CSRF_ENABLED"] = False
    yield app
    app.extensions["database"].close()


@pytest.mark.parametrize("seed", [11])
def test_a_squad_made_from_nothing_is_used_as_people_do(walked: Flask, seed: int) -> None:
    walk = Walk(walked, seed)
    assert walk.go(STEPS) is None, as_test(walk, walk.steps)


def test_the_demo_is_used_as_people_do(app: Flask) -> None:
    clock = app.extensions["clock"]
    try:
        walk = Walk(app, 13, demo=True)
        assert walk.go(DEMO_STEPS) is None, as_test(walk, walk.steps)
    finally:
        app.extensions["clock"] = clock
