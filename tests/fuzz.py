"""Outside values in every form and address, with a fixed seed: whatever comes is answered, and nothing is a fault of ours."""

import datetime as dt
import random
import re
from collections import Counter
from dataclasses import dataclass, field

from flask import Flask
from flask.testing import FlaskClient

from tests.sweep import BODY, ids_of_demo
from tests.walk.acts import NEVER
from tests.walk.forms import Form, filled, forms_in

OUTSIDE = (
    "", " ", "0", "-1", "1e999", "NaN", "inf", "9" * 5_000, "1,5", "½", "9999-12-31", "0001-01-01", "2026-02-30", "24:61", "\x00", "a\x00b",
    "\ud800", "\u202e", "=1+1", "<script>alert(1)</script>", "'; DROP TABLE athletes; --", "../../etc/passwd", "x" * 9_000, "%s%n", "{{7*7}}",
    "true", "[]", "{}", '{"a":' * 50, "١٢", "kg", "-0", "0x10", "1_000", "🏋" * 400, "\r\nSet-Cookie: a=b",
)  # fmt: skip
ASKED = ("week", "athlete", "lift", "cell", "session", "rack", "correct", "just", "until", "q", "family", "movement", "first", "last",
         "day", "idea", "page", "show", "progression", "all", "of", "drop", "exercise", "from_week", "back", "template", "copy", "kind", "file", "pdf")  # fmt: skip
AS = (1, 2, 3)  # head coach, assistant, physio


@dataclass
class Fuzzed:
    """What was tried, how it was answered, and what answered as a fault of ours."""

    tried: int = 0
    statuses: Counter[int] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)


def fuzz(app: Flask, times: int, seed: int = 2026) -> Fuzzed:
    """So many requests of forms and addresses with outside values, as every role of staff and as nobody."""
    dice, found = random.Random(seed), Fuzzed()
    clients = [app.test_client() for _ in (*AS, 0)]
    for client, user_id in zip(clients, AS, strict=False):
        client.post(f"/demo-sign-in/{user_id}")
    ids = {name: rows or [1] for name, rows in ids_of_demo(app, 12, seed).items()}
    rules = [rule for rule in app.url_map.iter_rules() if rule.endpoint != "static" and not NEVER.search(rule.rule)]
    forms: list[Form] = []
    while found.tried < times:
        rule, client = dice.choice(rules), dice.choice(clients)
        path = re.sub(
            r"<(?:[a-z]+:)?(\w+)>",
            lambda one: str(dice.choice(OUTSIDE[:12]) if dice.random() < 0.15 else dice.choice(ids.get(one[1], ["x"]))),
            rule.rule,
        ).replace("\x00", "%00")
        methods = (rule.methods or set()) & {"GET", "POST"}
        query = {name: dice.choice(OUTSIDE) for name in dice.sample(ASKED, dice.randint(0, 4))}
        if "GET" in methods:
            page = _tried(found, client, "GET", path, query=query)
            forms = (forms_in(page, path) or forms) if page else forms
        if "POST" in methods:
            body = {name: dice.choice(OUTSIDE) if dice.random() < 0.5 else value for name, value in BODY.items()}
            _tried(found, client, "POST", path, data=body)
        for form in [form for form in dice.sample(forms, min(2, len(forms))) if not NEVER.search(form.path)]:
            sent = filled(form, dice, dt.date(2026, 11, 23), 0, 0.5)
            for name in dice.sample(sorted(sent), len(sent) // 2):
                sent[name] = [dice.choice(OUTSIDE)]
            _tried(found, client, "POST", form.path, data={name: said for name, said in sent.items() if said})
    return found


def _tried(
    found: Fuzzed,
    client: FlaskClient,
    method: str,
    path: str,
    query: dict[str, str] | None = None,
    data: dict[str, object] | None = None,
) -> str:
    said = {name: _sendable(value) for name, value in (data or {}).items()}
    asked = {name: _sendable(value) for name, value in (query or {}).items()}
    answer = client.open(path, method=method, query_string=asked, data=said or None)
    found.tried += 1
    found.statuses[answer.status_code] += 1
    if answer.status_code >= 500:
        found.faults.append(f"{method} {path} {str(asked or said)[:300]}")
    return answer.text if answer.mimetype == "text/html" else ""


def _sendable(value: object) -> object:
    """Half a sign as the bytes some program would send."""
    if isinstance(value, list):
        return [_sendable(one) for one in value]
    return value.encode("utf-8", "surrogatepass") if isinstance(value, str) and "\ud800" in value else value
