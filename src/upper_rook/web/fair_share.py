"""So many at a time in all, and so many of one person: nobody holds all places."""

from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from typing import NamedTuple

from upper_rook.desk.auth.sessions import Passing
from upper_rook.web.problems import Busy


class Refused(NamedTuple):
    """Words for when there is no place."""

    of_all: str
    of_one: str


class FairShare:
    """Places that are taken and given back."""

    def __init__(self, most: int, most_of_one: int, refused: Refused) -> None:
        self._most, self._most_of_one, self._refused = most, most_of_one, refused
        self._taken: Counter[str] = Counter()

    def check(self, who: Passing | None) -> None:
        """Raises Busy where there is no place; where nobody has to sign in only all places are counted."""
        if self._taken.total() >= self._most:
            raise Busy(self._refused.of_all)
        if who is not None and self._taken[str(who.person.id)] >= self._most_of_one:
            raise Busy(self._refused.of_one)

    @contextmanager
    def taken(self, who: Passing | None) -> Iterator[None]:
        """Holds a place meanwhile. Raises Busy where there is none."""
        self.check(who)
        whose = str(who.person.id) if who else ""
        self._taken[whose] += 1
        try:
            yield
        finally:
            self._taken[whose] -= 1
            if not self._taken[whose]:
                del self._taken[whose]


UPLOADS = FairShare(
    4,
    2,
    Refused("Several files are being received just now.", "Two files of yours are being received just now."),
)
"""Files at a time: the one that is judged and those behind it; more wait on their devices."""
STREAMS = FairShare(
    400,
    40,
    Refused(
        "Too many pages are open on this server: close some.",
        "You have too many pages open on this server: close some.",
    ),
)
"""Open pages that listen."""
