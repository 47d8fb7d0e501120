"""A decision put in its row and read back is the same one, whatever is in it."""

from dataclasses import fields
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from backsquat.core.progression.decision import Decision
from backsquat.storage.convert import DECISION_COLUMNS, columns_of, decision_from_row
from backsquat.storage.models import DecisionRow

SAID: dict[str, Any] = {"facts": st.dictionaries(st.text("abc"), st.integers())}
SHARES = {field.name: st.floats(0.1, 2) for field in fields(Decision) if field.type is float}
INFERRED: dict[str, Any] = {field.name: ... for field in fields(Decision)}


@given(st.builds(Decision, **INFERRED | SHARES | SAID))
def test_a_decision_comes_back_as_it_was(decision: Decision) -> None:
    assert decision_from_row(DecisionRow(**columns_of(decision))) == decision


def test_every_field_has_a_column_of_its_own() -> None:
    columns = set(DECISION_COLUMNS.values())
    assert len(columns) == len(fields(Decision))
    assert columns <= set(DecisionRow.__table__.columns.keys())
