"""Laying weeks out: what the progressions share when they fill a calendar."""

from collections.abc import Callable, Iterable
from dataclasses import replace

from backsquat.core.progression.parameters import EveryFourth, Parameters, deload_in, deload_sets
from backsquat.core.progression.prescription import Aim, Basis, ExposureKind, Prescription

TEST_REPS, TEST_RESERVE = 5, 1  # what a test set asks for


def asked(week: int, parameters: Parameters, **changes: object) -> Prescription:
    """A working exposure with the progression's sets, rest and tempo."""
    plain = Prescription(
        week=week,
        kind=ExposureKind.WORK,
        sets=parameters.sets,
        reps=5,
        reserve_reps=2,
        rest_s=parameters.rest_s,
        tempo=parameters.tempo,
        wave=0,
        first_of_wave=False,
        top_of_wave=False,
        end_hold_s=parameters.end_hold_s,
        last_to_failure=bool(parameters.last_to_failure),
    )
    return replace(plain, **changes)  # type: ignore[arg-type]


def eased(work: Prescription, parameters: Parameters) -> Prescription:
    """The deload week instead of a working one: fewer sets, and a share of its load."""
    aim = replace(work.aim, steps=0, waits=False)
    return replace(work, kind=ExposureKind.DELOAD, sets=deload_sets(parameters), aim=aim, last_to_failure=False)


def with_deload_weeks(
    weeks: Iterable[int],
    parameters: EveryFourth,
    work: Callable[[int, int], Prescription],
    a_week: int = 1,
    begun: int = 0,
) -> tuple[Prescription, ...]:
    """Working weeks from `work(week, nth)`, `nth` counting working weeks from 0; every so many is easy.

    With several exposures `a_week` it is they that are counted; all of a deload week are easy. Deload weeks are those of
    the block: of weeks that count from where an exercise was put in, `begun` is the week of the block that was.

    A deload week repeats the exposure before it with less.
    """
    rows: list[Prescription] = []
    nth = 0
    for week in weeks:
        before = next((p for p in reversed(rows) if p.kind is ExposureKind.WORK), None)
        if deload_in(begun + week // a_week, parameters.deload_every):
            base = before or replace(work(week, 0), week=week)
            rows.append(replace(eased(base, parameters), week=week))
            continue
        rows.append(work(week, nth))
        nth += 1
    return tuple(rows)


def with_test(rows: tuple[Prescription, ...], parameters: Parameters, last_week: int) -> tuple[Prescription, ...]:
    """The block's last week as a test, where the coach wants one: one set from the planning max."""
    if not parameters.test_last:
        return rows
    return tuple(
        replace(
            row,
            kind=ExposureKind.TEST,
            sets=1,
            reps=TEST_REPS,
            reserve_reps=TEST_RESERVE,
            low=0,
            high=0,
            aim=Aim(rises=False),
            first_of_wave=False,
            top_of_wave=False,
        )
        if row.week == last_week and row.aim.basis is not Basis.NONE
        else row
        for row in rows
    )
