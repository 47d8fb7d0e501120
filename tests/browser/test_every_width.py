"""Every page at every width that is used, and what the keys are on: seen everywhere."""

import pytest
from flask import Flask
from playwright.sync_api import Page

from tests.draws import some
from tests.pages.test_every_page import PAGES

WIDTHS = (320, 390, 768, 820, 1024, 1280)
PARTS = 2  # so that the workers share them
UNSEEN = """() => [...document.querySelectorAll('main :is(a[href], button, input:not([type=hidden]), select, textarea, summary)')]
  .filter((one) => one.checkVisibility() && !one.disabled && one.getClientRects().length)
  .filter((one) => { one.focus({ focusVisible: true, preventScroll: true }); const shown = getComputedStyle(one), label = one.closest('label');
    const around = label && getComputedStyle(label), beside = one.nextElementSibling && getComputedStyle(one.nextElementSibling);
    return document.activeElement === one && ![shown, around, beside].some((style) => style && style.outlineStyle !== 'none' && parseFloat(style.outlineWidth) >= 2); })
  .map((one) => one.outerHTML.slice(0, 120))"""


@pytest.mark.parametrize("part", range(PARTS))
def test_no_page_goes_sideways(watched: Page, site: tuple[str, Flask], part: int) -> None:
    page, (address, _) = watched, site
    wide = []
    for path in some(PAGES[part::PARTS], 3):
        page.goto(address + path)
        for width in WIDTHS:
            page.set_viewport_size({"width": width, "height": 844})
            page.evaluate("new Promise(requestAnimationFrame)")  # the page has heard of it
            if (found := page.evaluate("document.documentElement.scrollWidth")) > width:
                wide.append((path, width, found))
    assert wide == []


@pytest.mark.parametrize("path", ["/floor/", "/room/", "/block/new?week=2027-01-11", "/rules", "/athletes/1/test"])
def test_what_the_keys_are_on_is_seen(watched: Page, site: tuple[str, Flask], path: str) -> None:
    watched.goto(site[0] + path)
    assert watched.evaluate(UNSEEN) == []
