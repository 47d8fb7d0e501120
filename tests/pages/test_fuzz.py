"""Forms and addresses with outside values; 20,000 of them by `make trust`."""

from flask import Flask

from tests.fuzz import fuzz


def test_no_outside_value_in_a_form_or_an_address_is_a_fault_of_ours(app: Flask) -> None:
    found = fuzz(app, 450)
    assert not found.faults and found.tried >= 450
    assert found.statuses[200] > 50 and found.statuses[422] + found.statuses[404] + found.statuses[409] > 50
