"""What is installed is whole: a wheel in an empty environment opens a page, and nothing needs what one system only has."""

import os
import socket
import subprocess
import sys
import venv
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from backsquat.version import PRODUCT, __version__
from tests.served import answer

ROOT = Path(__file__).parents[2]
UV = Path(sys.prefix) / "bin/uv"
POSIX = ("fcntl", "grp", "pwd", "resource", "termios", "pty", "syslog")


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("wheel")
    build = [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(folder)]
    done = subprocess.run(build, cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    return next(folder.glob("*.whl"))


@pytest.fixture(scope="module")
def installed(wheel: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of the commands of an environment that has the wheel and nothing of this checkout.

    What it depends on comes from the locks where WHOLE is said (the network is needed), else from the environment here.
    """
    folder = tmp_path_factory.mktemp("installed")
    venv.create(folder, with_pip=False)
    python = folder / "bin/python"
    install = [str(UV), "pip", "install", "-q", "--system-certs", "--python", str(python)]
    if os.environ.get("WHOLE"):
        subprocess.run([*install, "--require-hashes", "-r", str(ROOT / "requirements/app.txt")], check=True)
    else:
        here = next(Path(path) for path in sys.path if path.endswith("site-packages"))
        site = next(folder.glob("lib/python*/site-packages"))
        (site / "beside.pth").write_text(f"{here}\n", "utf-8")
    subprocess.run([*install, "--offline", "--no-deps", str(wheel)], check=True)
    return folder / "bin"


@pytest.fixture
def served(installed: Path, tmp_path: Path) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """A server with its address, started as somebody does who has installed it, anywhere."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    surroundings = {"HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path / "data"), "PATH": os.environ["PATH"]}
    command = [str(installed / "backsquat"), "serve", "--port", str(port)]
    with subprocess.Popen(command, cwd=tmp_path, env=surroundings, stdout=subprocess.PIPE, text=True) as process:
        try:
            assert process.stdout is not None
            said = process.stdout.readline()
            assert str(tmp_path / "data/backsquat/own") in said
            yield process, f"http://127.0.0.1:{port}"
        finally:
            process.terminate()


def test_a_wheel_holds_all_that_is_shipped_and_nothing_else(wheel: Path) -> None:
    with zipfile.ZipFile(wheel) as file:
        names = set(file.namelist())
        about = next(name for name in names if name.endswith(".dist-info/METADATA"))
        metadata = file.read(about).decode()
    source = ROOT / "src/backsquat"
    here = {
        f"backsquat/{path.relative_to(source).as_posix()}"
        for path in source.rglob("*")
        if path.is_file() and path.suffix != ".pyc"
    }
    assert here == {name for name in names if name.startswith("backsquat/")}
    assert f"\nVersion: {__version__}\n" in metadata and "Requires-Python: <3.14,>=3.11" in metadata
    licences = {name.rsplit("/", 1)[-1] for name in names if "/licenses/" in name}
    assert {"bootstrap.LICENSE.txt", "htmx.LICENSE.txt", "alpine.LICENSE.txt", "barlow.LICENSE.txt"} <= licences


def test_the_installed_command_serves_a_page_with_its_styles_from_any_folder(
    installed: Path, served: tuple[subprocess.Popen[str], str]
) -> None:
    server, address = served
    said = subprocess.run([str(installed / "backsquat"), "--version"], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == PRODUCT
    status, page = answer(server, f"{address}/first")
    assert status == 200 and PRODUCT.encode() in page
    for name in (
        "styles/tokens.css",
        "vendor/bootstrap.min.css",
        "vendor/htmx.min.js",
        "vendor/barlow-latin-400.woff2",
    ):
        assert answer(server, f"{address}/static/{name}")[0] == 200, name


HIDDEN = f"""
import sys
for name in {POSIX!r}:
    sys.modules[name] = None
from pathlib import Path
from backsquat import create_app
from backsquat.config import Config
from backsquat.storage.keeping import HeldFile, held
from backsquat.storage.migrate import migrate
import backsquat.cli, backsquat.serving
folder = Path(sys.argv[1])
config = Config(folder, testing=True, hash_cost=1, first_code="ABCD-2345")
with held(folder):
    migrate(config.database)
    app = create_app(config)
    print(app.test_client().get("/first").status_code)
"""


def test_it_starts_where_what_only_posix_has_is_missing(tmp_path: Path) -> None:
    ran = subprocess.run(
        [sys.executable, "-W", "ignore", "-c", HIDDEN, str(tmp_path)],
        env=os.environ | {"PYTHONPATH": str(ROOT / "src")},
        capture_output=True,
        text=True,
        check=False,
    )
    assert ran.stdout.strip().endswith("200"), ran.stderr


def test_every_file_is_opened_with_its_encoding_said() -> None:
    """Where nothing is said a machine takes its own, and a file from Debian is unreadable on another."""
    ran = subprocess.run(
        [sys.executable, "-X", "warn_default_encoding", "-W", "error::EncodingWarning:backsquat", "-c", OPENED],
        env=os.environ | {"PYTHONPATH": str(ROOT / "src")},
        capture_output=True,
        text=True,
        check=False,
    )
    assert ran.returncode == 0, ran.stderr


OPENED = """
import importlib, pkgutil, backsquat
for one in pkgutil.walk_packages(backsquat.__path__, "backsquat."):
    if "__main__" not in one.name and "migrations" not in one.name:
        importlib.import_module(one.name)
"""
