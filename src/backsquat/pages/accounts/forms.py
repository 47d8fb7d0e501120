"""Signing in, passwords and accounts."""

from wtforms import PasswordField, SelectField

from backsquat.core.roles import STAFF, Role
from backsquat.pages.fields import JobForm, Needed, TextField, options


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


class PersonForm(JobForm):
    """Somebody new with an account."""

    name = TextField("Full name", validators=[Needed()])
    sign_in = TextField("Name to sign in with", validators=[Needed()])
    role = SelectField(
        "Role", choices=options((role.value, role.value) for role in STAFF), default=Role.ASSISTANT.value
    )
