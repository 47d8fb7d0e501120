"""What is shipped: `docs/SBOM.json` (CycloneDX) from the locks and the vendored files, and a look for known faults.

python tools/shipped.py                 writes docs/SBOM.json
python tools/shipped.py --faults DIR    names what is shipped and faulty by a folder of OSV files at hand
"""

import json
import re
import sys
from importlib.metadata import PackageNotFoundError, metadata
from pathlib import Path

from packaging.version import InvalidVersion, Version

ROOT = Path(__file__).parent.parent
LOCKED = re.compile(r"^([a-z0-9][a-z0-9._-]*)==(\S+)", re.MULTILINE)
VENDORED = re.compile(r"^\| (@?[a-z][\w@/.-]*) \| ([\d.]+) \| (\S+) \|$", re.MULTILINE)


def parts() -> list[dict[str, object]]:
    """Every package and vendored file set with its version and licence."""
    found: list[dict[str, object]] = []
    for name, version in LOCKED.findall((ROOT / "requirements/app.txt").read_text("utf-8")):
        found.append(_part(name, version, f"pkg:pypi/{name}@{version}", _licence(name)))
    for name, version, licence in VENDORED.findall(
        (ROOT / "src/backsquat/ui/static/vendor/LICENCES.md").read_text("utf-8")
    ):
        found.append(_part(name, version, f"pkg:npm/{name.replace('@', '%40')}@{version}", licence))
    return found


def _part(name: str, version: str, address: str, licence: str) -> dict[str, object]:
    part: dict[str, object] = {"type": "library", "name": name, "version": version, "purl": address}
    return part | ({"licenses": [{"license": {"name": licence}}]} if licence else {})


def _licence(name: str) -> str:
    try:
        said = metadata(name)
    except PackageNotFoundError:
        return ""
    named = said.get("License-Expression") or said.get("License") or ""
    classed = [line.split(" :: ")[-1] for line in said.get_all("Classifier") or [] if line.startswith("License ::")]
    return named.splitlines()[0][:60] if named else ", ".join(classed)


def faults(folder: Path) -> list[str]:
    """Sentences about what is shipped and named faulty in a folder of OSV files."""
    here = {str(part["name"]).lower(): str(part["version"]) for part in parts()}
    found = []
    for path in sorted(folder.rglob("*.json")):
        told = json.loads(path.read_text("utf-8"))
        for affected in told.get("affected", []):
            name = str(affected.get("package", {}).get("name", "")).lower()
            if name in here and _is_hit(here[name], affected):
                found.append(f"{name} {here[name]}: {told.get('id')} {told.get('summary', '')}".strip())
    return found


def _is_hit(version: str, affected: dict[str, list[dict[str, object]]]) -> bool:
    if version in affected.get("versions", []):
        return True
    for span in affected.get("ranges", []):
        inside = False
        for event in span.get("events", []):  # type: ignore[attr-defined]
            try:
                if "introduced" in event:
                    inside = event["introduced"] == "0" or Version(version) >= Version(event["introduced"]) or inside
                if "fixed" in event and Version(version) >= Version(event["fixed"]):
                    inside = False
            except InvalidVersion:
                continue
        if inside:
            return True
    return False


def main() -> None:
    """Write the list, or say what is faulty."""
    if "--faults" in sys.argv:
        found = faults(Path(sys.argv[sys.argv.index("--faults") + 1]))
        sys.exit("\n".join(found) if found else 0)
    told = {"bomFormat": "CycloneDX", "specVersion": "1.6", "version": 1, "components": parts()}
    (ROOT / "docs/SBOM.json").write_text(json.dumps(told, indent=1, ensure_ascii=False) + "\n", "utf-8")


if __name__ == "__main__":
    main()
