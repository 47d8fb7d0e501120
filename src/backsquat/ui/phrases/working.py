"""Words for the steps of a working: what it is, how it came about, what came out."""

import datetime as dt
from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from backsquat.core.loads.room import RigKind
from backsquat.core.loads.rounding import Rounding
from backsquat.core.working import Fact, Step, plain, signed
from backsquat.ui.phrases.coarse_room import COARSE_LABELS, COARSE_WORDS
from backsquat.ui.phrases.days import day_words
from backsquat.ui.phrases.names import in_text
from backsquat.ui.phrases.sessions import FOUND_LABELS, FOUND_WORDS, SESSION_LABELS, SESSION_WORDS, clock_words
from backsquat.ui.phrases.technique import TECHNIQUE_LABELS, TECHNIQUE_WORDS

Facts = Mapping[str, Any]


class SaidStep(NamedTuple):
    """A step as it is shown."""

    label: str
    words: str
    output: str
    unit: str


WEEK_SHARES = (
    ("first_share", ", a low start"), ("aim_share", ""), ("manner_share", ", for how it is done"),
    ("deload_share", ", deload week"),
)  # fmt: skip
FORMULA_NAMES = {"epley": "Epley 1985", "brzycki": "Brzycki 1993"}
CAUTIONS = {  # the last two: in numbers kept from before ranges were read
    "fresh": "no caution of its own", "newcomer": "newcomer",
    "growing": "growing fast", "stale": "stale record", "in_season": "in season",
}  # fmt: skip
CHANCES_SAID = 0.99  # more than this is said as such
STEPS_WORDS = {1: "one step", 2: "two steps", -1: "one step down"}
TAKEN = {RigKind.DUMBBELLS.value: "2 × {}", RigKind.STACK.value: "pin at {}"}
DECIMALS = {  # decimals of the output where one is not right
    "logged_set": 2,
    "counted_day": 2,
    "week_from_last": 2,
    "against_last": 2,
    "away": 0,
    "return_load": 0,
    "difference": 0,
    **dict.fromkeys(TECHNIQUE_LABELS, 0),
}


def said(step: Step) -> SaidStep:
    """A step in words."""
    label, words = LABELS[step.code], WORDS[step.code]
    facts = dict(step.facts)
    title = label if isinstance(label, str) else label(facts)
    return SaidStep(title, words(facts), _output(step), UNITS.get(step.code, step.unit))


def _output(step: Step) -> str:
    if step.code in OUTPUTS:
        return OUTPUTS[step.code](step)
    if isinstance(step.output, int | float):
        return plain(step.output, DECIMALS.get(step.code, 1))
    return step.output


def factor_words(code: str, reps: float, curve: float = 1.0) -> str:
    """The factor of a formula at r′ reps, as a coach writes it: (1 + 7 ÷ 30); bent to an own curve (1 + 0.9 × 7 ÷ 30)."""
    bent = "" if abs(curve - 1) < 0.005 else f"{plain(curve, 2)} × "
    if code == "brzycki":
        factor = f"36 ÷ (37 − {plain(max(reps, 1))})"
        return f"(1 + {bent}({factor} − 1))" if bent else factor
    return "1" if reps <= 1 else f"(1 + {bent}{plain(reps)} ÷ 30)"


def _day(text: Fact, pattern: str = "") -> str:
    day = dt.date.fromisoformat(str(text))
    return f"{day_words(day)} {day.year}" if pattern == "year" else day_words(day)


def _logged_set(facts: Facts) -> str:
    left = "reserve not said" if facts["left"] < 0 else f"RIR {facts['left']}"
    reps, deep = facts["reps"], facts["to_depth"]
    depth = "all to depth" if deep == reps else f"{deep} of {reps} to depth"
    return f"{_day(facts['done_on'])} · {plain(facts['load_kg'], 2)} × {reps}, {left}, {depth}"


def _estimate(facts: Facts) -> str:
    moved, carried = plain(facts["load_kg"], 2), facts["carried_kg"]
    if carried:
        moved = f"({moved} + {plain(carried)} of the body)"
    words = f"{moved} × {factor_words(facts['formula'], facts['reps'])}"
    if carried:
        words += f" − {plain(carried)}"
    words += f", {FORMULA_NAMES[facts['formula']]}, trust: {facts['trust']}"
    if not facts["all_to_depth"]:
        return words + ("; the reserve at the shallow depth does not count" if facts["left"] else "")
    if facts["left"] > facts["left_cap"]:
        words += f"; only {facts['left_cap']} of RIR {facts['left']} counts"
    return words


def _current(facts: Facts) -> str:
    days = "one day" if facts["days"] == 1 else f"{facts['days']} days"
    words = f"{facts['sets']} sets on {days}, weighted by trust and age" if facts["sets"] > 1 else "one set"
    return f"{words}; stale, newest {_day(facts['newest_on'], 'year')}" if "newest_on" in facts else words


def _counted_day(facts: Facts) -> str:
    more = f" and {facts['sets'] - 1} more" if facts["sets"] > 1 else ""
    return f"{_logged_set(facts)}{more}: counted {plain(100 * facts['share'], 0)} %"


UNRATED = "no set says its RIR"


def _belief(facts: Facts) -> str:
    words = f"80 % range {plain(facts['low_kg'])}–{plain(facts['high_kg'])}"
    if abs(facts["curve"] - 1) >= 0.02:
        words += f"; a rep costs {plain(facts['curve'], 2)} of what the formula says"
    if abs(facts["bias"]) >= 0.2:
        words += f"; says {plain(abs(facts['bias']))} reps too {'many' if facts['bias'] > 0 else 'few'} in reserve"
    if facts["stale"]:
        since = f"nothing firm since {_day(facts['newest_on'], 'year')}" if facts.get("firm", 1) else UNRATED
        words += f"; {since}, so it is wide"
    return words


def chance_words(chance: float) -> str:
    """A chance as a coach says it."""
    return "nearly always" if chance >= CHANCES_SAID else f"{plain(100 * chance, 0)} times in a hundred"


def _chance(facts: Facts) -> str:
    left = max(round(facts["left"]), 0)
    return f"the last of {facts['sets']} × {facts['reps']} made as written; the first at about RIR {left}"


def _reconciled(facts: Facts) -> str:
    return f"brought {facts['way']} into what the newest sets show"


def _room_load(facts: Facts) -> str:
    if abs(facts["off_kg"]) < 0.005:
        return "there is this load"
    down = facts["rounding"] == Rounding.DOWN.value
    words = f"{'next load down' if down else 'nearest load there is'}, {signed(facts['off_kg'])} kg"
    return f"{words} ({signed(facts['off_percent'])} %)" if "off_percent" in facts else words


def _each_side(facts: Facts) -> str:
    bar = f" {facts['bar']} {facts['bar_unit']}" if "bar" in facts else ""
    collars = f", collars {plain(facts['collars_kg'], 2)} kg" if facts["collars_kg"] else ""
    return f"{facts['rig']}{bar}{collars}"


def _week_load(facts: Facts) -> str:
    moved, carried = plain(facts["max_kg"]), facts["carried_kg"]
    if carried:
        moved = f"({moved} + {plain(carried)} of the body)"
    factor = factor_words(facts["formula"], facts["counted"], facts.get("curve", 1.0))
    words = f"{facts['reps']} reps at RIR {facts['left']}: {moved} ÷ {factor}"
    if carried:
        words += f" − {plain(carried)}"
    for name, after in WEEK_SHARES:
        if name in facts:
            words += f" × {plain(facts[name], 2)}{after}"
    if "reached_kg" in facts:
        words += f" = {plain(facts['meant_kg'])}; not under what was reached, {plain(facts['reached_kg'], 2)}"
    return words


def _from_last(facts: Facts) -> str:
    last = plain(facts["last_kg"], 2)
    if "deload_share" in facts:
        return f"{last} × {plain(facts['deload_share'], 2)}, deload week"
    if "share" in facts:
        return f"{last} × {plain(facts['share'], 3)}"
    if "steps" in facts:
        steps = facts["steps"]
        count = STEPS_WORDS.get(steps, f"{steps} steps")
        return f"{last} and {count}" + (", if the week before is made" if steps > 0 else "")
    return "the same load"


def _after_session(facts: Facts) -> str:
    words = f"planning max {plain(facts['max_kg'])} × {plain(facts['share'], 3)}"
    if facts["steps"]:
        words += f" + {facts['steps']} × {plain(facts['step_kg'], 2)}"
    return f"{words}: {facts['code']}"


def _missed(facts: Facts) -> str:
    return f"the session of {_day(facts['missed_on'])} was missed: its work comes first{', eased' if facts['eased'] else ''}"


def _wave(facts: Facts) -> str:
    added = f"{plain(facts['max_kg'])} + {facts['steps']} × {plain(facts['step_kg'], 2)}"
    return f"{added}, if the wave before is made"


def _by_ratio(facts: Facts) -> str:
    words = f"{plain(facts['share'], 3)} of {in_text(facts['parent'])} {plain(facts['parent_kg'])}"
    if facts["hands"] > 1:
        words += f", in {facts['hands']} hands"
    return f"{words}: never tested, a low start"


def _by_ratio_carried(facts: Facts) -> str:
    known = f"{in_text(facts['parent'])} {plain(facts['parent_kg'])}"
    hands = f" ÷ {facts['hands']} hands" if facts["hands"] > 1 else ""
    return (
        f"{plain(facts['share'], 3)} of what {known} gives for {facts['reps']} reps{hands} = "
        f"{plain(facts['external_kg'])}; with {plain(facts['carried_kg'])} of the body as a maximum: "
        "never tested, a low start"
    )


def _finding(facts: Facts) -> str:
    ceiling = f"the ratio's {plain(facts['ceiling_kg'])} is a ceiling"
    return f"not tried yet: {'as light as it begins' if facts['nth'] == 1 else 'halfway'}; {ceiling}"


def _away(facts: Facts) -> str:
    return f"{facts['days']} days, {facts['missed']} planned sessions missed"


def _return_sets(facts: Facts) -> str:
    return " then ".join(f"{plain(share, 0)} %" for _, share in sorted(facts.items()))


def _return(facts: Facts) -> str:
    shares = (plain(facts["load_share"], 2), plain(facts["sets_share"], 2))
    return f"back after time away: × {shares[0]}, sets × {shares[1]}"


def _trend(facts: Facts) -> str:
    span = f"{signed(facts['low'], 2)} to {signed(facts['high'], 2)}"
    return f"median of all week-to-week slopes over {facts['weeks']} weeks; range {span}"


def _level_wanted(facts: Facts) -> str:
    at = f"on level {facts['here']}" if facts["here"] else "on no level yet"
    return f"{at}, wanted by {_day(facts['due_on'], 'year')}"


def _over_cap(facts: Facts) -> str:
    what = "the load of the last session again" if facts["same"] else "the smallest step this room has"
    return f"{what}; over the cap, allowed and marked"


DELOAD_FOR = {"": "the coach's choice", "match": "a match is near", "taper": "taper, the load stays"}


def _deload_week(facts: Facts) -> str:
    why = DELOAD_FOR.get(str(facts["flags"]), "red flags")
    return f"{why}: of {facts['sets']} sets"


WORDS: dict[str, Callable[[Facts], str]] = {
    "logged_set": _logged_set,
    "estimate": _estimate,
    "current_estimate": _current,
    "at_least": lambda f: f"a set at a higher RIR than counts, {_day(f['done_on'])}, showed at least this",
    "counted_day": _counted_day,
    "belief": _belief,
    "chance": _chance,
    "reconciled": _reconciled,
    **COARSE_WORDS,
    "under_chance": lambda _: "above it the last set would be missed too often",
    "under_lower": lambda _: "a decision said down: under what would have come",
    "planning_max": lambda f: f"× {plain(f['share'], 3)}, {CAUTIONS[f['caution']]}",
    "by_ratio": _by_ratio,
    "by_ratio_carried": _by_ratio_carried,
    "finding": _finding,
    "after_session": _after_session,
    "coach_said": lambda f: f"the coach said {f['code']}",
    "missed": _missed,
    "starts_again": lambda _: "from the newest e1RM",
    "wave": _wave,
    "week_load": _week_load,
    "week_share": lambda f: f"{plain(f['max_kg'])} × {plain(f['share'], 2)}, for speed",
    "week_from_last": _from_last,
    "room": lambda f: f["room"],
    "eased_return": _return,
    "under_limit": lambda _: "not above the limit for now",
    "under_held": lambda _: "not above the last session's load until the next wave",
    "cap": lambda f: (
        f"implied max {signed(f['rise_percent'])} % against the e1RM, limit {signed(f['limit_percent'])} %"
    ),
    "over_cap": _over_cap,
    "room_load": _room_load,
    "lightest_load": lambda f: f"{plain(f['target_kg'])} kg is under the lightest there is: that one, with fewer sets",
    "under_bar": lambda f: f"under the empty bar ({f['rig']})",
    "against_last": lambda f: f"{plain(f['side_kg'], 3)} a side = {plain(2 * f['side_kg'], 2)} in all",
    "take": lambda f: f["rig"],
    "each_side": _each_side,
    "coach_load": lambda f: f"{f['coach']} changed it from {f['was'] or 'no load'}",
    "deload_week": _deload_week,
    "deload_load": lambda f: f"{plain(f['load_kg'], 2)} × {plain(f['share'], 2)}",
    "away": _away,
    "away_short": lambda f: f"{_away(f)}: under {f['line']} days, repeat what was missed",
    "return_load": lambda f: f"first week × {plain(f['share'], 2)}, then back evenly",
    "return_sets": _return_sets,
    "level_back": lambda f: f"{f['line']} days or more",
    "screen_first": lambda f: f"{f['line']} days or more",
    "difference": lambda f: f"({plain(f['high'], 2)} − {plain(f['low'], 2)}) ÷ {plain(f.get('by', f['high']), 2)}",
    "within_error": lambda f: f"within the test's typical error of {plain(f['error'])} {f['unit']}",
    "target": lambda f: f"by {_day(f['due_on'], 'year')}",
    "not_reached": lambda f: f"the best by {_day(f['due_on'])}; that day has passed",
    "reached": lambda f: f"e1RM of the week of {_day(f['week'])}",
    "weeks_with_record": lambda f: f"{f['needed']} are needed for a trend",
    "trend": _trend,
    "now_on_trend": lambda f: f"week of {_day(f['week'])}",
    "idle_weeks": lambda _: "planned without a session until the date, or away: nothing rises in them",
    "on_due_date": lambda _: "the line carried on",
    "needed_a_week": lambda _: "from now to the date",
    "level_wanted": _level_wanted,
    "stands_at": lambda f: f"on {_day(f['day'])}",
    "stands_nowhere": lambda _: "",
    "sessions_wanted": lambda f: (
        f"by {_day(f['due_on'], 'year')}; {f['done']} attended, {f['ahead']} still planned, "
        f"{plain(100 * f['share'], 0)} % attended so far"
    ),
    "as_written": lambda f: f["words"],
    **SESSION_WORDS,
    **TECHNIQUE_WORDS,
    **FOUND_WORDS,
}
LABELS: dict[str, str | Callable[[Facts], str]] = {
    "logged_set": "Logged set",
    "estimate": "e1RM",
    "current_estimate": "Current e1RM",
    "at_least": "At least",
    "counted_day": "Counted",
    "belief": "Current e1RM",
    "chance": "Chance",
    "reconciled": "Brought into line",
    **COARSE_LABELS,
    "under_chance": "Chance",
    "under_lower": "Down",
    "planning_max": "Planning max",
    "by_ratio": "By ratio",
    "by_ratio_carried": "By ratio",
    "finding": lambda f: f"Finding the load, {f['nth']} of {f['of']}",
    "missed": "Moved on",
    "after_session": lambda f: f"After {_day(f['done_on'])}",
    "coach_said": "Decided differently",
    "starts_again": "Starts again",
    "wave": lambda f: f"Wave {f['wave']}",
    "week_load": lambda f: f"Week {f['week']}",
    "week_share": lambda f: f"Week {f['week']}",
    "week_from_last": lambda f: f"Week {f['week']}",
    "room": "Room",
    "eased_return": "Return",
    "under_limit": "Limit",
    "under_held": "Hold",
    "cap": "Cap",
    "over_cap": "Mark",
    "room_load": "This room",
    "lightest_load": "This room",
    "under_bar": "This room",
    "against_last": "Against the load before",
    "take": "Take",
    "each_side": "Each side",
    "coach_load": "Coach",
    "deload_week": "Deload week, sets",
    "deload_load": "Deload week, load",
    "away": "Away",
    "away_short": "Short",
    "return_load": "Load",
    "return_sets": "Sets",
    "level_back": "Level",
    "screen_first": "Screen",
    "difference": "Difference",
    "within_error": "Error",
    "target": "Target",
    "not_reached": "Not reached",
    "reached": "Reached",
    "weeks_with_record": "Weeks with a record",
    "trend": "Trend",
    "now_on_trend": "Now on the trend",
    "idle_weeks": "Weeks without training",
    "on_due_date": "On the due date",
    "needed_a_week": "Needed a week",
    "level_wanted": "Level",
    "sessions_wanted": "Sessions",
    "stands_at": "Newest value",
    "stands_nowhere": "Not tested yet",
    "as_written": lambda f: str(f["label"]),
    **SESSION_LABELS,
    **TECHNIQUE_LABELS,
    **FOUND_LABELS,
}
UNITS = {"cap": "kg at most", "chance": "", **dict.fromkeys(SESSION_LABELS, "min")}
OUTPUTS: dict[str, Callable[[Step], str]] = {
    "room": lambda s: str(s.facts["rig"]),
    "under_bar": lambda _: "no load",
    "each_side": lambda s: str(s.output) or "no plates",
    "take": lambda s: TAKEN.get(str(s.facts["kind"]), "{}").format(s.output),
    "chance": lambda s: chance_words(float(s.output)),
    "trend": lambda s: signed(float(s.output), 2),
    "away_short": lambda _: "as planned",
    "level_back": lambda _: "one back",
    "screen_first": lambda _: "before any load",
    "within_error": lambda _: "even",
    **dict.fromkeys(SESSION_LABELS, lambda s: clock_words(float(s.output))),
}
