"""Form fields that read what people type and say in a sentence what is wrong.

`JobForm.problems` lets a form ask the core for everything impossible about its values; those are
reported together with what could not be read at all.
"""

import datetime as dt
from collections.abc import Callable, Iterable, Sequence
from decimal import Decimal
from typing import Any, TypeVar

from flask import request
from flask_wtf import FlaskForm
from wtforms import Field, SelectField, StringField
from wtforms.fields.choices import SelectChoice  # type: ignore[attr-defined]  # newer than its stubs
from wtforms.validators import ValidationError
from wtforms.widgets import TextInput

from backsquat.core.errors import Doubtful, ImpossibleInput, Problem
from backsquat.core.movements.movement import Region
from backsquat.core.numbers import plain_day, read_decimal
from backsquat.core.pain import Character
from backsquat.ui.phrases.problems import problem_words

T = TypeVar("T")


class Needed:
    """The field must be filled in."""

    field_flags = {"required": True}

    def __call__(self, _form: Any, field: Field) -> None:
        if not field.errors and (field.data is None or not str(field.data).strip()):
            raise ValidationError(problem_words(Problem(field.name, "missing")))


class TextField(StringField):
    """One line of text, trimmed and bounded."""

    data: Any

    def __init__(self, label: str, *, most: int = 80, **kwargs: Any) -> None:
        super().__init__(label, filters=[lambda text: text.strip() if text else text], **kwargs)
        self.most = most

    def pre_validate(self, form: Any) -> None:
        if self.data and len(self.data) > self.most:
            raise ValidationError(problem_words(Problem(self.name, "too_long", {"most": self.most})))


def options(pairs: Iterable[tuple[str, str]]) -> list[SelectChoice]:
    """The choices of a select from (value, words)."""
    return [SelectChoice(value, words) for value, words in pairs]


class _Typed(Field):
    """A text input whose value is read into another type; what was typed is kept for showing again."""

    widget = TextInput()
    problem = ""
    mode = "text"

    def read(self, text: str) -> Any:
        raise NotImplementedError

    def _value(self) -> str:
        if self.raw_data:
            return str(self.raw_data[0])
        return "" if self.data is None else self.show(self.data)

    def show(self, value: Any) -> str:
        return str(value)

    def process_formdata(self, valuelist: list[str]) -> None:
        text = valuelist[0].strip() if valuelist else ""
        self.data = None
        if text:
            try:
                self.data = self.read(text)
            except (ValueError, OverflowError):
                raise ValueError(problem_words(Problem(self.name, self.problem))) from None


class AmountField(_Typed):
    """A decimal, with point or comma."""

    problem, mode = "not_a_number", "decimal"

    def read(self, text: str) -> Decimal:
        value = read_decimal(text)
        if abs(value) >= 10**6:
            raise ValueError
        # More digits than any scale shows are a slip, and exact masses cannot hold them.
        return value.quantize(Decimal("0.001")).normalize() if value % 1 else value.quantize(Decimal(1))

    def show(self, value: Any) -> str:
        return f"{value:f}" if isinstance(value, Decimal) else str(value)


class WholeField(_Typed):
    problem, mode = "not_whole", "numeric"

    def read(self, text: str) -> int:
        if len(text) > 9:
            raise ValueError
        return int(text)


class DayField(_Typed):
    problem, mode = "not_a_date", "date"

    def read(self, text: str) -> dt.date:
        return plain_day(text)


class JobForm(FlaskForm):  # type: ignore[misc]
    """A form that reports what it cannot read and what the core finds impossible, all at once.

    `asked` are the questions (code, words) to which somebody must say yes first: "confirm" sends the codes.
    """

    asked: Sequence[tuple[str, str]] = ()

    @property
    def confirmed(self) -> frozenset[str]:
        """The questions that were said yes to."""
        return frozenset(request.form.getlist("confirm")[:10])

    def problems(self) -> Iterable[Problem]:
        return ()

    def validate(self, extra_validators: Any = None) -> bool:
        super().validate(extra_validators)
        self.put(self.problems())
        return not self.errors

    def put(self, problems: Iterable[Problem]) -> None:
        """Write problems beside their fields; one whose field the form lacks goes to the top."""
        for problem in problems:
            field = self._fields.get(problem.field)
            if field is None:
                self.form_errors.append(problem_words(problem))
            elif not field.errors:
                field.errors = [problem_words(problem)]

    def submitted(self, run: Callable[[], T]) -> T | None:
        """Run a write with valid values; None where the form has to be shown again."""
        if not self.validate_on_submit():
            return None
        try:
            return run()
        except ImpossibleInput as error:
            self.put(error.problems)
        except Doubtful as error:
            self.asked = [(question.code, problem_words(question)) for question in error.questions]
        return None


class TodayForm(JobForm):
    """A form that judges dates against the given day."""

    def __init__(self, today: dt.date, **kwargs: object) -> None:
        super().__init__(**kwargs)
        self.today = today


class PainForm(TodayForm):
    """A form of a set that asks for pain: an unrated bad pain must not pass as none."""

    pain = WholeField("Pain, 0 to 10")
    pain_region = SelectField("Where", default="", choices=options([("", "–"), *((r.value, r.value) for r in Region)]))
    pain_character = SelectField(
        "How it feels", default=Character.DULL.value, choices=options((c.value, c.value) for c in Character)
    )

    def pain_problems(self) -> Iterable[Problem]:
        """What is missing about a pain that was named."""
        if self.pain.data and not self.pain_region.data:
            yield Problem("pain_region", "pain_needs_region")
        stopping = self.pain_character.data not in ("", None, Character.DULL.value)
        if not self.pain.data and not self.pain.errors and (self.pain_region.data or stopping):
            yield Problem("pain", "pain_needs_level")
