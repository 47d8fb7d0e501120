"""The decision after a session on a rung of a ladder (school 7): no load, a rung when it is earned."""

from collections.abc import Callable, Sequence

from backsquat.core.movements.ladder import Ladder
from backsquat.core.movements.movement import Movement
from backsquat.core.pain import stops
from backsquat.core.progression.decision import Code, Decision
from backsquat.core.readiness.rungs import propose_rung, sessions_of
from backsquat.core.rules import Rules
from backsquat.core.strength.record import SetRecord


def judge_rung(
    ladder: Ladder,
    movement: Movement,
    sets: Sequence[SetRecord],
    allowed: Callable[[str], bool],
    rules: Rules,
    pain_last_time: bool = False,
) -> Decision:
    """`sets` are those of the movement since the athlete came onto the rung, today's among them.

    Pain first, then the rung's criterion. `facts` name the rung and movement a move leads to.
    """
    sessions = sessions_of(movement, sets, rules)
    today = sessions[-1]
    ids = set(today.set_ids)
    now = [s for s in sets if s.set_id in ids]
    facts: dict[str, str | float | int] = {"name": movement.name, "work": movement.work.words}
    hurt = max(now, key=lambda s: (stops(s.pain, s.pain_character, rules), s.pain))
    if stops(hurt.pain, hurt.pain_character, rules):
        facts |= {"pain": hurt.pain, "character": hurt.pain_character}
        return Decision(Code.STOP, "pain_stop", facts, (hurt.set_id,), "pain_below_line", hold=True)
    if hurt.pain and pain_last_time:
        facts |= {"pain": hurt.pain, "character": hurt.pain_character}
        return Decision(Code.LOOK, "pain_again", facts, (hurt.set_id,), "no_pain", hold=True)
    rung = ladder.rung_of(movement.code) or 0
    proposal = propose_rung(ladder, rung, sessions, allowed, rules)
    if proposal:
        code = Code.HARDER_RUNG if proposal.way == "harder" else Code.EASIER_RUNG
        facts |= {"to": proposal.movements[0], "rung": proposal.rung, "ladder": ladder.code, "pain": today.pain}
        facts["sessions"] = rules.earned_sessions
        return Decision(code, proposal.reason, facts, proposal.evidence, _would_change(code))
    row = 0
    for session in reversed(sessions):
        if not session.met:
            break
        row += 1
    facts |= {"row": row, "sessions": rules.earned_sessions, "why": today.why_not or "top"}
    enough = row >= rules.earned_sessions
    reason = "rung_last" if enough else "rung_row" if today.met else "rung_not_met"
    return Decision(Code.STAY, reason, facts, today.set_ids, "rung_criterion")


def _would_change(code: Code) -> str:
    return "rung_criterion_missed" if code is Code.HARDER_RUNG else "rung_clean"
