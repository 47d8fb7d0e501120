"""The line protocol of sensors, with stand-ins that speak it: watched, unplugged, plugged in again, nonsense on the line."""

import json
import socket
import time
from collections.abc import Callable, Iterator

import pytest
from hypothesis import given
from hypothesis import strategies as st

from backsquat.devices.listener import Sensor, Watcher, until_there
from backsquat.devices.protocol import Hello, Jump, Rep, line, said_in
from backsquat.devices.stand_in import SensorStandIn

COACH = Watcher(1, 1, "R. Amari")


def until(asked: Callable[[], object]) -> None:
    for _ in range(400):
        if asked():
            return
        time.sleep(0.02)
    raise AssertionError("it never came")


@pytest.fixture
def bar() -> Iterator[tuple[SensorStandIn, Sensor]]:
    made = SensorStandIn("bar", pace=0.02)
    sensor = Sensor("127.0.0.1", made.port)
    assert until_there(sensor)
    yield made, sensor
    sensor.close()
    made.unplug()


def test_a_watched_set_comes_rep_by_rep_and_gets_slower(bar: tuple[SensorStandIn, Sensor]) -> None:
    made, sensor = bar
    assert sensor.hello == Hello("bar speed", "stand-in, bar speed")
    assert sensor.watch("1-a", COACH, load_kg=70, about_kg=100)
    until(lambda: len(sensor.seen("1-a", COACH) or []) >= 8)
    sensor.end("1-a", COACH)
    speeds = sensor.seen("1-a", COACH) or []
    assert max(speeds[:2]) > speeds[7] > 0.2
    until(lambda: made.watching == "")
    seen = len(sensor.seen("1-a", COACH) or [])
    time.sleep(0.3)  # many reps long
    assert len(sensor.seen("1-a", COACH) or []) <= seen + 1  # one may have been under way


def test_the_next_set_begins_again_and_late_reps_of_the_last_are_not_counted(bar: tuple[SensorStandIn, Sensor]) -> None:
    _, sensor = bar
    sensor.watch("1-a", COACH, load_kg=40)
    until(lambda: len(sensor.seen("1-a", COACH) or []) >= 3)
    sensor.watch("1-b", COACH, load_kg=90)
    assert sensor.seen("1-a", COACH) is None
    until(lambda: len(sensor.seen("1-b", COACH) or []) >= 2)
    assert max(sensor.seen("1-b", COACH) or [9]) < 0.8  # heavy: slow from the first rep on


def test_unplugged_in_the_middle_loses_nothing_and_comes_back(bar: tuple[SensorStandIn, Sensor]) -> None:
    made, sensor = bar
    sensor.watch("1-a", COACH, load_kg=60)
    until(lambda: len(sensor.seen("1-a", COACH) or []) >= 3)
    made.unplug()
    until(lambda: not sensor.there)
    kept = sensor.seen("1-a", COACH) or []
    assert len(kept) >= 3
    assert not sensor.watch("1-b", COACH, load_kg=60)
    again = SensorStandIn("bar", made.port, pace=0.02)
    assert until_there(sensor)
    assert sensor.watch("1-c", COACH, load_kg=60)
    until(lambda: sensor.seen("1-c", COACH))
    again.unplug()


def test_a_mat_gives_times_in_the_air() -> None:
    made = SensorStandIn("mat", pace=0.02)
    sensor = Sensor("127.0.0.1", made.port)
    assert until_there(sensor)
    sensor.watch("jump", COACH)
    until(lambda: len(sensor.seen("jump", COACH) or []) >= 3)
    assert all(0.4 < flight < 0.6 for flight in sensor.seen("jump", COACH) or [])
    sensor.close()
    made.unplug()


def test_nonsense_on_the_line_is_skipped() -> None:
    server = socket.create_server(("127.0.0.1", 0))
    sensor = Sensor("127.0.0.1", server.getsockname()[1])
    opened, _ = server.accept()
    opened.sendall(b"\xff\xfe\n{\n[1]\n" + b"x" * 9_000 + b"\n" + line({"device": "bar speed", "protocol": 1}))
    assert until_there(sensor)
    sensor.watch("1-a", COACH)
    for said in ({"of": "1-a", "rep": "two"}, {"of": "1-a", "rep": 2, "mean_speed": -3}, {"rep": 1, "mean_speed": 0.5}):
        opened.sendall(line(said))
    half = line({"of": "1-a", "rep": 1, "mean_speed": 0.61})
    opened.sendall(half[:9])
    time.sleep(0.05)
    opened.sendall(half[9:])
    until(lambda: sensor.seen("1-a", COACH) == [0.61])
    sensor.close()
    opened.close()
    server.close()


def test_lines_are_read_as_they_are_meant() -> None:
    assert said_in(line({"of": "s", "rep": 3, "mean_speed": 0.55, "range_m": 0.6})) == Rep("s", 3, 0.55)
    assert said_in(line({"of": "s", "jump": 1, "flight_s": 0.5})) == Jump("s", 1, 0.5)
    assert said_in(line({"device": "bar speed", "protocol": 2})) is None  # of a later protocol
    assert said_in(b"{}") is None and said_in(b"3") is None


@pytest.mark.parametrize(
    "bad", [b'{"of":"1-a","rep":1,"mean_speed":1e999}', b'{"of":"1-a","rep":1e999,"mean_speed":1}', b"[" * 3_900,
            b'{"of":"1-a","rep":1,"mean_speed":' + b"9" * 400 + b"}", b'{"device":"bar speed","protocol":1e400}']
)  # fmt: skip
def test_one_bad_line_is_dropped_and_the_listener_goes_on(bad: bytes) -> None:
    server = socket.create_server(("127.0.0.1", 0))
    sensor = Sensor("127.0.0.1", server.getsockname()[1])
    opened, _ = server.accept()
    opened.sendall(line({"device": "bar speed", "protocol": 1}))
    assert until_there(sensor)
    sensor.watch("1-a", COACH)
    opened.sendall(bad + b"\n" + line({"of": "1-a", "rep": 1, "mean_speed": 0.61}))
    until(lambda: sensor.seen("1-a", COACH) == [0.61])
    assert sensor.heard_s is not None and sensor.there
    sensor.close()
    opened.close()
    server.close()


@given(st.binary(max_size=200) | st.text(max_size=80).map(str.encode) | st.dictionaries(
    st.sampled_from(["of", "rep", "jump", "mean_speed", "flight_s", "device", "protocol"]),
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=9) | st.lists(st.integers(), max_size=3),
).map(lambda said: json.dumps(said).encode()))  # fmt: skip
def test_whatever_stands_on_a_line_is_read_or_skipped(raw: bytes) -> None:
    said = said_in(raw)
    assert said is None or isinstance(said, Hello | Rep | Jump)


def test_a_sensor_is_taken_over_only_by_saying_so_in_its_squad() -> None:
    sensor = Sensor("127.0.0.1", 1)  # nothing is plugged in: whose it is is known all the same
    sensor.watch("1-a", COACH)
    other, athlete, stranger = Watcher(1, 2, "M. Sol"), Watcher(1, 3, "Liv", staff=False), Watcher(2, 9, "O. Ther")
    assert sensor.held_by(COACH) is None
    for one in (other, athlete, stranger):
        sensor.watch("2-b", one)
        assert sensor.held_by(one) == COACH and sensor.watched and sensor.watched.of == "1-a"
    for one in (athlete, stranger):
        sensor.watch("2-b", one, take_over=True)
        assert sensor.watched and sensor.watched.of == "1-a", "no athlete a coach's, and nobody another squad's"
    assert sensor.seen("1-a", stranger) is None and sensor.seen("1-a", COACH) == []
    sensor.end("1-a", stranger)
    assert sensor.held_by(other) == COACH
    sensor.watch("2-b", other, take_over=True)
    assert sensor.watched and sensor.watched.of == "2-b"
    sensor.end("2-b", other)
    assert sensor.held_by(athlete) is None, "over: free for everybody"
    sensor.close()
