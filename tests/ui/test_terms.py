"""Words of the job with their line: each stands in the glossary, opens from where it is used, and once a page."""

import re
from pathlib import Path

from flask.testing import FlaskClient

from backsquat.ui.phrases.terms import TERMS

GLOSSARY = (Path(__file__).parents[2] / "docs/GLOSSARY.md").read_text("utf-8")
WHERE = (
    "/block/3", "/block/3?lift=6", "/block/3/exercises", "/block/new", "/block/3/check", "/session/?session=6", "/ladders/4",
    "/athletes/4", "/screen/",
)  # fmt: skip


def test_every_term_is_in_the_glossary_and_used_somewhere(client: FlaskClient) -> None:
    heads = " ".join(line.split("|")[1] for line in GLOSSARY.splitlines() if line.startswith("|"))
    assert not [word for word in TERMS if word not in heads]
    used: set[str] = set()
    for address in WHERE:
        page = client.get(address).text
        opens, lines = re.findall(r'popovertarget="([^"]+)"', page), re.findall(r'id="([^"]+)" popover', page)
        assert opens and sorted(opens) == sorted(lines), address
        assert len(set(lines)) == len(lines), address
        used |= set(lines)
    assert {f"term-{word.replace(' ', '-')}" for word in TERMS} <= used


def test_a_word_of_the_glossary_has_one_meaning() -> None:
    heads = [
        head.strip().casefold()
        for line in GLOSSARY.splitlines()
        if line.startswith("|") and not line.startswith("|-")
        for head in line.split("|")[1].split(",")
    ]
    assert len(heads) > 120 and sorted(set(heads)) == sorted(heads)
