"""Wording of an athlete's page."""

from backsquat.work.plan.history import WeekDone


def planned_words(week: WeekDone) -> str:
    """3 × 6 × 82.5"""
    return f"{week.sets} × {week.reps} × {week.load}"


def done_words(week: WeekDone) -> str:
    """18 reps in 3 sets, top 82.5"""
    if not week.done_sets:
        return "nothing logged"
    return f"{week.done_reps} reps in {week.done_sets} sets, top {week.top_kg:g}"
