from wtforms import PasswordField

from backsquat.pages.fields import JobForm, Needed, TextField


class SignInForm(JobForm):
    sign_in = TextField("Name", validators=[Needed()])
    password = PasswordField("Password", validators=[Needed()])
