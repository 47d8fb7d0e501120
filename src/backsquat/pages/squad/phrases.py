"""Wording of the squad page and of the cautions page."""

from collections.abc import Sequence

from backsquat.core.rules import RuleLine
from backsquat.work.overview.first_steps import FirstStep

WAY = {  # step → its name, what it is for
    FirstStep.ROOM: ("Describe the room", "which bars and plates there are: every load is one of theirs"),
    FirstStep.ATHLETES: ("Add the athletes", "import the list you have, or one by one"),
    FirstStep.WHO_MAY: ("Screen the athletes", "screen them, or clear who squats to standard, by your name and reason"),
    FirstStep.TESTS: ("Test the lifts", "3 to 8 reps at RIR 1 to 3; the list you import may hold tests"),
    FirstStep.BLOCK: ("Plan the first block", "from a template: three clicks"),
    FirstStep.FLOOR: ("Publish it", "then the floor shows it"),
}
CAUTIONS = (
    ("What this is", "Back Squat plans training. It does not diagnose, treat or clear anyone."),
    ("Emergency", "Chest pain, collapse, numbness in the saddle region, loss of bladder or bowel control: call the "
                  "emergency services."),
    ("Stop and refer", "Sharp, electric, numb or tingling pain, swelling, giving way, locking: stop, and see a "
                       "physiotherapist or doctor. Back only with their recorded clearance."),
    ("Blood pressure", "Holding the breath raises blood pressure. Athletes with such a history ask their doctor first "
                       "and breathe out steadily on the way up."),
    ("Minors", "A guardian's consent on file, technique before load, a supervising adult. Local safeguarding and "
               "health-data law apply."),
    ("Bars", "Pins or spotters, collars, a clear space to drop. The room's own rules come first."),
    ("Ground", "No loaded work on unstable surfaces, nor on gear in a way its maker forbids."),
    ("Check-ins", "Check-ins and red flags are signs for a coach to look and ask, not findings about anybody's health. "
                  "Answering is optional."),
    ("Pictures", "A picture and a drawn posture are approximate and show no pain: they say nothing about anybody's health. "
                 "Pictures only with consent; local law on pictures of minors comes first."),
    ("Numbers", "Every default names its source or says usual practice, and you can change it for your squad."),
)  # fmt: skip

CHANGED = "Changed by this squad"
GROUPS = (  # each begins with this rule, in the order of the code
    ("formula", "e1RMs from sets"),
    ("chance_work", "Loads by how often they are made"),
    ("speed_at_max_squat", "Speed of the bar"),
    ("caution_newcomer", "Newcomers and weeks in season"),
    ("warm_up_min", "The session in time"),
    ("pause_s", "How a movement is done"),
    ("match_none_before", "Matches and the week around them"),
    ("outcome_share", "Blocks: what came of them, and laid back from a match"),
    ("growth_fast_cm", "Growth of the young"),
    ("range_scatter", "Ranges of milestones"),
    ("ankle_bend_usual", "Postures seen from the side"),
    ("click_share", "Pictures and how sure they are"),
    ("rise_a_week_newcomer", "How fast loads may rise"),
    ("open_decisions", "Records, corrections, missed sessions"),
    ("pain_stop_level", "Pain"),
    ("trend_points", "Milestones and trends"),
    ("adult_age_years", "Minors, levels and readiness"),
    ("ankle_short_cm", "Screens"),
    ("absence_short_days", "Time away and the return"),
    ("sets_hamstrings_low", "Sets a week, week check"),
    ("place_balance_s", "A variation for each"),
    ("watch_days", "Check-ins and red flags"),
)


ALSO_CALLED = {  # as a coach may ask for a rule → a word its line has; looked for besides what was typed
    "rpe": "rir", "effort": "rir", "autoregulation": "rir", "warmup": "warm-up", "fatigue": "check-in",
    "wellness": "check-in", "soreness": "sore", "minor": "consent", "child": "consent", "rounding": "step",
    "microload": "step", "illness": "away", "injury": "away", "sick": "away", "holiday": "away", "reset": "miss",
    "increase": "step", "plateau": "miss", "tempo": "lowering", "depth": "deep", "photo": "picture",
    "video": "picture", "privacy": "erase", "asymmetry": "left/right", "imbalance": "left/right",
    "delayed": "sore", "unload": "deload", "easy": "deload", "heavy": "hard",
}  # fmt: skip


def rule_groups(lines: Sequence[RuleLine], wanted: str) -> list[tuple[str, list[RuleLine]]]:
    """Title and rules: those the squad has changed first, the others by what they are about; of a search its own."""
    words = wanted.casefold().split()
    found = [line for line in lines if all(_said_of(line, word) for word in words)]
    begins, title = dict(GROUPS), GROUPS[0][1]
    groups: dict[str, list[RuleLine]] = {CHANGED: [line for line in found if line.value != line.default]}
    kept = {line.name for line in found if line.value == line.default}
    for line in lines:
        title = begins.get(line.name, title)
        if line.name in kept:
            groups.setdefault(title, []).append(line)
    return [(title, group) for title, group in groups.items() if group]


def _said_of(line: RuleLine, word: str) -> bool:
    """Whether a rule's line has the word, or what a coach may also call it."""
    text = f"{line.name} {line.meaning}".casefold()
    return word in text or (word in ALSO_CALLED and ALSO_CALLED[word] in text)
