"""How likely what stands in a plan is made, and what it really leaves, by what is believed today."""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from sqlalchemy.orm import Session

from backsquat.core.rules import Rules
from backsquat.core.strength.current import CurrentValue
from backsquat.storage.models import Athlete
from backsquat.work.log.estimates import current_values

ROUNDED = 0.005  # a chance is said in whole hundredths


class SetChance(NamedTuple):
    """The chance that the last set is made as written, and whole reps the first is expected to leave."""

    chance: float
    left: int
    seldom: bool  # less often than this squad plans: only a coach's own load is
    off_from: int  # reps off what was asked from which what it leaves is said

    def off(self, asked_reserve: int) -> bool:
        """Whether it leaves so much more or less than was asked that the sheet says it."""
        return abs(self.left - asked_reserve) >= self.off_from


@dataclass(frozen=True)
class Chances:
    """For one movement: who is believed to be able to do what. Loads by ratio to another lift are not looked at."""

    values: Mapping[int, CurrentValue]
    newcomers: frozenset[int]
    today: dt.date
    rules: Rules

    @classmethod
    def of(cls, db: Session, athletes: Sequence[Athlete], movement: str, today: dt.date, rules: Rules) -> "Chances":
        """Read for these athletes in two queries."""
        values = current_values(db, [athlete.id for athlete in athletes], movement, today, rules)
        return cls(values, frozenset(athlete.id for athlete in athletes if athlete.newcomer), today, rules)

    def on(
        self,
        athlete_id: int,
        day: dt.date,
        load_kg: float | None,
        sets: int,
        reps: int,
        week: int = 0,
        *,
        manner_share: float = 1.0,
        only_seldom: bool = False,
    ) -> SetChance | None:
        """For one exposure on a day to come; None where nothing is known, or nothing is loaded.

        `week` of its block: what is gained is reckoned from the block's start, as the plan does, and not before it.
        `manner_share`: of a plain load, by how it is done; with a pause 90 kg are as hard as 100.
        `only_seldom`: where plenty is left the chance is not worked out and taken as certain; a sheet has hundreds.
        """
        value = self.values.get(athlete_id)
        if value is None or load_kg is None or day < self.today:
            return None
        rules, weeks = self.rules, min((day - self.today).days / 7, float(week))
        gain = rules.gain_newcomer if athlete_id in self.newcomers else rules.gain_trained
        known, moved_kg = value.known, load_kg / manner_share + value.carried_kg
        left = known.left(moved_kg, reps, weeks, gain, rules)
        plenty = only_seldom and left >= rules.plenty_reserve
        chance = 1.0 if plenty else known.chance(moved_kg, reps, sets, weeks, gain, rules)
        return SetChance(chance, max(round(left), 0), chance < rules.chance_work - ROUNDED, rules.off_reserve)
