"""Wording of the season: days around matches, what is proposed, phases and days off."""

import datetime as dt
from collections.abc import Mapping
from typing import assert_never

from backsquat.core.season.backwards import LaidBlock, Purpose
from backsquat.core.season.week import DayAct, DayLeaves, DayProposal, DayReason, Legs
from backsquat.ui.phrases.days import WEEKDAYS, daydate_words
from backsquat.work.overview.attendance import Came
from backsquat.work.plan.match_moved import MatchMoved
from backsquat.work.season.marks import MarkKind

KINDS = {
    MarkKind.BASE: "Base",
    MarkKind.STRENGTH: "Strength",
    MarkKind.POWER: "Power and jumps",
    MarkKind.IN_SEASON: "In season",
    MarkKind.REST: "Off",
    MarkKind.HOLIDAY: "Holiday, nobody trains",
    MarkKind.TRIP: "Trip, nobody trains at home",
    MarkKind.CAMP: "Camp",
    MarkKind.TESTS: "Days of tests",
}
SHORT = KINDS | {
    MarkKind.POWER: "Power, jumps",
    MarkKind.IN_SEASON: "In season: keep what was built",
    MarkKind.HOLIDAY: "holiday",
    MarkKind.TRIP: "trip",
    MarkKind.CAMP: "camp",
    MarkKind.TESTS: "tests",
}


PURPOSES = {  # purpose → the template that is offered for it
    Purpose.BASE: "base_stages",
    Purpose.STRENGTH: "strength",
    Purpose.POWER: "power",
    Purpose.KEEP: "keep",
}
LAID = {
    Purpose.BASE: ("Base in stages", "many reps first, fewer and heavier stage by stage"),
    Purpose.STRENGTH: ("Strength", "heavier week by week, with deload weeks"),
    Purpose.POWER: (
        "Power and jumps",
        "right before the match: fast and few, strength kept by one heavy lift of each kind",
    ),
    Purpose.KEEP: ("Keep what was built", "a match in most of these weeks: the loads stay, about half the sets"),
}


def laid_words(one: LaidBlock) -> tuple[str, str]:
    """What a block laid back from a match is, and why it stands there."""
    name, why = LAID[one.purpose]
    if one.purpose is Purpose.KEEP and not one.matches:
        why = "too few weeks to build anything"
    return name, why


CAME = {
    Came.DONE: "done",
    Came.PART: "less than half of the work",
    Came.MISSED: "planned, nothing logged",
    Came.AWAY: "away",
}


def mark_name(kind: str, words: str) -> str:
    """What the drawing calls a stretch: the coach's own word first."""
    return words or SHORT[MarkKind(kind)]


def leaves_words(leaves: DayLeaves, *, heavy_best: range = range(3, 5)) -> str:
    """What a day leaves for the legs, in a few words; nothing of a day like any other."""
    light = "nothing for the legs" if leaves.legs is Legs.NONE else "light"
    match leaves.why:
        case DayReason.OFF:
            return "nobody trains"
        case DayReason.CAMP:
            return f"camp: {light}"
        case DayReason.TESTS:
            return f"{'the day' if leaves.days == 1 else f'{leaves.days} days'} before tests: {light}"
        case DayReason.AFTER:
            return f"the day after: {light}"
        case DayReason.BEFORE:
            if leaves.legs is not Legs.HEAVY:
                return f"{'the day' if leaves.days == 1 else f'{leaves.days} days'} before: {light}"
            return f"{leaves.days} days before: heaviest here" if leaves.days in heavy_best else ""
        case DayReason.FREE | DayReason.MATCH:
            return ""
        case _:
            assert_never(leaves.why)


def near_words(leaves: DayLeaves) -> str:
    """Why a session cannot stay as it is."""
    near = "the day" if leaves.days == 1 else f"{leaves.days} days"
    match leaves.why:
        case DayReason.OFF:
            return "is on a day on which nobody trains"
        case DayReason.CAMP:
            return "is in a camp"
        case DayReason.TESTS:
            return f"is {near} before tests"
        case DayReason.MATCH:
            return "is on the day of a match"
        case DayReason.AFTER:
            return "is the day after a match"
        case DayReason.BEFORE:
            return f"is {near} before a match"
        case DayReason.FREE:
            return "is not the one to keep"
        case _:
            assert_never(leaves.why)


def proposal_words(proposal: DayProposal, names: Mapping[int, str]) -> tuple[str, str]:
    """What is proposed and why, and the button that does it."""
    name, why = names[proposal.key], near_words(proposal.leaves)
    if proposal.short:
        if proposal.act is DayAct.LEAVE_OUT:
            return f"With two matches one short session is enough. {name} {why}.", "Leave it out"
        return (
            f"{name} is the one session of a week of two matches: about half the sets, a little lighter.",
            "Shorten it",
        )
    if proposal.act is DayAct.MOVE and proposal.to:
        to = WEEKDAYS[proposal.to.day.weekday()]
        behind = leaves_words(proposal.to)
        return f"{name} {why}. {to} is free for it{f' ({behind})' if behind else ''}.", f"Hold it on {to}"
    if proposal.act is DayAct.TAPER:
        near = "a day" if proposal.leaves.days == 1 else f"{proposal.leaves.days} days"
        return f"{name} is {near} before a match that counts: the loads stay, about half the sets, as a draft.", "Taper"
    if proposal.act is DayAct.LIGHTEN:
        return f"{name} {why}: about half the sets, a little lighter, as a draft.", "Lighten it"
    return f"{name} {why}, and this week has no better day for it.", "Leave it out"


def followed_words(moved: MatchMoved) -> str:
    """What followed from a match moved or dropped; where nothing had to, where to look."""
    parts = []
    if moved.returned:
        many = f" ({moved.back} numbers)" if moved.back else ""
        parts.append(f"what was fitted around its old day is taken back{many}")
    for n, words in ((moved.sessions, "on another day or left out"), (moved.lighter, "shortened")):
        parts += [f"{n} session{'' if n == 1 else 's'} {words}"] if n else []
    if not parts:
        return "; look at its week."
    return (
        f". Its weeks follow: {', '.join(parts)}. Days count right away; numbers are a draft until they are published."
    )


def session_name(day: dt.date, name: str) -> str:
    """How a session of the week is called in a sentence."""
    return f"{name} ({daydate_words(day)})" if name else f"{WEEKDAYS[day.weekday()]}'s session"


def goal_count_words(fewest: int, most: int, of: int) -> str:
    """7 to 10 of 12 by the day"""
    count = f"{fewest}" if fewest == most else f"{fewest} to {most}"
    return f"{count} of {of} by the day"
