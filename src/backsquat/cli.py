"""The commands: serve, demo, demo-reset, backup, restore, new-squad, add-person."""

import datetime as dt
import os
import shutil
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import click
from sqlalchemy import select

from backsquat.config import SENSORS, Config, SetupProblem, configured
from backsquat.serving import Listening, clock, free, kept_nightly, listen, post_delivered
from backsquat.storage.keeping import DataKind, HeldFile, Unsound, backup, examine, held, mark, restore
from backsquat.storage.migrate import Unmigratable, keep_watch, migrate
from backsquat.version import __version__

HOST = "127.0.0.1"
WRONG = {
    DataKind.OWN: "{folder} holds your own data, which the demo's commands never touch; unset BACKSQUAT_DATA, or name "
    "another folder for the demo.",
    DataKind.DEMO: "{folder} holds the demo's data; your own belong in another folder: unset BACKSQUAT_DATA, or name one.",
}


@click.group()
@click.version_option(__version__, prog_name="Back Squat", message="%(prog)s %(version)s")
def main() -> None:
    """Back Squat."""


def _ready(config: Config) -> bool:
    """Bring the data to the newest schema, after a look and a copy; False where there are none yet.

    SetupProblem where they are not of the kind the command is for: the demo's, or one's own.
    """
    if not config.database.exists():
        return False
    wanted = DataKind.DEMO if config.demo else DataKind.OWN
    found = examine(config.database)
    if found.kind not in (None, wanted):
        raise SetupProblem(WRONG[found.kind].format(folder=config.data))
    if not found.newest:
        backup(config.database, "before-update", clock().now())
        migrate(config.database)
    keep_watch(config.database)
    mark(config.database, wanted)
    config.database.chmod(0o600)
    return True


def _demo_data(config: Config) -> None:
    """Make the demo data beside its place and move it in whole, so that an interrupted start leaves nothing half made."""
    if _ready(config):
        return
    from backsquat.demo.club import build
    from backsquat.storage.database import Database

    print("Making the demo data (a made-up club, half a season of logs) ...", flush=True)
    fresh = config.data / "making"
    shutil.rmtree(fresh, ignore_errors=True)
    fresh.mkdir()
    path = fresh / config.database.name
    migrate(path)
    database = Database(path)
    with database.writing() as db:
        build(db, config.hash_cost)
    database.settle()
    database.close()
    mark(path, DataKind.DEMO)
    path.replace(config.database)
    shutil.rmtree(fresh, ignore_errors=True)


@main.command()
@click.option("--port", default=8000, show_default=True, type=click.IntRange(1, 65535))
def demo(port: int) -> None:
    """Serve the demo; the data are made at the first start and kept after that."""
    free(port, HOST)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))  # so that the stand-ins end with it, however it is stopped
    with stand_ins() as (sensors, post, finder):
        config = configured(demo=True, sensors=sensors, post=post, finder=finder)
        with held(config.data):
            _demo_data(config)
            _recount(config)
            _say_demo(config, port)
            with post_delivered(config):
                listen(config, Listening(HOST, port))


Address = tuple[str, int]


@contextmanager
def stand_ins() -> Iterator[tuple[tuple[tuple[str, str, int], ...], Address, Address]]:
    """Stand-ins for every kind of sensor, the post and the finder, each as a process of its own beside the demo."""
    called = [["stand_in", kind] for kind in SENSORS] + [["post_stand_in"], ["pose_stand_in"]]
    ports = []
    for _ in called:
        with socket.socket() as probe:
            probe.bind((HOST, 0))
            ports.append(probe.getsockname()[1])
    started = [
        subprocess.Popen(
            [sys.executable, "-m", f"backsquat.devices.{name}", *words, str(port)], stdout=subprocess.DEVNULL
        )
        for (name, *words), port in zip(called, ports, strict=True)
    ]
    try:
        sensors = tuple((kind, HOST, port) for kind, port in zip(SENSORS, ports, strict=False))
        yield sensors, (HOST, ports[-2]), (HOST, ports[-1])
    finally:
        for process in started:
            process.terminate()


def _say_demo(config: Config, port: int) -> None:
    from backsquat.demo.club import PASSWORD

    print(f"\nBack Squat demo: http://{HOST}:{port}/")
    print(
        f'Sign in with one click, or as amari (head coach), lund (assistant) or ferro (physio), password "{PASSWORD}".'
    )
    if config.post:
        print(f"What is sent to people shows at http://{config.post[0]}:{config.post[1]}/, a stand-in for the post.")
    print(
        f"The demo's day is {config.fixed_day}; what you enter is kept in {config.data}. Stop with Ctrl-C.\n",
        flush=True,
    )


@main.command("demo-reset")
def demo_reset() -> None:
    """Throw the demo data away and make it afresh."""
    config = configured(demo=True)
    with held(config.data):
        if config.database.exists() and examine(config.database).kind is DataKind.OWN:
            raise SetupProblem(WRONG[DataKind.OWN].format(folder=config.data))
        for name in ("", "-wal", "-shm"):
            Path(f"{config.database}{name}").unlink(missing_ok=True)
        _demo_data(config)
    print(f"Fresh demo data in {config.data}.")


@main.command()
@click.option("--port", default=8000, show_default=True, type=click.IntRange(1, 65535))
@click.option("--host", default=HOST, show_default=True, help="0.0.0.0 for the club's network; only with TLS")
@click.option("--certificate", type=click.Path(path_type=Path), help="a certificate of your own, as PEM: serves by TLS")
@click.option("--key", type=click.Path(path_type=Path), help="its key, where that is another file")
@click.option("--behind-proxy", is_flag=True, help="one reverse proxy in front ends TLS and says who asks")
@click.option("--workers", default=1, show_default=True, type=click.IntRange(1, 16), help="processes that serve")
def serve(port: int, host: str, certificate: Path | None, key: Path | None, behind_proxy: bool, workers: int) -> None:
    """Serve your own data; a copy of each day is kept beside them."""
    for file in (certificate, key):
        if file is not None and not file.is_file():
            raise SetupProblem(f"there is no file {file}.")
    if host not in (HOST, "localhost", "::1") and certificate is None and not behind_proxy:
        raise SetupProblem(
            f"on {host} passwords and health notes would go over the network in the clear; give a --certificate, or "
            "stay on 127.0.0.1 behind a reverse proxy (README: In a club's network)."
        )
    free(port, host)
    config = configured(demo=False, https=certificate is not None or behind_proxy, proxied=behind_proxy)
    with held(config.data):
        if not _ready(config):
            migrate(config.database)
            mark(config.database, DataKind.OWN)
        _recount(config)
        scheme = "https" if certificate else "http"
        print(f"Back Squat: {scheme}://{host}:{port}/  Data in {config.data}. Stop with Ctrl-C.", flush=True)
        config = _with_first_code(config, f"{scheme}://{host}:{port}/first")
        with kept_nightly(config), post_delivered(config):
            listen(config, Listening(host, port, certificate, key, workers))


def _with_first_code(config: Config, address: str) -> Config:
    """Where there is no squad yet: a code with which the first is made in the browser, said here and nowhere else."""
    from backsquat.storage.database import Database
    from backsquat.work.squad.first import is_empty
    from backsquat.work.squad.passes import new_code

    database = Database(config.database)
    with database.reader() as db:
        empty = is_empty(db)
    database.close()
    if not empty:
        return config
    code = new_code()
    print(f"\nThere is no squad yet. Make the first one at {address} with the code {code}\n", flush=True)
    return replace(config, first_code=code)


@main.command("backup")
def backup_command() -> None:
    """Copy your own data, also while they are served; the copy is checked."""
    config = configured(demo=False)
    if not config.database.exists():
        raise SetupProblem(f"there is no data in {config.data} to copy.")
    print(f"Copied and checked: {backup(config.database, 'asked', clock().now())}")


@main.command("restore")
@click.argument("file", type=click.Path(path_type=Path))
def restore_command(file: Path) -> None:
    """Put a backup in the place of your own data; what is there now is copied first."""
    config = configured(demo=False)
    if not file.is_file():
        raise SetupProblem(f"there is no file {file}; the backups are in {config.data / 'backups'}.")
    with held(config.data):
        before = restore(config.database, file, clock().now())
        _ready(config)
    print(f"Restored from {file}." + (f" What was there before: {before}." if before else ""))


def _recount(config: Config) -> None:
    """Go on with estimates that a changed rule left to be worked out again when the application was stopped."""
    from backsquat.storage.database import Database
    from backsquat.work.log.recount import recount, unfinished

    database = Database(config.database)
    with database.reader() as db:
        squads = unfinished(db)
    for squad_id in squads:
        recount(database, squad_id)
    database.close()


def _named(text: str, option: str) -> str:
    """The text without spaces around it; SetupProblem where nothing is left."""
    if not text.strip():
        raise SetupProblem(f"--{option} is empty; say who or what it is.")
    return text.strip()


@main.command("new-squad")
@click.option("--club", required=True, help="the club's name")
@click.option("--squad", required=True, help="for example: first team")
@click.option("--first-week", required=True, type=click.DateTime(["%Y-%m-%d"]), help="a Monday")
@click.option("--weeks", default=44, show_default=True, type=click.IntRange(1, 60))
@click.option("--coach", required=True, help="the coach's full name")
@click.option("--sign-in", required=True, help="the name the coach signs in with")
@click.option("--password", prompt=True, hide_input=True, confirmation_prompt=True)
def new_squad(
    club: str, squad: str, first_week: dt.datetime, weeks: int, coach: str, sign_in: str, password: str
) -> None:
    """Make a squad with a season and its first coach in your own data.

    \b
    For example:
    .venv/bin/python -m backsquat new-squad --club "Kestrel Point" --squad "first team" \\
      --first-week 2026-08-03 --coach "Full Name" --sign-in coach
    It asks for a password of ten characters or more, and prints the squad's number, which add-person needs.
    """
    from backsquat.core.errors import ImpossibleInput
    from backsquat.storage.database import Database
    from backsquat.ui.phrases.problems import problem_words
    from backsquat.work.squad.first import FirstFacts, make_squad

    if first_week.weekday() != 0:
        raise SetupProblem(f"a season starts on a Monday; {first_week:%Y-%m-%d} is a {first_week:%A}.")
    config = configured(demo=False)
    if not _ready(config):
        migrate(config.database)
        mark(config.database, DataKind.OWN)
    database = Database(config.database)
    try:
        with database.writing() as db:
            facts = FirstFacts(
                _named(club, "club"),
                _named(squad, "squad"),
                first_week.date(),
                weeks,
                _named(coach, "coach"),
                _named(sign_in, "sign-in"),
                password,
            )
            number = make_squad(db, facts, config.hash_cost).id
    except ImpossibleInput as error:
        raise SetupProblem(problem_words(error.problems[0])) from None
    print(f"{club}, {squad}: ready, squad number {number}. Start with: make serve")
    print(f"Others come in with: .venv/bin/python -m backsquat add-person --squad {number} --help")


@main.command("add-person")
@click.option("--squad", required=True, type=int, help="number of the squad, 1 for the first")
@click.option("--role", required=True, type=click.Choice(["coach", "assistant", "physio"]))
@click.option("--name", required=True, help="the full name")
@click.option("--sign-in", required=True, help="the name to sign in with")
@click.option("--password", prompt=True, hide_input=True, confirmation_prompt=True)
def add_person_command(squad: int, role: str, name: str, sign_in: str, password: str) -> None:
    """Give an assistant, a physio or another coach an account in your own data."""
    from backsquat.core.errors import ImpossibleInput
    from backsquat.core.roles import Role
    from backsquat.storage.database import Database
    from backsquat.storage.models import Squad
    from backsquat.ui.phrases.problems import problem_words
    from backsquat.work.accounts.people import add_person

    config = configured(demo=False)
    if not _ready(config):
        raise SetupProblem("there is no data yet; make a squad and a coach first with new-squad.")
    try:
        with Database(config.database).writing() as db:
            if db.get(Squad, squad) is None:
                known = [f"{row.id} ({row.club}, {row.name})" for row in db.scalars(select(Squad))]
                raise SetupProblem(f"there is no squad number {squad}; there is {', '.join(known) or 'none'}.")
            add_person(
                db,
                sign_in=_named(sign_in, "sign-in"),
                name=_named(name, "name"),
                password=password,
                squad_id=squad,
                role=Role(role),
                cost=config.hash_cost,
            )
    except ImpossibleInput as error:
        raise SetupProblem(problem_words(error.problems[0])) from None
    print(f"{name} may sign in as {sign_in}, {role}.")


@main.command("reset-link")
@click.option("--sign-in", required=True, help="the name to sign in with")
@click.option("--address", default="http://127.0.0.1:8000", show_default=True, help="where Back Squat is reached")
def reset_link(sign_in: str, address: str) -> None:
    """Make a one-time link with which somebody chooses a new password, and a new second factor."""
    from backsquat.storage.database import Database
    from backsquat.storage.models import User
    from backsquat.work.accounts.links import make_link
    from backsquat.work.accounts.people import key_of

    config = configured(demo=False)
    if not _ready(config):
        raise SetupProblem("there is no data yet; make a squad and a coach first with new-squad.")
    with Database(config.database).writing() as db:
        user = db.scalars(select(User).where(User.sign_in_key == key_of(sign_in))).first()
        if user is None:
            raise SetupProblem(f"nobody signs in as {sign_in}.")
        token = make_link(db, user.id, clock().real(), None)
    print(f"For {user.name}, once and within a day: {address.rstrip('/')}/new-password/{token}")


def run() -> None:
    """The entry: what stands in the way is said in one sentence, without a traceback."""
    os.umask(0o077)  # what is written here is for the owner's eyes only
    try:
        main(standalone_mode=False)
    except SetupProblem as problem:
        sys.exit(f"Back Squat cannot start: {problem}")
    except (Unsound, HeldFile) as problem:
        sys.exit(f"Back Squat cannot start: {problem}")
    except Unmigratable as problem:
        sys.exit(f"Back Squat cannot start: the data file could not be brought up to date ({problem}).")
    except click.ClickException as error:
        error.show()
        sys.exit(error.exit_code)
    except (KeyboardInterrupt, click.Abort):
        sys.exit(0)
