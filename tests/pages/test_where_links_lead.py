"""Nobody is led to a page that is not theirs: every link and form shown to a role is one that role may use."""

import re
from collections.abc import Iterator
from html.parser import HTMLParser
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from flask import Flask
from flask.testing import FlaskClient
from werkzeug.exceptions import HTTPException

import backsquat
from backsquat.core.roles import Role
from backsquat.work.policy import Act
from tests.pages.test_every_page import PAGES
from tests.pages.test_own_phone import on_phone

TEMPLATES = Path(backsquat.__file__).parent
MORE = ("/people", "/account", "/export/", "/import/", "/milestones/", "/floor/paper/card", "/session/?session=6")


class Ways(HTMLParser):
    """Where a page leads: (method, address) of its links and forms, its parts and buttons with one of their own."""

    def __init__(self) -> None:
        super().__init__()
        self.found: set[tuple[str, str]] = set()
        self.method = "GET"

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        said = {name: value or "" for name, value in attrs}
        if tag == "form":
            self.method = said.get("method", "get").upper()
        for name, method in (("href", "GET"), ("action", self.method), ("formaction", self.method),
                             ("hx-get", "GET"), ("hx-post", "POST"), ("data-edits", "POST")):  # fmt: skip
            if said.get(name, "").startswith("/") and tag not in ("link", "use"):
                self.found.add((method, said[name]))


def pages_of(client: FlaskClient) -> Iterator[tuple[str, str]]:
    """Every page of the list this role may open, with its text."""
    for address in (*PAGES, *MORE):
        answer = client.get(address, follow_redirects=True)
        if answer.status_code == 200 and answer.mimetype == "text/html":
            yield address, answer.text


def kept_out(app: Flask, role: Role, method: str, address: str) -> bool:
    """Whether the route behind an address is not for a role; what leads nowhere is another test's."""
    try:
        endpoint, _ = app.url_map.bind("localhost").match(urlsplit(address).path, method=method)
    except HTTPException:
        return False
    roles = getattr(app.view_functions[endpoint], "roles", None)
    return roles is not None and "anyone" not in roles and role not in roles


@pytest.mark.parametrize(
    ("who", "role", "least"),
    [("assistant", Role.ASSISTANT, 400), ("physio", Role.PHYSIO, 300), ("phone", Role.ATHLETE, 20)],
)
def test_no_link_and_no_form_leads_a_role_to_what_is_not_for_it(
    app: Flask, client: FlaskClient, who: str, role: Role, least: int, request: pytest.FixtureRequest
) -> None:
    shown = on_phone(app, client, "Marit Holm") if who == "phone" else request.getfixturevalue(who)
    wrong: dict[tuple[str, str], str] = {}
    seen = 0
    for address, text in pages_of(shown):
        ways = Ways()
        ways.feed(text)
        seen += len(ways.found)
        wrong |= {way: address for way in ways.found if kept_out(app, role, *way)}
    assert seen > least
    assert not wrong, "\n".join(f"{method} {to}   on {at}" for (method, to), at in sorted(wrong.items()))


def test_templates_ask_what_one_may_and_compare_no_roles() -> None:
    asked = set()
    for path in TEMPLATES.rglob("*.html"):
        text = path.read_text("utf-8")
        assert not re.search(r"\brole\s*(?:==|!=|\bin\b)\s*[\"'(]", text), path
        asked |= set(re.findall(r"\bmay\.(\w+)", text))
    assert asked and asked <= {act.value for act in Act}
