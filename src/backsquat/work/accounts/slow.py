"""Slowing down who guesses passwords, without shutting out whose account it is.

Failures count for the account and for the address. A browser that was signed in to the account before counts
for itself alone, so that somebody who guesses from elsewhere cannot keep the rightful one out.
"""

from pathlib import Path

from limits import RateLimitItem, parse
from limits.strategies import FixedWindowRateLimiter

from backsquat.storage.failures import Failures

OF_ACCOUNT = parse("10 per 15 minutes")
OF_ADDRESS = parse("40 per 15 minutes")
OF_BROWSER = parse("10 per 15 minutes")
Key = tuple[RateLimitItem, str, str]


class Slow:
    """The failures of the last minutes, of every process that serves the same data."""

    def __init__(self, folder: Path) -> None:
        self._storage = Failures(folder)
        self._limiter = FixedWindowRateLimiter(self._storage)

    def _keys(self, address: str, account: str, browser: str) -> list[Key]:
        if browser:
            return [(OF_BROWSER, "browser", f"{account}/{browser}")]
        return [(OF_ACCOUNT, "account", account), (OF_ADDRESS, "address", address)]

    def may_try(self, address: str, account: str, browser: str = "") -> bool:
        """Whether a password is looked at; `browser` names one that was signed in to this account before."""
        return all(self._limiter.test(item, *key) for item, *key in self._keys(address, account, browser))

    def failed(self, address: str, account: str, browser: str = "") -> bool:
        """Count a failure; True where it was the last that is looked at for now."""
        counted = [self._limiter.hit(item, *key) for item, *key in self._keys(address, account, browser)]
        return not all(counted) or not self.may_try(address, account, browser)

    def forget(self) -> None:
        """Begin again."""
        self._storage.reset()
