"""Mass in the unit it was made in, compared exactly.

185 lb stays 185 lb. To compare and add without rounding, every mass is also a whole number of
10⁻¹⁰ kg: 0.01 lb is exactly 45 359 237 of them (international pound, 0.45359237 kg), 0.001 kg
exactly 10⁷. Amounts therefore hold at most two decimals in lb and three in kg.
"""

from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from enum import StrEnum
from functools import cached_property

from backsquat.core.errors import ImpossibleInput, Problem


class Unit(StrEnum):
    """The units plates and bars are marked in."""

    KG = "kg"
    LB = "lb"


GRAINS_PER_KG = 10**10
GRAINS_PER_UNIT = {Unit.KG: GRAINS_PER_KG, Unit.LB: 4_535_923_700}
DECIMALS = {Unit.KG: 3, Unit.LB: 2}


@dataclass(frozen=True)
class Mass:
    """An amount in kg or lb."""

    amount: Decimal
    unit: Unit = Unit.KG

    def __post_init__(self) -> None:
        if not self.amount.is_finite():
            raise ImpossibleInput(Problem("amount", "not_a_number"))
        exponent = self.amount.normalize().as_tuple().exponent
        if not isinstance(exponent, int) or -exponent > DECIMALS[self.unit]:
            raise ValueError(f"{self.amount} {self.unit} is finer than this application weighs")

    @classmethod
    def of(cls, amount: str | int | Decimal, unit: Unit | str = Unit.KG) -> "Mass":
        """A mass from an amount as it is written: Mass.of("82.5"), Mass.of(45, Unit.LB)."""
        try:
            return cls(Decimal(amount), Unit(unit))
        except InvalidOperation:
            raise ImpossibleInput(Problem("amount", "not_a_number")) from None

    @classmethod
    def from_grains(cls, grains: int, unit: Unit) -> "Mass":
        """The mass of `grains` in `unit`; to the unit's last decimal where units were mixed."""
        amount = (Decimal(grains) / GRAINS_PER_UNIT[unit]).quantize(Decimal(10) ** -DECIMALS[unit])
        return cls(amount.normalize() if amount % 1 else amount.quantize(Decimal(1)), unit)

    @cached_property
    def grains(self) -> int:
        """Exact whole number of 10⁻¹⁰ kg."""
        return int(self.amount * GRAINS_PER_UNIT[self.unit])

    @cached_property
    def kg(self) -> float:
        """The mass in kg; exact in `grains`, a float here."""
        return self.grains / GRAINS_PER_KG

    @cached_property
    def text(self) -> str:
        """The amount as it is written on a plate: 2.5, 185."""
        return f"{self.amount.normalize():f}"


NOTHING = Mass(Decimal(0))


def exact_mass(field: str, amount: Decimal, unit: Unit) -> Mass:
    """The amount as a mass; ImpossibleInput at `field` where it is finer than the unit is weighed here."""
    try:
        return Mass(amount, unit)
    except ValueError:
        facts = {"decimals": DECIMALS[unit], "unit": unit.value}
        raise ImpossibleInput(Problem(field, "mass_decimals", facts)) from None
