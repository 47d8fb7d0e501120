"""The decision after a session on a level of a ladder (progression 7): no load, a level when it is earned."""

from collections.abc import Callable, Sequence

from backsquat.core.movements.ladder import Ladder
from backsquat.core.movements.movement import Movement
from backsquat.core.progression.decision import Code, Decision, Pain, pain_facts, pain_stopped, worst_pain
from backsquat.core.readiness.levels import propose_level, sessions_of
from backsquat.core.rules import Rules
from backsquat.core.strength.record import SetRecord


def judge_level(
    ladder: Ladder,
    movement: Movement,
    sets: Sequence[SetRecord],
    allowed: Callable[[str], bool],
    rules: Rules,
    pain_last_time: bool = False,
    reported: Sequence[Pain] = (),
) -> Decision:
    """`sets` are those of the movement since the athlete came onto the level, today's among them; `reported`: pain that
    was said by itself today.

    Pain first, then the level's criterion. `facts` name the level and movement a move leads to.
    """
    sessions = sessions_of(movement, sets, rules)
    facts: dict[str, str | float | int] = {"name": movement.name, "work": movement.work.words}
    ids = set(sessions[-1].set_ids) if sessions else set()
    pains = [Pain(s.pain, s.pain_character, s.set_id) for s in sets if s.set_id in ids and s.pain]
    if hurt := worst_pain([*pains, *reported], rules):
        if stop := pain_stopped(hurt, facts, rules):
            return stop
        if hurt.level and pain_last_time:
            return Decision(Code.LOOK, "pain_again", {**facts, **pain_facts(hurt)}, hurt.evidence, "no_pain", hold=True)
    if not sessions:
        return Decision(Code.STAY, "level_not_met", facts | {"why": "top", "sessions": 0}, (), "level_criterion")
    today, level = sessions[-1], ladder.level_of(movement.code) or 0
    proposal = propose_level(ladder, level, sessions, allowed, rules)
    if proposal:
        code = Code.HARDER_LEVEL if proposal.way == "harder" else Code.EASIER_LEVEL
        facts |= {"to": proposal.movements[0], "level": proposal.level, "ladder": ladder.code, "pain": today.pain}
        facts["sessions"] = rules.earned_sessions
        return Decision(code, proposal.reason, facts, proposal.evidence, _would_change(code))
    row = 0
    for session in reversed(sessions):
        if not session.met:
            break
        row += 1
    facts |= {"row": row, "sessions": rules.earned_sessions, "why": today.why_not or "top"}
    enough = row >= rules.earned_sessions
    reason = "level_last" if enough else "level_row" if today.met else "level_not_met"
    return Decision(Code.STAY, reason, facts, today.set_ids, "level_criterion")


def _would_change(code: Code) -> str:
    return "level_criterion_missed" if code is Code.HARDER_LEVEL else "level_clean"
