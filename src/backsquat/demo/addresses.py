"""Where the people of the demo are written to: all but those who came last."""

from collections.abc import Callable

from backsquat.demo.people import PEOPLE
from backsquat.work.context import WorkContext
from backsquat.work.exports.post import To, keep_addresses, people


def write_down(context: WorkContext, id_of: Callable[[str], int]) -> None:
    """An address each, at a domain that is nobody's."""
    just_came = {To(athlete_id=id_of(person.name)) for person in PEOPLE if person.joined_week >= 99}
    known = [one for one in people(context) if one.to not in just_came]
    plain = {one.to: one.name.lower().replace(". ", ".").replace(" ", ".") for one in known}
    keep_addresses(context, {to: f"{name}@kestrel-point.example" for to, name in plain.items()})
