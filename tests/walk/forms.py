"""The forms of a page as somebody meets them, and how somebody fills them in."""

import datetime as dt
import io
import random
from dataclasses import dataclass, field
from html.parser import HTMLParser

from PIL import Image


def _picture() -> bytes:
    made = io.BytesIO()
    Image.new("RGB", (120, 160), (90, 120, 90)).save(made, "PNG")
    return made.getvalue()


MUDDLE = ("", "0", "-1", "x", "9999-12-31", "1e999", "1" * 40, "½", "80x5@8", "\u0000", "2", "70,5")
LOADS = ("0", "8", "20", "40", "42.5", "60", "61.3", "80", "100", "120")
WORDS = {  # by what a field is called, what somebody would type there
    "reps": ("0", "1", "3", "5", "8"), "left_reps": ("0", "5", "8"), "right_reps": ("0", "5", "8"),
    "reserve_reps": ("", "", "0", "1", "2", "4", "6"), "short_reps": ("0", "0", "1", "3"), "pain": ("", "0", "2", "5", "9"),
    "hold_s": ("10", "20", "45"), "weeks": ("4", "6"), "sets": ("2", "3", "4"), "racks": ("1", "2"), "soreness": ("", "3"),
    "load": LOADS, "amount": LOADS, "load_kg": LOADS, "cm": ("170", "182"), "played": ("55", "10"), "minutes": ("45", "60"),
    "name": ("Ada Quill", "Bo Ferris", "Cy Marsh", "Di Oakes"), "by": ("Dr. Wren, physio",), "cleared": ("Dr. Wren",),
    "reason": ("seen lifting soundly elsewhere",), "words": ("no deeper than a chair",), "opponent": ("Old Quay",),
    "limits": ("all ranges, light",), "note": ("left knee drifts",), "found": ("a loose collar",), "role": ("physio",),
    "what": ("Back squat", "Calf raise", "Romanian deadlift", "Front squat", "Nordic lowering"), "guardian": ("A. Quill",),
    "most_kg": ("", "40", "60"), "mass": ("71", "58,5"), "code": ("ABCD",), "position": ("wing",), "rest_s": ("90",),
    "purpose": ("Strong legs, trained with care and often.",), "set_up": ("Stand tall.\nBrace.",), "to": ("3", "1"),
    "cues": ("Knees out.\nSit back.",), "safety": ("Pins at the bottom, collars on.",), "skill": ("2",), "work": ("3x8-12",),
}  # fmt: skip
A_FILE = "a file: "  # what a story says in the place of one that is handed in
FILES = {
    "one.png": _picture(), "half.png": _picture()[:200], "nobody.txt": b"", "list.csv": b"Name;Born\nNew One;2001-02-03\n",
    "block.json": b'{"format": 1, "name": "Theirs"}', "minutes.txt": b"Una Vale 55\nOla Fane 10",
}  # fmt: skip
SOMETHING = ("something said", "2", "20", "")


@dataclass
class Field:
    """One thing that can be filled in; `choices` of selects and radios, `kind` as the browser has it."""

    name: str
    kind: str
    value: str = ""
    choices: list[str] = field(default_factory=list)
    ticked: bool = False


@dataclass
class Form:
    """Where a form goes, how, and with what; `buttons` are the named ones, of which one is pressed."""

    path: str
    method: str
    fields: list[Field] = field(default_factory=list)
    buttons: list[tuple[str, str]] = field(default_factory=list)


class _Reader(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.forms: list[Form] = []
        self.links: list[str] = []
        self.inside: Form | None = None
        self.select: Field | None = None
        self.area: Field | None = None
        self.option: str | None = ""
        self.chosen = False

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        has = {name: value or "" for name, value in attrs}
        name, kind = has.get("name", ""), has.get("type", "text")
        if tag == "form":
            self.inside = Form(has.get("action", ""), has.get("method", "get").lower())
            self.forms.append(self.inside)
        elif tag == "a" and has.get("href", "").startswith("/"):
            self.links.append(has["href"])
        elif self.inside is None or "disabled" in has:
            return
        elif tag == "select" and name:
            self.select = Field(name, "select")
            self.inside.fields.append(self.select)
        elif tag == "option" and self.select is not None:
            self.option, self.chosen = has.get("value"), "selected" in has
            if self.option is not None:
                self._offer(self.option)
        elif tag == "textarea" and name:
            self.area = Field(name, "text")
            self.inside.fields.append(self.area)
        elif (tag == "button" or (tag == "input" and kind == "submit")) and name:
            self.inside.buttons.append((name, has.get("value", "")))
        elif tag == "input" and name:
            self.inside.fields.append(
                Field(name, kind, has.get("value", "on" if kind == "checkbox" else ""), [], "checked" in has)
            )

    def _offer(self, value: str) -> None:
        assert self.select is not None
        first = not self.select.choices
        self.select.choices.append(value)
        if self.chosen or first:
            self.select.value = value

    def handle_data(self, data: str) -> None:
        if self.area is not None:
            self.area.value += data
        elif self.select is not None and self.option is None and data.strip():  # its words are its value
            self._offer(data.strip())
            self.option = ""

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self.inside = None
        elif tag == "select":
            self.select = None
        elif tag == "textarea":
            self.area = None


def forms_in(page: str, here: str = "") -> list[Form]:
    """The forms of a page that send something; one that names no address goes to `here`, where it stands."""
    reader = _Reader()
    reader.feed(page)
    for form in reader.forms:
        form.path = form.path or here
    return [form for form in reader.forms if form.method == "post" and form.path.startswith("/")]


def links_in(page: str) -> list[str]:
    """Where a page leads."""
    reader = _Reader()
    reader.feed(page)
    return [link.split("#")[0] for link in reader.links]


def filled(
    form: Form, dice: random.Random, today: dt.date, wild: float = 0.03, change: float = 0.3
) -> dict[str, list[str]]:
    """A form as somebody fills it in: mostly what stands there, now and then something else, seldom a muddle."""
    sent: dict[str, list[str]] = {}
    radios: dict[str, list[str]] = {}
    for one in form.fields:
        if one.name == "csrf_token":
            continue
        if one.kind == "file":
            if change and dice.random() < 0.8:
                sent[one.name] = [f"{A_FILE}{dice.choice(sorted(FILES))}"]
            continue
        if one.kind == "radio":
            radios.setdefault(one.name, []).append(one.value)
            if one.ticked:
                sent[one.name] = [one.value]
        elif one.kind == "checkbox":
            if one.ticked != (dice.random() < change / 2):
                sent.setdefault(one.name, []).append(one.value)
        elif one.kind == "hidden":
            sent.setdefault(one.name, []).append(one.value)
        else:
            sent.setdefault(one.name, []).append(_typed(one, dice, today, wild, change))
    for name, choices in radios.items():
        if name not in sent or dice.random() < change:
            sent[name] = [dice.choice(choices)]
    if form.buttons:
        name, value = dice.choice(form.buttons)
        sent[name] = [value]
    return sent


def _typed(one: Field, dice: random.Random, today: dt.date, wild: float, change: float) -> str:
    if dice.random() < wild:
        return dice.choice(MUDDLE)
    if one.kind == "select":
        return dice.choice(one.choices) if one.choices and dice.random() < 2 * change else one.value
    if (one.value or not change) and dice.random() > change:
        return one.value
    if one.name == "born_on":
        return dice.choice(("2001-04-05", "2010-09-09", "1988-01-30"))
    if one.kind == "date" or one.name.endswith("_on") or one.name in ("on", "until"):
        return (today + dt.timedelta(days=dice.randint(-10, 30))).isoformat()
    base = one.name.rstrip("0123456789_")
    found = WORDS.get(one.name) or WORDS.get(base) or WORDS.get(base.rsplit("_", 1)[-1])
    return dice.choice(found) if found else one.value or dice.choice(SOMETHING)
