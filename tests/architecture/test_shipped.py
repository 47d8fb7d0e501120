"""What is shipped is listed as it is, with licences; and a list of known faults at hand is looked through."""

import json
import sys
from pathlib import Path

import pytest
from flask.testing import FlaskClient

ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(ROOT / "tools"))
import shipped  # noqa: E402


def test_the_list_of_what_is_shipped_is_the_locks() -> None:
    told = json.loads((ROOT / "docs/SBOM.json").read_text("utf-8"))
    listed = {(part["name"], part["version"]) for part in told["components"]}
    assert listed == {(part["name"], part["version"]) for part in shipped.parts()}, "make shipped"
    assert {"flask", "pyotp", "bootstrap", "htmx.org", "@alpinejs/csp"} <= {name for name, _ in listed}


def test_every_vendored_package_has_its_licence_beside_it() -> None:
    vendor = ROOT / "src/backsquat/ui/static/vendor"
    texts = {path.name.split(".")[0] for path in vendor.glob("*.LICENSE.txt")}
    assert texts == {"bootstrap", "htmx", "alpine", "barlow", "idb"}


@pytest.mark.parametrize(
    ("affected", "hit"),
    [
        ({"versions": ["3.1.3"]}, True),
        ({"versions": ["1.0"]}, False),
        ({"ranges": [{"events": [{"introduced": "0"}, {"fixed": "99"}]}]}, True),
        ({"ranges": [{"events": [{"introduced": "0"}, {"fixed": "2.0"}]}]}, False),
        ({"ranges": [{"events": [{"introduced": "98"}]}]}, False),
    ],
)
def test_known_faults_at_hand_are_found(tmp_path: Path, affected: dict[str, object], hit: bool) -> None:
    told = {"id": "X-1", "summary": "bad", "affected": [{"package": {"name": "Flask"}} | affected]}
    (tmp_path / "x.json").write_text(json.dumps(told))
    assert bool(shipped.faults(tmp_path)) is hit


def test_files_have_addresses_that_change_with_them(client: FlaskClient) -> None:
    page = client.get("/").text
    address = page.split('src="')[1].split('"')[0]
    assert "?v=" in address
    with client.get(address) as kept, client.get(address.split("?")[0] + "?v=other") as other:
        assert kept.headers["Cache-Control"] == "public, max-age=31536000, immutable"
        assert "immutable" not in other.headers["Cache-Control"]
