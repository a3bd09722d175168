"""Addresses that somebody who is signed in came from lately: places are kept for them at the door."""

import time
from collections import OrderedDict

LASTS_S = 14 * 3600.0
"""As long as a session that is left alone."""
_MOST = 1000


class KnownAddresses:
    """Kept in memory: after a start everybody is a stranger until a first request of theirs."""

    def __init__(self) -> None:
        """Knows nobody yet."""
        self._seen: OrderedDict[str, float] = OrderedDict()

    def note(self, address: str) -> None:
        """Somebody who is signed in asked from there."""
        self._seen[address] = time.monotonic()
        self._seen.move_to_end(address)
        while len(self._seen) > _MOST:
            self._seen.popitem(last=False)

    def __contains__(self, address: object) -> bool:
        """Whether that was lately."""
        seen = self._seen.get(str(address))
        return seen is not None and time.monotonic() - seen < LASTS_S
