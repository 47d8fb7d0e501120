"""No table of words forgets a code: a new state, kind or reason fails here until it has its words."""

import ast
import enum
import importlib
import pkgutil
from collections.abc import Iterator
from pathlib import Path

import backsquat
from backsquat.ui.phrases.decisions import REASONS, WOULD_CHANGE
from backsquat.ui.phrases.readiness_checks import LINE_FACTS

SOURCE = Path(backsquat.__file__).parent
# What a table leaves out on purpose: whoever adds a code decides here.
PARTLY = {
    "core.loads.rigs.HELD": "BODY BAR TRAP_BAR DUMBBELL DUMBBELLS MACHINE BAND BALL SLIDERS",
    "core.progression.usual_window.FEW": "SQUAT HINGE SINGLE_LEG EXTENSION GROIN TRUNK SPEED MOBILITY",
    "core.technique.still.CORNERS": "TRUNK SHIN DEPTH PELVIS BAR_OFF",
    "core.technique.still.STANDARD": "HINGE LANDING PICKUP READY",
    "core.technique.still.UPRIGHT": "KNEE HIP DEPTH LOCK_OUT REAR_HIP BAR_OFF",
    "core.technique.still._SAID": "TRUNK SHIN DEPTH PELVIS BAR_OFF",
    "devices.drawn.COLOURS": "WAIST_BACK WAIST_FRONT LEVEL_A LEVEL_B PLATE_A PLATE_B",
    "devices.drawn._NAMES": "WAIST_BACK WAIST_FRONT LEVEL_A LEVEL_B PLATE_A PLATE_B",
    "pages.block.drawing.STANDS_IN": "NOT LEVEL READINESS_CHECK LADDER",
    "pages.block.phrases.ROW_NOTES": "PLAIN",
    "pages.block.phrases.ROW_WORDS": "PLAIN STOPPED AWAY NOT_READY_ON_LEVEL NOT_READY UNEARNED_ON_LEVEL UNEARNED THROUGH_NEEDS_TEST OWN_WORK LEFT_OUT LIMIT_WEEKS LIMIT_REPLAN",
    "pages.block.phrases.STAND_IN": "NOT",
    "pages.technique.phrases.OTHERS": "LEAN ARMS BACK SAME",
    "pages.technique.phrases.SHOWN_AS": "TRUNK SHIN KNEE HIP LOCK_OUT REAR_HIP PELVIS BAR_OFF",
    "pages.technique.phrases.SPOT_HELP": "SHOULDER HIP KNEE ANKLE HEEL TOE BAR REAR_KNEE WAIST_FRONT LEVEL_B PLATE_B",
    "pages.technique.routes.LOADS": "BACK_HIGH BACK_LOW FRONT OVERHEAD",
    "ui.drawing.strip.BARS": "WARM_UP INSIDE REST",
    "ui.phrases.decisions.OVERRIDE_WORDS": "EASIER_LEVEL HARDER_LEVEL STOP LOOK",
    "ui.phrases.decisions.LEVEL_OVERRIDES": "UP DOWN STOP LOOK",
    "ui.phrases.sessions.RANGES": "WHOLE",
    "ui.phrases.sessions.STYLES": "PLAIN",
    "ui.phrases.technique.STANDARDS": "TRUNK SHIN KNEE HIP PELVIS BAR_OFF",
    "work.plan.days.LESS": "MOVE LEAVE_OUT",
    "work.plan.rows.FIXES": "PLAIN NOT_HERE OWN_WORK LEFT_OUT LIMIT_WEEKS LIMIT_REPLAN",
    "work.record.waiting.ACTS": "SET SKIP PAIN END",
    "work.season.milestones.MILESTONE_RANGE": "LEVEL SCREEN",
    "work.technique.onward.TRUNK_OF": "SPLIT_SQUAT THRUST HINGE READY",
}  # fmt: skip


def tables() -> Iterator[tuple[str, dict[enum.Enum, object]]]:
    """Every table of a module whose keys are codes of one kind."""
    for found in pkgutil.walk_packages(backsquat.__path__, "backsquat."):
        if "versions" in found.name or found.name.endswith("__main__"):
            continue
        module = importlib.import_module(found.name)
        for name, table in vars(module).items():
            here = isinstance(table, dict) and table and name.isupper()
            if here and all(isinstance(key, enum.Enum) for key in table) and name in assigned(module.__file__):
                yield f"{found.name.removeprefix('backsquat.')}.{name}", table


def assigned(path: str | None) -> set[str]:
    tree = ast.parse(Path(path or "").read_text("utf-8"))
    return {
        target.id
        for node in tree.body
        if isinstance(node, (ast.Assign, ast.AnnAssign))
        for target in (node.targets if isinstance(node, ast.Assign) else [node.target])
        if isinstance(target, ast.Name)
    }


def test_a_table_by_codes_has_all_of_them() -> None:
    seen = dict(tables())
    assert len(seen) > 60
    for name, table in seen.items():
        kind = type(next(iter(table)))
        missing = {one.name for one in kind} - {key.name for key in table}
        assert missing == set(PARTLY.get(name, "").split()), f"{name} has no word for {missing}"
    assert PARTLY.keys() <= seen.keys()


def reasons_given() -> tuple[set[str], set[str]]:
    """The reason, and what would have changed it, of every decision the core makes."""
    reasons, changes = set[str](), set[str]()
    for path in (SOURCE / "core/progression").glob("*.py"):
        for function in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(function, ast.FunctionDef):
                for call in ast.walk(function):
                    if isinstance(call, ast.Call) and getattr(call.func, "id", "") == "Decision" and len(call.args) > 1:
                        reasons |= _strings(call.args[1], function)
                        changes |= _strings(call.args[4], function) if len(call.args) > 4 else set()
    return reasons, changes


def _strings(node: ast.AST, function: ast.FunctionDef) -> set[str]:
    """The texts an argument can be: its own, or those the name was given in the function."""
    nodes = [node]
    if isinstance(node, ast.Name):
        for one in ast.walk(function):
            if isinstance(one, ast.Assign) and any(
                isinstance(part, ast.Name) and part.id == node.id for t in one.targets for part in ast.walk(t)
            ):
                nodes.append(one.value)
    found = {
        part.value
        for one in nodes
        for part in ast.walk(one)
        if isinstance(part, ast.Constant) and isinstance(part.value, str)
    }
    return {text for text in found if text}


def test_every_reason_of_a_decision_has_its_sentence() -> None:
    reasons, changes = reasons_given()
    assert len(reasons) > 40
    assert reasons <= REASONS.keys()
    assert changes <= WOULD_CHANGE.keys()


def test_what_a_readiness_check_found_and_needs_has_its_words() -> None:
    tree = ast.parse((SOURCE / "core/readiness/checklist.py").read_text("utf-8"))
    calls = [one for one in ast.walk(tree) if isinstance(one, ast.Call) and isinstance(one.func, ast.Name)]
    first = [one.args[0] for one in calls if one.func.id in ("LineFact", "_found")]  # type: ignore[attr-defined]
    said = {
        part.value
        for code in first
        for part in ((code.body, code.orelse) if isinstance(code, ast.IfExp) else (code,))
        if isinstance(part, ast.Constant)
    }
    assert said == set(LINE_FACTS)
