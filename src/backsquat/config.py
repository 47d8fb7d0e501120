"""Where the data lives and how the application runs, from the environment."""

import datetime as dt
import os
import secrets
from dataclasses import dataclass
from pathlib import Path

from platformdirs import user_data_path

DEMO_DAY = dt.date(2026, 11, 23)  # a Monday in the demo club's season
CONTENT_POLICY = "; ".join(
    (
        "default-src 'self'", "script-src 'self'", "style-src 'self'", "img-src 'self' data:", "font-src 'self'",
        "media-src blob:",  # a clip that stays in the browser, for one frame of it
        "connect-src 'self'", "worker-src 'self'", "manifest-src 'self'", "object-src 'none'", "base-uri 'none'",
        "form-action 'self'", "frame-ancestors 'none'",
    )
)  # fmt: skip
CHECKOUT = Path("src/backsquat/config.py")  # below the working folder where one works on the program itself
UPLOAD_MOST_BYTES = 256 * 1024  # of a form; pages that take files say so


class SetupProblem(Exception):
    """Something on this machine stands in the way; the message is one sentence for whoever started it."""


@dataclass(frozen=True)
class Config:
    """What differs between a real start, the demo and the tests."""

    data: Path
    demo: bool = False
    testing: bool = False
    fixed_day: dt.date | None = None
    secret: str = "only for tests"
    hash_cost: int = 3  # argon2 time cost; 1 in tests
    second_factor: bool = False  # whoever sees health notes must have one
    https: bool = False  # reached by TLS, its own or a proxy's
    proxied: bool = False  # one reverse proxy in front says who asks
    idle_hours: float = 2  # a sign-in ends after so long without a request
    whole_hours: float = 12  # and after so long altogether
    first_code: str = ""  # makes the first squad in the browser, while there is none
    sensors: tuple[tuple[str, str, int], ...] = ()  # kind, host, port of each that is listened to
    post: tuple[str, int] | None = None  # host, port of the service that delivers messages
    finder: tuple[str, int] | None = None  # host, port of what suggests points in pictures

    @property
    def database(self) -> Path:
        return self.data / "backsquat.sqlite3"


def data_folder(demo: bool) -> Path:
    """BACKSQUAT_DATA; else in a checkout var/demo and var/own, installed the same in the person's own data folder."""
    named = os.environ.get("BACKSQUAT_DATA", "").strip()
    home = Path.cwd() / "var" if (Path.cwd() / CHECKOUT).is_file() else user_data_path("backsquat", appauthor=False)
    folder = Path(named).expanduser() if named else home / ("demo" if demo else "own")
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        probe = folder / ".may-write"
        probe.touch()
        probe.unlink()
    except OSError as error:
        raise SetupProblem(
            f"the data folder {folder} cannot be written to ({error.strerror}); "
            "set BACKSQUAT_DATA to a folder you may write."
        ) from None
    return folder


def configured(
    demo: bool,
    *,
    https: bool = False,
    proxied: bool = False,
    sensors: tuple[tuple[str, str, int], ...] = (),
    post: tuple[str, int] | None = None,
    finder: tuple[str, int] | None = None,
) -> Config:
    """The settings of a start; those for accounts can be given in the environment."""
    folder = data_folder(demo)
    if demo:
        here = {"sensors": sensors, "post": post, "finder": finder}
        return Config(folder, demo=True, fixed_day=DEMO_DAY, secret=_secret(folder), **here)  # type: ignore[arg-type]
    return Config(
        folder,
        secret=_secret(folder),
        second_factor=os.environ.get("BACKSQUAT_SECOND_FACTOR", "yes") != "no",
        https=https,
        proxied=proxied,
        sensors=_sensors(),
        post=_service("BACKSQUAT_POST", "delivers messages"),
        finder=_service("BACKSQUAT_FINDER", "suggests points in pictures"),
        idle_hours=_hours("BACKSQUAT_IDLE_HOURS", Config.idle_hours),
        whole_hours=_hours("BACKSQUAT_SIGNED_IN_HOURS", Config.whole_hours),
    )


def _hours(name: str, otherwise: float) -> float:
    text = os.environ.get(name, "").strip()
    try:
        hours = float(text) if text else otherwise
    except ValueError:
        hours = 0
    if not 0 < hours <= 24 * 31:
        raise SetupProblem(f"{name} is hours, more than none and at most {24 * 31}; it says {text!r}.")
    return hours


SENSORS = ("bar", "mat")
HERE = ("127.0.0.1", "localhost")


def _sensors() -> tuple[tuple[str, str, int], ...]:
    """BACKSQUAT_SENSORS: bar=127.0.0.1:9301 mat=127.0.0.1:9302, each on this machine (docs/DEVICES.md)."""
    found = []
    for text in os.environ.get("BACKSQUAT_SENSORS", "").split():
        kind, _, address = text.partition("=")
        host, _, port = address.rpartition(":")
        if kind not in SENSORS or host not in HERE or not port.isdecimal():
            raise SetupProblem(
                f"BACKSQUAT_SENSORS names sensors of this machine as {SENSORS[0]}=127.0.0.1:9301; it says {text!r}."
            )
        found.append((kind, host, int(port)))
    return tuple(found)


def _service(name: str, does: str) -> tuple[str, int] | None:
    """A service of this machine as 127.0.0.1:9401 (docs/DEVICES.md); none where nothing is said."""
    text = os.environ.get(name, "").strip()
    host, _, port = text.rpartition(":")
    if text and (host not in HERE or not port.isdecimal()):
        raise SetupProblem(f"{name} names what {does} on this machine as 127.0.0.1:9401; it says {text!r}.")
    return (host, int(port)) if text else None


def _secret(folder: Path) -> str:
    """The key that signs sessions, made once and readable by its owner only."""
    path = folder / "secret"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_hex(32), "utf-8")
    return path.read_text("utf-8").strip()
