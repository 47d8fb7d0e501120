"""With a line and without it is one floor: what a device takes along is what the page shows, field by field."""

import re
from html.parser import HTMLParser
from typing import Any

from flask import Flask
from flask.testing import FlaskClient

from tests.factories import TODAY

PAGE_ONLY = {
    "csrf_token",
    "client_id",
    "session",
    "rack",
    "lift",
    "athlete",
    "seen",
}  # where it stood, not what was done
APART = {"setup-here", "speed", "set-up-noted"}  # on the page it can be changed, or watched


class Seen(HTMLParser):
    """The words one sees, and the fields with what they offer; nothing hidden, nothing that needs a line."""

    def __init__(self, html: str) -> None:
        super().__init__()
        self.depth, self.words, self.fields, self.names = 0, [], {}, set[str]()
        self.feed(html)

    def handle_starttag(self, tag: str, given: list[tuple[str, str | None]]) -> None:
        about = {name: value or "" for name, value in given}
        if name := about.get("name"):
            self.names.add(name)
        if tag in ("option", "button") or (tag == "input" and name):
            self.fields.setdefault(name or "chosen", []).append(about.get("value", ""))
        away = "hidden" in about or APART & set(about.get("class", "").split())
        if tag not in ("input", "img", "br", "path", "rect", "line", "circle"):
            self.depth = self.depth + 1 if self.depth or away else 0

    def handle_endtag(self, tag: str) -> None:
        self.depth = max(0, self.depth - 1)

    def handle_data(self, data: str) -> None:
        if not self.depth:
            self.words += data.split()


def between(html: str, begins: str, ends: str) -> str:
    return html.split(begins, 1)[1].split(ends, 1)[0]


def turns_of(client: FlaskClient) -> list[tuple[dict[str, Any], str, str, dict[str, Any]]]:
    """Of today: the pack, session and athlete, and what is still to do; of each form one, and of each athlete."""
    pack = client.get("/floor/pack").get_json()
    found, seen = [], set()
    for held in pack["sessions"]:
        for who, mine in held["athletes"].items():
            for turn in mine["work"]:
                if turn["over"] or held["day"] != TODAY.isoformat() or {(turn["form"],), (who, turn["spare"])} <= seen:
                    continue
                seen |= {(turn["form"],), (who, turn["spare"])}
                found.append((pack, held["id"], who, turn))
    return found


def test_a_card_taken_along_reads_as_the_page_does(app: Flask, client: FlaskClient) -> None:
    turns = turns_of(client)
    assert len(turns) > 25 and len({turn["movement"] for *_, turn in turns}) > 5
    for _, session, who, turn in turns:
        page = client.get(f"/floor/?session={session}&athlete={who}&lift={turn['exercise']}").text
        shown, taken = (
            Seen(between(html, '<div class="reads">', '<div class="sets"')).words for html in (page, turn["card"])
        )
        assert taken == shown, (who, turn["movement"])
        button = [Seen(between(html, '<button class="tap">', "</button>")).words for html in (page, turn["card"])]
        assert button[0] == button[1]


def test_no_field_of_a_set_is_lost_without_a_line(app: Flask, client: FlaskClient) -> None:
    """Every name the page's forms send stands in what is taken along, with the same choices, values and hints."""
    offered: set[str] = set()
    for pack, session, who, turn in turns_of(client):
        page = client.get(f"/floor/?session={session}&athlete={who}&lift={turn['exercise']}").text
        shown = Seen(between(page, 'class="set-form"', "</form>"))
        taken = Seen(pack["parts"][turn["form"]])
        assert shown.names - PAGE_ONLY - {"speeds"} == taken.names, (who, turn["movement"])
        for name, values in shown.fields.items():
            if name in PAGE_ONLY or name in ("speeds", "chosen"):
                continue
            sent = [turn["values"].get(name, value) for value in taken.fields[name]]
            assert sent == values, (who, turn["movement"], name)
        assert shown.fields["chosen"][:1] and set(turn["loads"]) <= set(shown.fields["chosen"])
        offered |= taken.names
        hurts = Seen(between(page, 'class="pain-form"', "</form>"))
        assert Seen(pack["parts"][turn["pain"]]).names == hurts.names - PAGE_ONLY - {"cell"}
    assert offered >= {
        "load", "reps", "left_reps", "right_reps", "hold_s", "side", "reserve_reps", "short_reps", "supported", "fault", "felt",
        "left_supported", "right_supported", "soreness", "note", "support_cm", "step_cm", "counterweight_kg", "band",
    }, offered  # fmt: skip


def test_a_device_shows_no_more_than_its_reader_may_see(
    app: Flask, client: FlaskClient, assistant: FlaskClient
) -> None:
    """Forms of the pack carry no token and no address: they are never sent from there."""
    for who in (client, assistant):
        text = who.get("/floor/pack").text
        assert "csrf_token" not in text and "hx-post" not in text and not re.search(r'action=\\"/', text)
