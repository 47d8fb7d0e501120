"""Walk through the application at random for some minutes; print the shortest story of each fault that was found."""

import argparse
import shutil
import sys
import tempfile
import time
from pathlib import Path

from tests.walk.walking import Walk, as_test, shortest

from backsquat import create_app
from backsquat.config import DEMO_DAY, Config
from backsquat.demo.club import build
from backsquat.storage.archive import newest
from backsquat.storage.database import Database
from backsquat.storage.migrate import migrate


def main() -> int:
    """Walks one after the other; 1 where something broke."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--minutes", type=float, default=30)
    asked.add_argument("--seed", type=int, default=int(time.time()) % 100_000)
    asked.add_argument("--steps", type=int, default=120)
    asked.add_argument("--demo", action="store_true", help="on the demo's data only")
    asked.add_argument("--shrink", type=float, default=60, help="seconds to look for the shortest story")
    said = asked.parse_args()
    folder = Path(tempfile.mkdtemp(prefix="backsquat-walk-"))
    app = create_app(Config(folder, demo=True, testing=True, fixed_day=DEMO_DAY, hash_cost=1))
    app.config["WTF_CSRF_ENABLED"] = False
    app.logger.disabled = True
    end, seed, found, steps = time.monotonic() + said.minutes * 60, said.seed, {}, 0  # type: ignore[var-annotated]
    while time.monotonic() < end:
        demo = said.demo or seed % 5 == 4
        if demo:
            _demo(app, folder)
        walk = Walk(app, seed, demo)
        broken = walk.go(said.steps, end)
        steps += len(walk.steps)
        if broken and broken.sign in found:
            found[broken.sign] += 1
        elif broken:
            found[broken.sign] = 1
            print(f"\n== seed {seed}, step {len(walk.steps)}: {broken}", flush=True)
            if not demo:
                print(as_test(walk, shortest(walk, said.shrink)), flush=True)
        seed += 1
    print(f"\n{seed - said.seed} walks, {steps} steps, {len(found)} faults")
    for sign, times in sorted(found.items(), key=lambda pair: -pair[1]):
        print(f"{times:4} × {sign}")
    shutil.rmtree(folder, ignore_errors=True)
    return 1 if found else 0


def _demo(app: object, folder: Path) -> None:
    made = Path(tempfile.gettempdir()) / f"backsquat-walk-demo-{newest()}.sqlite3"
    if not made.exists():
        making = folder / "making.sqlite3"
        migrate(making)
        database = Database(making)
        with database.writing() as db:
            build(db, hash_cost=1)
        database.settle()
        database.close()
        shutil.move(making, made)
    database = app.extensions["database"]  # type: ignore[attr-defined]
    database.close()
    for path in database.path.parent.glob(f"{database.path.name}*"):
        path.unlink()
    shutil.copy(made, database.path)


if __name__ == "__main__":
    sys.exit(main())
