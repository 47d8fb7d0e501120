"""Errors of the job, made of facts; one handler in the application turns them into words.

BackSquatError
├── NotThere         what was asked for does not exist, or is not this squad's
├── NotAllowed       this person may not do this
├── ImpossibleInput  a list of problems, each with its field
├── Doubtful         possible and hardly likely: questions, kept once somebody has said yes to each
└── Refused          possible input, but a rule of the job forbids it (locked, not ready, not today)
"""

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Problem:
    """What is wrong with one field; the code is turned into a sentence by `phrases.py`."""

    field: str
    code: str
    facts: Mapping[str, str | float | int] = dataclasses.field(default_factory=dict)


class BackSquatError(Exception):
    """Anything the job itself refuses."""


class NotThere(BackSquatError):
    """Something asked for does not exist for this squad; `what` names the kind of thing."""

    def __init__(self, what: str) -> None:
        super().__init__(what)
        self.what = what


class NotAllowed(BackSquatError):
    """The person may not do this; `what` is `sign_in`, `role` or `no_squad`."""

    def __init__(self, what: str) -> None:
        super().__init__(what)
        self.what = what


class ImpossibleInput(BackSquatError):
    """Input that cannot be right: every problem found, at once."""

    def __init__(self, *problems: Problem) -> None:
        super().__init__(", ".join(f"{problem.field}: {problem.code}" for problem in problems))
        self.problems = problems


class Doubtful(BackSquatError):
    """Input that may well be right: what is asked before it counts. Sent again with the codes confirmed, it is kept."""

    def __init__(self, *questions: Problem) -> None:
        super().__init__(", ".join(question.code for question in questions))
        self.questions = questions


class Refused(BackSquatError):
    """The code says which rule; the facts say with what."""

    def __init__(self, code: str, **facts: str | float | int) -> None:
        super().__init__(code)
        self.code = code
        self.facts = facts
