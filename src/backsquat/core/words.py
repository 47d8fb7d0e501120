"""Text from outside: the one place where what somebody typed, sent or put in a file becomes ours.

One way of writing each sign (NFC), no half of a sign, none that controls a machine instead of being read. Numbers and days
have theirs in `numbers.py`.
"""

import unicodedata
from typing import Any

KEPT = "\n\t"  # of the signs that control: lines and columns
NOT_READ = frozenset({"Cc", "Cs", "Cn"})  # control, half of a pair, no sign at all
DIRECTIONS = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")  # make a line read other than it is


def clean_words(text: str) -> str:
    """The text as it is stored and shown; what is plain already comes back as it is."""
    if text.isascii() and text.isprintable():
        return text
    lines = text.replace("\r\n", "\n").replace("\r", "\n")
    kept = (sign for sign in lines if sign in KEPT or _read(sign))
    return unicodedata.normalize("NFC", "".join(kept))


def _read(sign: str) -> bool:
    return sign not in DIRECTIONS and unicodedata.category(sign) not in NOT_READ


def clean_plain(found: Any) -> Any:
    """Plain data with every text in it cleaned, names of fields too."""
    if isinstance(found, str):
        return clean_words(found)
    if isinstance(found, list):
        return [clean_plain(one) for one in found]
    if isinstance(found, dict):
        return {clean_plain(name): clean_plain(one) for name, one in found.items()}
    return found
