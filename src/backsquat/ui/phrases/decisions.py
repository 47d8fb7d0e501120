"""Decisions said the way a coach would say them."""

from collections.abc import Mapping
from typing import Any, Protocol

from backsquat.core.movements.library import Library
from backsquat.core.progression.decision import Code
from backsquat.ui.phrases.names import in_text

REASONS = {
    "pain_stop": "Stop and refer: {character} pain{level}. No load until a physio or "
                 "doctor clears it.",
    "pain_again": "Needs a look: pain noted twice in a row ({pain} of 10). Talk to the physio before the next session.",
    "pain_watch": "{next}: dull pain, {pain} of 10, so {percent} % lighter. Or a shorter range, an easier version.",
    "readiness_check_open": "Needs a look: no longer ready for the bar since this was planned.",
    "depth_short": "{next}: {short} of {reps} reps were short of depth. Depth first, then load.",
    "depth_lost": "{next}: {short} of {reps} reps were short of depth, so the plan comes down.",
    "form_broke": "{next}: form broke in {broke} of {sets} sets ({fault_words}).",
    "cut_short": "{next}: the rest was left out with a reason, so it is no miss.",
    "made_held": "Made, held at {load_kg:g} kg: the next load here is {next_up_kg:g} kg, {step_kg:g} more.",
    "deload_done": "Deload week done. {next}",
    "one_short": "{next}: one rep short of {sets} × {reps}.",
    "missed": "{next}: {missing_words} missing from {sets_asked} × {reps}, so the plan comes down {percent} %.",
    "top_made": "{next} Top week made: {sets} × {reps} clean, {left_words}. The wave after starts one step up.",
    "top_just": "{next} Top week just made: {left_words}, {promised} promised. The next wave starts where this one did.",
    "top_effort_unknown": "{next} Top week done, but no RIR said. The next wave starts where this one did.",
    "more_left": "{next}: {sets} × {reps} clean, {left_words} where {promised} was promised. The plan goes up a step.",
    "fewer_left": "{next}: all reps made, but {left_words} where {promised} was promised.",
    "level_earned": "Harder level: {work} clean in {sessions} sessions in a row. {to_name} is next.",
    "level_form": "Easier level: form broke in half of the sets or more. {to_name} for now.",
    "level_pain": "Easier level: pain {pain} of 10. {to_name} for now, and watch it.",
    "level_row": "Stay on {name}: {row} of {sessions} clean sessions at {work}.",
    "level_last": "Stay on {name}: earned, but the next level needs a readiness check or is not in this room.",
    "level_not_met": "Stay on {name}: {why_words}; {work} clean in {sessions} sessions earns the next level.",
    "as_planned": "{next}: {sets} × {reps} clean, {left_words}.",
    "test_done": "Test done and counted in the e1RM. {next}",
    "top_more": "{next} Top week made with room to spare: {left_words}, {promised} promised. The wave after starts two "
                "steps up.",
    "stage_much_spare": "{next}: every set at the top of {low}–{high} with {first_words}, so two steps.",
    "stage_made": "{next}: every set at {low} reps or more, {left_words}.",
    "stage_stay": "{next}: {missing_words} under the window of {low}–{high}.",
    "stage_down": "{next}: under the window of {low}–{high} twice in a row.",
    "fixed_made": "{next}: {sets} × {reps} made.",
    "fixed_missed": "{next}: {missing_words} missing.",
    "reset": "{next}: missed twice in a row, so {percent} % come off.",
    "reset_again": "{next}: missed twice in a row, {resets} times by now, {percent} % come off. A weekly progression (a "
                   "wave) may suit better: change it under Exercises.",
    "window_reps": "{next}: all sets made, one more rep.",
    "window_top": "{next}: all sets at the top of {low}–{high}, so a step and from the bottom again.",
    "window_coarse": "{next}: at the top, but the next load here, {next_kg:g} kg, promises {promised_reps} reps only. "
                     "One more rep first.",
    "window_heaviest": "{next}: at the top, and there is nothing heavier here. One more rep.",
    "window_under": "{next}: the first set fell under {low} reps. Twice in a row takes a step off.",
    "window_down": "{next}: the first set fell under {low} reps twice in a row.",
    "window_over": "{next}: the last set went well over the top. Once more earns the step.",
    "window_over_twice": "{next}: well over the top in the last set of two sessions.",
    "window_stay": "{next}: not all sets reached {reps}.",
    "effort_more": "{next}: first set {first_words} where {promised} was asked, the plan moves {percent} %.",
    "effort_less": "{next}: first set {first_words} where {promised} was asked, the plan moves {percent} %.",
    "effort_missed": "{next}: {missing_words} missing, the plan moves {percent} %.",
    "effort_unfinished": "{next}: not all sets were done; none fell short.",
    "effort_as_asked": "{next}: the first set felt as asked.",
    "effort_unknown": "{next}: no RIR said after the first set.",
    "earned_ask": "Three questions first: was it sound, are you sure, was it too easy?",
    "earned_up": "{next}: sound, sure and too easy.",
    "earned_enough": "{next}: sound, and just right.",
    "earned_unsure": "{next}: not sure yet.",
    "earned_down": "{next}: form was gone.",
    "earned_missed": "{next}: {missing_words} missing.",
    "earned_missed_again": "{next}: {missing_words} missing, twice in a row.",
    "hold_longer": "Up to {next_s} s: all held {hold_s} s.",
    "hold_short": "Stay with {hold_s} s: not all were held.",
    "clock_done": "{hold_s} s done: the same again.",
    "hold_top": "All held {hold_s} s: a harder version is next.",
    "speed_kept": "{next}: the snap was there. Speed is not loaded up for its own sake.",
    "speed_fell": "{next}: sets ended early. A set ends when speed falls by {percent} %; twice in a row means lighter.",
    "speed_down": "{next}: sets ended early twice in a row, so lighter.",
}  # fmt: skip


WOULD_CHANGE = {
    "pain_below_line": "Dull pain under the stop line would have meant watching, not stopping.",
    "no_pain": "Without pain the reps would have decided.",
    "readiness_check_passed": "When ready for the bar the reps would have decided.",
    "depth_held": "With every rep to depth the reps and effort would have decided.",
    "form_held": "With sound form in every set the reps and effort would have decided.",
    "one_more_rep": "One more rep would have kept the plan rising.",
    "all_reps": "All reps at the load would have kept the plan.",
    "one_fewer_left": "A lower RIR than promised would have kept the next wave where this one started; "
                      "a missed rep would have taken it down.",
    "promise_kept": "The RIR promised would have let the load rise.",
    "fewer_left": "A lower RIR in the last set would have kept the plan as it was.",
    "one_rep_missed": "One rep missed would have held the load; more would have taken the plan down.",
    "level_criterion": "The whole work at the top of its window, clean, in enough sessions in a row earns the next level.",
    "level_criterion_missed": "A set short, broken form or a hand on support would have meant staying.",
    "level_clean": "Clean sets without pain would have meant staying or moving on.",
    "one_set_short": "A set under the window would have kept the load.",
    "window_kept": "All sets inside the window would have earned the step.",
    "one_rep_missed_stays": "One rep missed would have kept the number.",
    "all_sets_done": "All sets done, the reps would have decided.",
    "more_room": "One or two more in reserve at this load, or smaller plates, would have let it go up.",
    "all_sets": "All sets done, the first would have steered the plan.",
    "all_reps_up": "All reps made would have raised it.",
    "first_set_inside": "A first set inside the window would have kept it going.",
    "last_set_shorter": "Fewer reps in the last set would have left it as it was.",
    "finer_step": "A smaller step in this room would have been taken now.",
    "effort_said": "Saying the RIR of the first set would have steered the plan.",
    "effort_other": "A higher RIR would have raised it, a lower one lowered it.",
    "three_yes": "Three times yes would have earned the step.",
    "one_no": "One no would have kept the load.",
    "all_held": "Every hold to the end would have added seconds.",
    "one_short_hold": "One hold cut short would have kept the seconds.",
    "snap_kept": "Sets to the end with the snap kept would have left it as it was.",
    "nothing_up": "Nothing raises it; sets that end early lower it.",
    "nothing": "Only pain, lost depth or broken form would have changed a deload week.",
}  # fmt: skip


MARKS = {  # a drawn mark for each decision, so that colour never stands alone
    Code.UP: "up", Code.STAY: "stay", Code.DOWN: "down", Code.STOP: "stop", Code.LOOK: "look",
    Code.EASIER_LEVEL: "down", Code.HARDER_LEVEL: "up",
}  # fmt: skip


DECIDED = {
    Code.UP: "up", Code.STAY: "stay", Code.DOWN: "down", Code.STOP: "stop and refer", Code.LOOK: "needs a look",
    Code.EASIER_LEVEL: "easier level", Code.HARDER_LEVEL: "harder level",
}  # fmt: skip


class ProposedRow(Protocol):
    """A proposal: its code, and why."""

    @property
    def code(self) -> Code: ...
    @property
    def reason(self) -> str: ...


def decision_mark(proposed: ProposedRow) -> str:
    """The mark of a proposal: up is drawn of a higher number only."""
    return MARKS[Code.STAY if proposed.reason == "made_held" else proposed.code]


OVERRIDE_WORDS = {
    Code.UP: "Up a step", Code.STAY: "Stay: the same again", Code.DOWN: "Down: lower next time",
}  # fmt: skip


LEVEL_OVERRIDES = {
    Code.HARDER_LEVEL: "Harder level", Code.STAY: "Stay on this level", Code.EASIER_LEVEL: "Easier level",
}  # fmt: skip


NOT_MET = {
    "pain": "pain was noted", "form": "form broke", "supported": "a hand held on", "depth": "reps were short of depth",
    "amount": "not all sets reached the top of the window", "top": "nothing harder is open",
}  # fmt: skip


PLAIN_REASONS = {  # of pain, to who does not read of health: what to do, and not why
    "pain_stop": "Stop: nothing of this until it is cleared.",
    "pain_again": "Needs a look before the next session.",
    "pain_watch": "{next}: {percent} % lighter on purpose.",
    "level_pain": "Easier level: {to_name} for now.",
}


def sentence(
    code: str,
    reason: str,
    facts: Mapping[str, Any],
    effect: Mapping[str, Any],
    movement: str,
    library: Library,
    *,
    why: bool = True,
) -> str:
    """The decision in a sentence: the next number first, then why. `why`: pain is named."""
    left = facts.get("left", -1)
    fault = library.fault(movement, str(facts.get("fault", "")))
    to = library.movements.get(str(facts.get("to", "")))
    words = {
        "next": next_words(code, effect, reason),
        "left_words": "no RIR said" if left == -1 else f"RIR {left} in the last set",
        "missing_words": _missing(facts),
        "first_words": f"RIR {left}",
        "fault_words": in_text(fault.look) if fault else "form",
        "sets_asked": facts.get("sets", ""),
        "to_name": to.name if to else "",
        "why_words": NOT_MET.get(str(facts.get("why", "")), ""),
    }
    character = facts.get("character") or "dull"
    level = "" if facts.get("pain", -1) == -1 else f", {facts['pain']} of 10"
    given = {"percent": "", "hold_s": "", "next_s": "", "resets": "", "next_kg": 0, "promised_reps": 0}
    said = REASONS[reason] if why else PLAIN_REASONS.get(reason, REASONS[reason])
    return said.format(**{**given, **facts, **words, "character": character, "level": level})


def _missing(facts: Mapping[str, Any]) -> str:
    """2 reps (3 of 4 in set 3)"""
    words = "one rep" if facts.get("missing") == 1 else f"{facts.get('missing', 0)} reps"
    if not facts.get("short_set"):
        return words
    worst = f"set {facts['short_set']}"
    deep = " to depth" if facts.get("shallow") else ""
    done = (
        f"{facts['short_done']} of {facts['short_asked']}{deep} in {worst}"
        if facts["short_done"]
        else f"{worst} not done"
    )
    return f"{words} ({done})"


def _count(number: Any) -> str:
    return {0: "none", 1: "one", 2: "two", 3: "three", 4: "four"}.get(int(number), str(number))


NEXT_FIRST = ("deload_done", "test_done", "top_made", "top_more", "top_just", "top_effort_unknown")


def next_words(code: str, effect: Mapping[str, Any], reason: str) -> str:
    """Up to 92.5 × 6 · Stay at … · Down to …; whole sentence where the reason starts again after it."""
    load = effect.get("next_load")
    if effect.get("way") == "under":
        return "Down, and nothing in this room is light enough"
    if load is None and effect.get("next_reps"):
        start = {"up": "Up to", "down": "Down to"}.get(code, "Stay with")
        return f"{start} {effect['next_sets']} × {effect['next_reps']}"
    if load is None:
        return {"up": "Up", "down": "Down", "stay": "Stay"}.get(code, "Stay") + ("." if reason in NEXT_FIRST else "")
    number = f"{load} × {effect['next_reps']}"
    if reason in NEXT_FIRST:
        return f"Next: {number}{', deload' if effect.get('next_deload') else ''}."
    if effect.get("next_deload"):
        word = {"up": "Up", "down": "Down"}.get(code, "The same")
        return f"{word} after the deload week, which has {number}"
    way = effect.get("way") or {"up": "up", "down": "down"}.get(code, "same")
    words = {"up": "Up to", "down": "Down to"}.get(way, "Stay with") + f" {number}"
    return f"{words}, for more would be missed too often" if code == Code.UP and way in ("same", "down") else words


OWN_STAYS = "your own number stays"
THEN = "{load} × {reps} after the deload week"


def outcome_words(code: str, following: Mapping[str, Any], library: Library) -> str:
    """Where another answer leads: the next number, or the level."""
    if "to" in following:
        return library.get(following["to"]).name
    if following.get("own"):
        return OWN_STAYS
    if following.get("then"):
        return THEN.format(load=following["then"], reps=following["then_reps"])
    return next_words(code, following, "")
