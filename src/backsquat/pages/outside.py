"""What a request brings is cleaned once, before anything reads it: addresses and forms (`core/words.py`)."""

from functools import cached_property

from flask import Flask, Request
from werkzeug.datastructures import ImmutableMultiDict, MultiDict

from backsquat.core.words import clean_words


class CleanRequest(Request):
    """A request whose texts can be stored and shown as they are."""

    @cached_property
    def args(self) -> MultiDict[str, str]:
        """The values of the address."""
        return _cleaned(super().args)

    def _load_form_data(self) -> None:
        if "form" not in self.__dict__:
            super()._load_form_data()
            self.__dict__["form"] = _cleaned(self.__dict__["form"])


class Application(Flask):
    """Flask with clean requests."""

    request_class = CleanRequest


def _cleaned(sent: MultiDict[str, str]) -> MultiDict[str, str]:
    return ImmutableMultiDict((clean_words(name), clean_words(value)) for name, value in sent.items(multi=True))
