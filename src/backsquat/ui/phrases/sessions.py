"""Words of sessions: how their time was counted, what is said of their order, what would bring them in."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from backsquat.core.movements.manner import Manner, Range, Style
from backsquat.core.sessions.fit import TimeProposal
from backsquat.core.sessions.order import Advice
from backsquat.core.sessions.session import Item
from backsquat.core.strength.set_notes import Reach
from backsquat.core.working import plain
from backsquat.storage.models import SetEntry
from backsquat.ui.phrases.names import in_text

Facts = Mapping[str, Any]


def clock_words(seconds: float) -> str:
    """1:40"""
    whole = round(seconds)
    return f"{whole // 60}:{whole % 60:02d}"


def minutes_words(seconds: float) -> str:
    """16.2"""
    return f"{seconds / 60:.1f}"


FOUND_LABELS = {
    "found_max": "From the first set",
    "found_load": "Next set",
    "speed_line": "Line of speed on load",
    "speed_read": "Where a maximum is lifted",
}
FOUND_WORDS: dict[str, Callable[[Facts], str]] = {
    "found_max": lambda f: f"{plain(f['load_kg'])} × {f['reps']}, RIR {f['left']} ({f['counted']} of them counted)",
    "speed_line": lambda f: (
        f"{f['loads']} loads: {plain(f['start_ms'], 2)} m/s at no load, {plain(-100 * f['a_kg'], 1)} cm/s less a kilogram"
    ),
    "speed_read": lambda f: (
        f"at {plain(f['at_max_ms'], 2)} m/s; the points lie {plain(f['off_ms'], 3)} m/s off the line"
    ),
    "found_load": lambda f: f"lands at about {f['reps']} at RIR {f['left']}",
}
SIDES = {1: "", 2: " a side"}
RESTS = {
    "own": "as set here",
    "wait": "the others on the rack take {wait} before it is one's own again",
    "single": "as the progression says",
    "superset": "after each round; every item keeps its own rest",
    "circuit": "after each round; every item keeps its own rest",
}
SESSION_LABELS: dict[str, str | Callable[[Facts], str]] = {
    "session_change": "Over and rigged",
    "session_ramp": lambda f: f"Ramp, {in_text(f['name'])}",
    "session_set": lambda f: f"Set, {in_text(f['name'])}",
    "session_clock": lambda f: f"Set, {in_text(f['name'])}",
    "session_round": "A round",
    "session_rests": "Rests",
    "session_group": "In all",
}
SESSION_WORDS: dict[str, Callable[[Facts], str]] = {
    "session_change": lambda f: f"{plain(f['move_s'])} s to move over, {plain(f['rig_s'])} s to rig",
    "session_ramp": lambda f: f"{f['sets']} ramp sets with the rests after them",
    "session_set": lambda f: (
        f"{f['reps']} × {plain(f['rep_s'])} s{SIDES[f['sides']]}"
        + (f", {f['end_hold_s']} s held" if f.get("end_hold_s") else "")
        + f", {plain(f['set_up_s'])} s into position"
    ),
    "session_clock": lambda f: f"{clock_words(f['hold_s'])}{SIDES[f['sides']]}, {plain(f['set_up_s'])} s into position",
    "session_round": lambda f: f"{f['items']} items one after the other, with the way between them",
    "session_rests": lambda f: (
        f"{f['rests']} × {clock_words(f['rest_s'])}, {RESTS[f['why']].format(wait=clock_words(f['wait_s']))}"
    ),
    "session_group": lambda f: "minutes and seconds",
}
ADVICE = {  # code → what, why
    "fast_late": ("{name} comes after work that tires", "Fast work is fast only while fresh."),
    "skilled_late": ("{name} comes after work that tires", "What asks most skill is done first."),
    "wobbly_late": (
        "{name} is {after} items down",
        "A wobbly lift on one leg belongs to fresh legs: tired, balance ends the set and not strength.",
    ),
    "hinge_after_squat": (
        "{name} after a heavy squat: lower-back index {cost:g} of {most:g}",
        "The back has held the squat already. A planning index, not a measurement.",
    ),
    "small_early": ("{name} before {later}", "Isolation and holds last: they tire what the big lift needs."),
    "squat_not_last": (
        "{name} before {later}",
        "Hips first: the squat comes after the hip work, lighter, so that hips and not the back limit it.",
    ),
    "squat_heavy_last": (
        "{name} last, at {reps} reps",
        "After the hips the squat is usually 8–12, slow, about 15 % lighter: another progression or window in its exercise.",
    ),
    "superset_competes": (
        "{name} in a superset with {other}: both ask the {muscle}",
        "Supersets are apart here: nothing in them competes.",
    ),
    "superset_not_same": ("{name} asks other muscles than {other}", "Supersets are for the same muscles here."),
    "superset_order": ("{name} is the heavier of its superset", "Heaviest first, the lighter ones after it."),
    "superset_not_lighter": (
        "{name} is no lighter than {other}",
        "In a superset for the same muscles the second is lighter in load or balance, on purpose.",
    ),
    "rest_short": ("{name}: {rest} between its sets", "At least {least} lets the next set be as good."),
    "rest_long": ("{name}: rest of {rest}", "Over {most} nothing more comes back."),
    "superset_share": (
        "{name} is the second of its superset, with the load of a first",
        "In a superset for the same muscles the second starts lighter: {percent} % of what its window gives.",
    ),
    "window_place": (
        "{name}: {now_low}–{now_high} reps were for another place",
        "Where it stands now {low}–{high} is usual: place changes reps.",
    ),
}
FIXES = {
    "before": "Use it instead",
    "leave_superset": "Out of the superset",
    "up": "First in the superset",
    "rest": "Fix the rest",
    "window": "Take what is usual here",
    "day": "To {day}",
}
PROPOSALS = {  # code → what, what it costs
    "superset": ("{name} under the rests of {onto}", "{cost}"),
    "circuit": ("{names} as one circuit", "less rest between them"),
    "rest": ("{name}: rest {to} and not {rest}", "a little less fresh for each set"),
    "trim": ("{name}: {sets}", "{cost}"),
    "rig": ("{into} for {name}", "the same kind of work, rigged sooner; its loads begin again"),
    "spare": ("{name} only if there is time", "left out when there is not; it waits on the shelf"),
}


def advice_words(advice: Advice) -> tuple[str, str]:
    """What and why of one finding of a session."""
    facts = dict(advice.finding.facts)
    clocked = {name[:-2]: clock_words(float(facts[name])) for name in ("rest_s", "least_s", "most_s") if name in facts}
    what, why = ADVICE[advice.finding.code]
    return what.format(**facts | clocked), why.format(**facts | clocked)


def proposal_words(proposal: TimeProposal) -> tuple[str, str]:
    """What a proposal does, and what it costs."""
    facts = dict(proposal.facts)
    clocked = {name[:-2]: clock_words(float(facts[name])) for name in ("rest_s", "to_s") if name in facts}
    what, cost = PROPOSALS[proposal.code]
    if "sets" in facts:
        clocked["sets"] = f"{facts.pop('sets')} set{'s' if proposal.move.to > 1 else ''}"
    return what.format(**facts | clocked), cost.format(cost=_cost(proposal.code, facts), **clocked)


def _cost(code: str, facts: Facts) -> str:
    if code == "superset":
        rig = f"{facts['rig_s']:g} s of rigging besides" if facts["rig_s"] > 15 else "no rig"
        return f"other muscles, {rig}"
    if code == "trim" and "muscle" in facts:
        return f"{facts['muscle']} {facts['now']:g} → {facts['then']:g} hard sets this week, {facts['low']} at least"
    return "one set less of it"


RANGES = {
    Range.HALF: "half range, pause in it",
    Range.DEFICIT: "from a deficit",
    Range.FRONT_RAISED: "front foot raised",
}
STYLES = {
    Style.PAUSE: "pause at the bottom", Style.ONE_AND_A_HALF: "one and a half", Style.TENSION: "constant tension",
    Style.SLOW_LOWERING: "slow lowering",
}  # fmt: skip


def manner_words(manner: Manner) -> str:
    """How a movement is done, where it is not the plain way: long stance, wedge 20 mm, pause at the bottom."""
    said = [f"{manner.stance.value} stance" if manner.stance else "", manner.lean.value]
    said += ["feet turned out" if manner.turned_out else "", f"wedge {manner.wedge_mm} mm" if manner.wedge_mm else ""]
    said += [
        RANGES.get(manner.range, ""),
        STYLES.get(manner.style, ""),
        f"tempo {manner.tempo}" if manner.tempo else "",
        f"{', '.join(manner.directions)}, in this order" if manner.directions else "",
    ]
    return ", ".join(word for word in said if word)


def reach_words(directions: Sequence[str], targets: Reach) -> str:
    """Reach, left / right: ahead 80 / 78 cm, side 62 / 60 cm; empty before anything was measured."""
    said = [
        f"{way} {' / '.join('–' if cm is None else plain(cm, 0) for cm in targets[way])}"
        for way in directions
        if way in targets
    ]
    return f"Reach in cm, left / right: {', '.join(said)}" if said else ""


def dose_words(sets: int, reps: int, hold_s: int, sides: int) -> str:
    """4 × 4; 3 × 8 each side (16 in all); 2 × 20 s each side; 5:00 for minutes"""
    if hold_s >= 120 and sets == 1:
        return f"{clock_words(hold_s)} min"
    if hold_s:
        return f"{sets} × {hold_s} s{' each side' if sides == 2 else ''}"
    return f"{sets} × {reps}{f' each side ({2 * reps} in all)' if sides == 2 else ''}"


def item_dose(item: Item) -> str:
    """3 × 15 + 30 s, last set to failure: what a piece of work asks, with what ends its sets."""
    held = f" + {item.end_hold_s} s" if item.end_hold_s else ""
    last = ", last set to failure" if item.last_to_failure else ""
    return dose_words(item.sets, item.reps, item.hold_s, item.movement.sides) + held + last


def end_words(item: Item) -> str:
    """How its sets end, where that is not with the last rep: then hold 30 s · last set to failure."""
    held = f"then hold {item.end_hold_s} s" if item.end_hold_s else ""
    return " · ".join(word for word in (held, "last set to failure" if item.last_to_failure else "") if word)


def side_words(entry: SetEntry) -> str:
    """The reps of a set: 8; 8 and 7, left and right; 8 left; 20 s"""
    if entry.hold_s:
        return f"{entry.hold_s} s{f' {entry.side}' if entry.side else ''}"
    if entry.left_reps is not None and entry.right_reps is not None:
        same = entry.left_reps == entry.right_reps
        return f"{entry.left_reps} each side" if same else f"{entry.left_reps} left, {entry.right_reps} right"
    return f"{entry.reps}{f' {entry.side}' if entry.side else ''}"
