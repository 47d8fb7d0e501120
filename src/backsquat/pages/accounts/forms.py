"""Signing in, passwords and accounts."""

import datetime as dt
from collections.abc import Iterable
from dataclasses import replace

from wtforms import FileField, PasswordField, SelectField
from wtforms.widgets import PasswordInput

from backsquat.core.errors import Problem
from backsquat.core.roles import STAFF, Role
from backsquat.core.season.calendar import last_day, next_monday
from backsquat.pages.fields import DayField, JobForm, Needed, TextField, TodayForm, WholeField, options
from backsquat.work.squad.first import WEEKS, FirstFacts

SEASON_WEEKS = 44  # to begin with; changed where the form asks


class SignInForm(JobForm):
    sign_in = TextField("Name", validators=[Needed()])
    password = PasswordField("Password", validators=[Needed()])


class CodeForm(JobForm):
    """The one-time code of the phone."""

    code = TextField("Code", most=12, validators=[Needed()])


class PassForm(JobForm):
    """The code of an athlete for one session."""

    code = TextField("Code", most=20, validators=[Needed()])


class NewPasswordForm(JobForm):
    """A password chosen with a one-time link."""

    password = PasswordField("New password", validators=[Needed()])


class ChangePasswordForm(NewPasswordForm):
    """Another password in the stead of the old one."""

    old = PasswordField("Password now", validators=[Needed()])


class FirstForm(TodayForm):
    """The first squad of an installation and its head coach; the season is set, and can be changed."""

    code = TextField("Code, as it was printed at the start", most=20, validators=[Needed()])
    club = TextField("Club", most=60, validators=[Needed()])
    squad = TextField("Squad", most=60, validators=[Needed()])
    coach = TextField("Your full name", validators=[Needed()])
    sign_in = TextField("Name to sign in with", validators=[Needed()])
    # Shown again after a mistake elsewhere: on this machine, to who has just typed it.
    password = PasswordField("Password, ten characters or more", validators=[Needed()], widget=PasswordInput(False))
    first_on = DayField("Season from", validators=[Needed()])
    weeks = WholeField("Weeks", default=SEASON_WEEKS, validators=[Needed()])

    def __init__(self, today: dt.date, **kwargs: object) -> None:
        super().__init__(today, **kwargs)
        if self.first_on.data is None and not self.first_on.raw_data:
            self.first_on.data = next_monday(today)

    @property
    def last_on(self) -> dt.date | None:
        """The last day of the season as it stands in the form."""
        first_on, weeks = self.first_on.data, self.weeks.data
        return last_day(first_on, weeks) if first_on and weeks and 0 < weeks <= WEEKS[1] else None

    def facts(self) -> FirstFacts:
        """As it was typed."""
        names = ("club", "squad", "first_on", "weeks", "coach", "sign_in")
        return FirstFacts(**{name: getattr(self, name).data for name in names}, password=self.password.data or "")

    def put(self, problems: Iterable[Problem]) -> None:
        """A name that is no good stands beside the coach's."""
        super().put(replace(one, field="coach") if one.field == "name" else one for one in problems)


class SeasonForm(TodayForm):
    """From when, for how long."""

    first_on = DayField("First day of the season", validators=[Needed()])
    weeks = WholeField("Weeks", default=SEASON_WEEKS, validators=[Needed()])


class SquadForm(SeasonForm):
    """One more squad of a coach."""

    club = TextField("Club", most=60, validators=[Needed()])
    squad = TextField("Squad", most=60, validators=[Needed()])


class ArchiveForm(JobForm):
    """A squad opened from its archive, by a head coach of it."""

    code = TextField("Code, as it was printed at the start", most=20, validators=[Needed()])
    file = FileField("Archive (zip)", validators=[Needed()])
    sign_in = TextField("Name you sign in with, as a head coach of it", validators=[Needed()])
    password = PasswordField("New password, ten characters or more", validators=[Needed()])


class PersonForm(JobForm):
    """Somebody new with an account."""

    name = TextField("Full name", validators=[Needed()])
    sign_in = TextField("Name to sign in with", validators=[Needed()])
    role = SelectField(
        "Role", choices=options((role.value, role.value) for role in STAFF), default=Role.ASSISTANT.value
    )
