"""The audit log in words."""

from collections.abc import Mapping
from typing import Any

WHAT = {
    "account_closed": "account closed",
    "account_made": "account made",
    "addresses_kept": "addresses kept",
    "calendar_ended": "a calendar address taken back",
    "calendar_given": "a calendar address made",
    "cleared": "a stop cleared",
    "consent_given": "consent recorded",
    "consent_withdrawn": "consent withdrawn",
    "decided_otherwise": "a proposal decided differently",
    "erased": "a person's data erased",
    "exported": "everything about one person exported",
    "first_squad": "the first squad made in the browser",
    "readiness_cleared": "cleared for the bar with a reason",
    "gate_overridden": "cleared for the bar with a reason",  # as lines before 2026-12 say it: the log is never rewritten
    "health_read": "health notes read",
    "audit_read": "audit log exported",
    "override_ended": "no longer cleared with a reason",
    "pass_ended": "a link or code of an athlete taken back",
    "pass_given": "a link or code for an athlete's own phone",
    "messages_taken_back": "messages taken back",
    "password_changed": "password changed",
    "password_reset": "password set by a link",
    "redone": "a change done again",
    "report_changed": "a report of pain corrected or taken back; the stop stays",
    "reset_link": "link for a new password made",
    "role_changed": "role changed",
    "second_factor_off": "second factor taken off",
    "second_factor_on": "second factor set up",
    "sent_card": "cards sent",
    "sent_stops": "open stops sent",
    "sent_wall": "a wall sheet sent",
    "sessions_ended": "signed out everywhere",
    "sign_in": "signed in",
    "sign_in_failed": "sign-in failed",
    "sign_in_slowed": "sign-in slowed down after many tries",
    "proof_failed": "a wrong proof typed in an account",
    "proof_slowed": "proofs in an account slowed down after many tries",
    "sign_out": "signed out",
    "squad_handed_out": "the whole squad exported as an archive",
    "squad_made": "one more squad made",
    "squad_put_back": "the squad opened from an archive",
    "pictures_seen": "somebody's pictures looked at",
    "still_on_card": "a picture put on the own card",
    "still_off_card": "a picture taken off the own card",
    "still_added": "a picture added",
    "still_erased": "a picture erased",
    "stopped": "stopped after pain",
    "undone": "a change undone",
}


def audit_words(what: str) -> str:
    """What a line says was done."""
    return WHAT.get(what, what)


def who_words(who: str, names: Mapping[int, str]) -> str:
    """Who did it: an athlete by name as long as there is one."""
    number = who.removeprefix("athlete ")
    return names.get(int(number), who) if who.startswith("athlete ") and number.isdecimal() else who


def about_words(about: Mapping[str, Any], names: Mapping[int, str]) -> str:
    """Whom and what it concerned, in the words of the record: athletes by name, the rest by number."""
    said = []
    for key, value in about.items():
        if key == "athlete":
            said.append(names.get(int(value), f"athlete {value}"))
        elif value not in ("", None, False):
            said.append(f"{key.replace('_', ' ')} {value}" if value is not True else key.replace("_", " "))
    return ", ".join(said)
