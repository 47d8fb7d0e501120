"""No role of another squad reads or changes a row of this one: every route, with this squad's ids. Whole by `make sweep`."""

import os

from flask import Flask

from tests.sweep import sweep


def test_no_row_of_a_squad_is_shown_to_or_changed_by_another(app: Flask) -> None:
    whole = bool(os.environ.get("WHOLE"))
    counts = sweep(app, most=40 if whole else 3)
    tried = sum(counts.values())
    assert tried > 400 and counts["404"] + counts["403"] > 0.9 * tried
    print(f"\n{tried} tries: {', '.join(f'{count} × {status}' for status, count in sorted(counts.items()))}")
