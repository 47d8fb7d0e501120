"""Forms of the season: a match, a stretch of days."""

import datetime as dt
from collections.abc import Iterable

from wtforms import BooleanField, SelectField, SelectMultipleField
from wtforms.widgets import CheckboxInput, ListWidget

from backsquat.core.errors import Problem
from backsquat.pages.fields import DayField, JobForm, Needed, TextField, options
from backsquat.pages.season.phrases import KINDS
from backsquat.ui.phrases.days import SHORT_DAYS
from backsquat.work.season.marks import WORDS_MOST, MarkFacts, MarkKind
from backsquat.work.season.matches import MatchFacts


class MatchForm(JobForm):
    """One match."""

    played_on = DayField("Day", validators=[Needed()])
    opponent = TextField("Against", most=WORDS_MOST)
    competition = TextField("Competition", most=WORDS_MOST)
    away = BooleanField("Away")
    important = BooleanField("Counts")

    def facts(self) -> MatchFacts:
        return MatchFacts(
            self.played_on.data,
            bool(self.important.data),
            bool(self.away.data),
            self.opponent.data or "",
            self.competition.data or "",
        )


class MarkForm(JobForm):
    """A phase, a holiday, a trip, a camp, days of tests."""

    kind = SelectField("What", choices=options((kind.value, words) for kind, words in KINDS.items()))
    first_on = DayField("From", validators=[Needed()])
    last_on = DayField("To", validators=[Needed()])
    words = TextField("Called", most=WORDS_MOST)
    weekdays = SelectMultipleField(
        "Training days of the phase",
        choices=options((str(n), day) for n, day in enumerate(SHORT_DAYS)),
        widget=ListWidget(prefix_label=False),
        option_widget=CheckboxInput(),
    )

    def problems(self) -> Iterable[Problem]:
        first, last = self.first_on.data, self.last_on.data
        if isinstance(first, dt.date) and isinstance(last, dt.date) and last < first:
            yield Problem("last_on", "before_first")

    def facts(self) -> MarkFacts:
        days = tuple(int(day) for day in self.weekdays.data or ())
        return MarkFacts(MarkKind(self.kind.data), self.first_on.data, self.last_on.data, self.words.data or "", days)
