"""The sport's own words: on no page, in no phrase and in no template stands one of those that coaches stumbled over."""

import ast
import html
import re
from pathlib import Path

from flask import Flask
from flask.testing import FlaskClient

import backsquat
from tests.pages.test_every_page import PAGES

SOURCE = Path(backsquat.__file__).parent
WENT = re.compile(
    r"\b(schools?|slots?|rungs?|gates?|let through|easy weeks?|estimates?|four in five|newest firm|mends?|mended|anew|"
    r"nought|whoever|reps left|open a list|take[ns]? in|handed out|which variant|who may squat|rear-foot-raised|"
    r"bench thrust|groin side plank|side squat|stack(?:s|ed)?|(?<![.\d–-])1 (?:reps|sets|athletes|sessions|weeks))\b",
    re.IGNORECASE,
)
STILL_RIGHT = re.compile(r"school (?:hall|room)|a school's|held \| \| stack", re.IGNORECASE)  # houses and machines


def said(page: str) -> str:
    """What a page says: its text, and the words of what has none."""
    page = re.sub(r"(?s)<(script|style|textarea)\b.*?</\1>|<!--.*?-->", " ", page)
    spoken = " | ".join(re.findall(r'\b(?:title|aria-label|placeholder|alt)="([^"]*)"', page))
    page = re.sub(
        r"</?(?:td|th|tr|li|option|label|p|h\d|div|a|button|dt|dd|summary|legend|section|text|title)\b",
        r" | \g<0>",
        page,
    )
    return html.unescape(" ".join((re.sub(r"<[^>]*>", " ", page) + " | " + spoken).split()))


def found_in(text: str) -> list[str]:
    return [text[max(0, m.start() - 25) : m.end() + 15] for m in WENT.finditer(STILL_RIGHT.sub(" ", text))]


def test_no_page_says_a_word_that_went(app: Flask, client: FlaskClient, physio: FlaskClient) -> None:
    wrong: dict[str, str] = {}
    for address in [
        *PAGES,
        "/floor/paper/card",
        "/floor/paper/wall",
        "/export/",
        "/import/",
        "/milestones/",
        "/people",
    ]:
        for who in (client, physio):
            wrong |= dict.fromkeys(found_in(said(who.get(address).text)), address)
    assert not wrong, "\n".join(f"{words}   at {address}" for words, address in wrong.items())


def test_no_phrase_says_one() -> None:
    wrong = []
    for path in [*(SOURCE / "ui/phrases").glob("*.py"), *SOURCE.glob("pages/**/phrases.py")]:
        tree = ast.parse(path.read_text("utf-8"))
        told = {
            id(node.body[0].value)
            for node in ast.walk(tree)
            if isinstance(node, (ast.Module, ast.FunctionDef, ast.ClassDef)) and isinstance(node.body[0], ast.Expr)
        }
        for node in ast.walk(tree):
            if (
                isinstance(node, ast.Constant)
                and isinstance(node.value, str)
                and id(node) not in told
                and " " in node.value
            ):
                words = re.sub(r"\{[^}]*\}", " ", node.value)
                wrong += [f"{path.name}: {one}" for one in found_in(words)]
    assert not wrong, "\n".join(wrong)
