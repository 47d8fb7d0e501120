"""Checked by machine (axe-core, WCAG 2.2 A and AA) over the main pages, on a laptop and on a phone: nothing is found."""

from pathlib import Path

import pytest
from flask import Flask
from playwright.sync_api import Page

from tests.draws import some

AXE = (Path(__file__).parent / "axe/axe.min.js").read_text("utf-8")
LOOK = """axe.run(document, { runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"] }).then((found) =>
  found.violations.map((one) => `${one.id}: ${one.nodes.length} × ${one.nodes[0].html.slice(0, 120)}`))"""
PAGES = (
    "/", "/athletes/1", "/screen/", "/screen/athlete/17", "/ladders/17", "/health-list/", "/movements/",
    "/movements/rear_raised_dumbbells", "/room/", "/block/", "/block/new?week=2027-01-11", "/block/3/compare?athlete=1",
    "/block/3/check", "/block/exercises/7", "/review/", "/session/?session=6", "/floor/", "/rules", "/import/", "/people",
    "/athletes/1/phone", "/export/", "/import/everybody", "/floor/paper/card?athlete=1", "/floor/paper/wall", "/account",
    "/season/?week=2026-11-30", "/floor/send", "/milestones/", "/season/trained", "/block/what-if?idea=without.2026-12-07.on", "/block/2/outcome",
    "/season/matches/12/minutes", "/technique/", "/technique/17", "/technique/17?lift=split", "/technique/17/stills", "/technique/stills/2",
    "/technique/17/then", "/technique/17/distances",
)  # fmt: skip


PARTS = 4  # so that the workers share them
SIZES = {"laptop": (1280, 800), "phone": (390, 844)}


@pytest.mark.parametrize("part", range(PARTS))
def test_no_page_keeps_anybody_out(watched: Page, site: tuple[str, Flask], part: int) -> None:
    page, (address, _) = watched, site
    found: dict[tuple[str, str], list[str]] = {}
    for path in some(PAGES[part::PARTS], 2):
        answer = page.goto(address + path)
        assert answer and answer.ok, path
        page.evaluate(AXE)
        for name, (width, height) in SIZES.items():
            page.set_viewport_size({"width": width, "height": height})
            page.evaluate("new Promise(requestAnimationFrame)")  # the page has heard of it
            if wrong := page.evaluate(LOOK):
                found[path, name] = wrong
    assert found == {}
