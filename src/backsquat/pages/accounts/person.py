"""The signed-in person as the browser's session keeps it."""

from flask_login import UserMixin

from backsquat.pages.request import reader
from backsquat.storage.models import User
from backsquat.work.accounts.people import person_of


class SignedIn(UserMixin):  # type: ignore[misc]
    """The signed-in person as the session keeps it."""

    def __init__(self, user: User) -> None:
        self.id = user.id
        self.name = user.name


def load_user(text: str) -> SignedIn | None:
    user = person_of(reader(), int(text)) if text.isdecimal() and len(text) < 19 else None
    return SignedIn(user) if user else None
