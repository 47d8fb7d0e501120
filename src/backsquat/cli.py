"""The commands: serve, demo, demo-reset, new-squad, add-person."""

import datetime as dt
import gc
import logging
import os
import shutil
import socket
import sys
from pathlib import Path

import click

from backsquat.config import Config, SetupProblem, configured
from backsquat.storage.migrate import Unmigratable, migrate

HOST = "127.0.0.1"


@click.group()
def main() -> None:
    """Back Squat."""


def _free(port: int) -> None:
    """SetupProblem where something listens on the port already."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError:
            raise SetupProblem(
                f"port {port} is already in use; stop what runs there, or choose another with PORT={port + 1}."
            ) from None


def _demo_data(config: Config) -> None:
    """Make the demo data beside its place and move it in whole, so that an interrupted start leaves nothing half made."""
    if config.database.exists():
        migrate(config.database)
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
    with database.writing() as session:
        build(session, config.hash_cost)
    database.settle()
    database.close()
    path.replace(config.database)
    shutil.rmtree(fresh, ignore_errors=True)


def _serve(config: Config, port: int) -> None:
    from waitress import serve

    from backsquat import create_app

    app = create_app(config)
    gc.collect()
    gc.freeze()  # what is loaded by now stays; the collector need not walk it again and again
    logging.basicConfig(level=logging.INFO, format="%(message)s")
    logging.getLogger("waitress").setLevel(logging.ERROR)
    serve(app, host=HOST, port=port, threads=8)


@main.command()
@click.option("--port", default=8000, show_default=True, type=click.IntRange(1, 65535))
def demo(port: int) -> None:
    """Serve the demo; the data are made at the first start and kept after that."""
    _free(port)
    config = configured(demo=True)
    _demo_data(config)
    from backsquat.demo.club import PASSWORD

    print(f"\nBack Squat demo: http://{HOST}:{port}/")
    print(
        f'Sign in with one click, or as amari (head coach), lund (assistant) or ferro (physio), password "{PASSWORD}".'
    )
    print(
        f"The demo's day is {config.fixed_day}; what you enter is kept in {config.data}. Stop with Ctrl-C.\n",
        flush=True,
    )
    _serve(config, port)


@main.command("demo-reset")
def demo_reset() -> None:
    """Throw the demo data away and make it afresh."""
    config = configured(demo=True)
    for name in ("", "-wal", "-shm"):
        Path(f"{config.database}{name}").unlink(missing_ok=True)
    _demo_data(config)
    print(f"Fresh demo data in {config.data}.")


@main.command()
@click.option("--port", default=8000, show_default=True, type=click.IntRange(1, 65535))
def serve(port: int) -> None:
    """Serve your own data."""
    _free(port)
    config = configured(demo=False)
    if not config.database.exists():
        raise SetupProblem(
            "there is no data yet; make a squad and a coach first: .venv/bin/python -m backsquat new-squad --help"
        )
    migrate(config.database)
    _recount(config)
    print(f"Back Squat: http://{HOST}:{port}/  Data in {config.data}. Stop with Ctrl-C.", flush=True)
    _serve(config, port)


def _recount(config: Config) -> None:
    """Go on with estimates that a changed rule left to be worked out anew when the application was stopped."""
    from backsquat.storage.database import Database
    from backsquat.work.log.recount import recount, unfinished

    database = Database(config.database)
    with database.reader() as session:
        squads = unfinished(session)
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
    from backsquat.core.roles import Role
    from backsquat.storage.database import Database
    from backsquat.storage.models import Season, Squad
    from backsquat.ui.phrases.problems import problem_words
    from backsquat.work.accounts.people import add_person

    if first_week.weekday() != 0:
        raise SetupProblem(f"a season starts on a Monday; {first_week:%Y-%m-%d} is a {first_week:%A}.")
    config = configured(demo=False)
    migrate(config.database)
    database = Database(config.database)
    try:
        with database.writing() as session:
            row = Squad(club=_named(club, "club"), name=_named(squad, "squad"))
            session.add(row)
            session.flush()
            number = row.id
            session.add(Season(squad_id=row.id, name=str(first_week.year), first_week=first_week.date(), weeks=weeks))
            add_person(
                session,
                sign_in=_named(sign_in, "sign-in"),
                name=_named(coach, "coach"),
                password=password,
                squad_id=row.id,
                role=Role.COACH,
                cost=config.hash_cost,
            )
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
    from sqlalchemy import select

    from backsquat.core.errors import ImpossibleInput
    from backsquat.core.roles import Role
    from backsquat.storage.database import Database
    from backsquat.storage.models import Squad
    from backsquat.ui.phrases.problems import problem_words
    from backsquat.work.accounts.people import add_person

    config = configured(demo=False)
    if not config.database.exists():
        raise SetupProblem("there is no data yet; make a squad and a coach first with new-squad.")
    migrate(config.database)
    try:
        with Database(config.database).writing() as session:
            if session.get(Squad, squad) is None:
                known = [f"{row.id} ({row.club}, {row.name})" for row in session.scalars(select(Squad))]
                raise SetupProblem(f"there is no squad number {squad}; there is {', '.join(known) or 'none'}.")
            add_person(
                session,
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


def run() -> None:
    """The entry: what stands in the way is said in one sentence, without a traceback."""
    try:
        main(standalone_mode=False)
    except SetupProblem as problem:
        sys.exit(f"Back Squat cannot start: {problem}")
    except Unmigratable as problem:
        sys.exit(f"Back Squat cannot start: the data file could not be brought up to date ({problem}).")
    except click.ClickException as error:
        error.show()
        sys.exit(error.exit_code)
    except (KeyboardInterrupt, click.Abort):
        sys.exit(os.EX_OK)
