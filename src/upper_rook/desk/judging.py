"""
Judging files in a child process: one at a time, bounded in memory and time, so that no file can hurt who saves.

The child reads a request a line and answers a line, both JSON.
"""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen
from upper_rook.core.judge.examination import Examination
from upper_rook.core.run.readings.kept_captures import CaptureKind, NewCapture
from upper_rook.desk.child import Child, Gone, TookTooLong

LONGEST_S = 120.0
MOST_BYTES = 2_500_000_000
"""Memory of the child."""


class Request(Frozen):
    """A file to be judged."""

    file: Path
    kind: CaptureKind
    new: NewCapture
    top_volume: int


class Reply(Frozen):
    """Verdict, or the sentence why it can't be used, with its field."""

    examination: Examination | None = None
    refusal: str = ""
    field: str | None = None


class Judge:
    """The child and who waits for it."""

    def __init__(self, longest_s: float = LONGEST_S, most_bytes: int = MOST_BYTES) -> None:
        """Bounds of one file: seconds, and bytes of memory."""
        self._longest_s = longest_s
        self._lock = threading.Lock()
        # One thread for the arithmetic: the others belong to who saves.
        limits = {"ROOK_JUDGE_BYTES": str(most_bytes), "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
        self._child = Child("upper_rook.desk.judging_child", limits)
        self._closing = False
        self._counting = threading.Lock()
        self.waiting = 0
        """How many files are being judged or wait for it."""

    def examine(self, request: Request) -> Examination:
        """
        Verdict on a file; one that can't be judged is kept with that word.

        Raises BadInput where it isn't a capture at all.
        """
        with self._queued(), self._lock:
            reply = self._ask(request)
        if reply.refusal:
            raise BadInput(reply.refusal, reply.field)
        return reply.examination or Examination(unjudged="It can’t be analysed.")

    def close(self) -> None:
        """Ends the child, in the middle of a file too: who stops the app doesn't wait for it."""
        self._closing = True
        self._child.kill()
        with self._lock:
            self._child.end()
        self._closing = False

    @contextmanager
    def _queued(self) -> Iterator[None]:
        with self._counting:
            self.waiting += 1
        try:
            yield
        finally:
            with self._counting:
                self.waiting -= 1

    def _ask(self, request: Request) -> Reply:
        # A child that was gone already says nothing about this file: a second one is asked.
        reply = self._try(request) or (None if self._closing else self._try(request))
        return reply or _unjudged("The analysis failed (out of memory or stopped).")

    def _try(self, request: Request) -> Reply | None:
        """The child's reply, or None where it is gone."""
        try:
            return Reply.model_validate_json(self._child.ask(request.model_dump_json().encode(), self._longest_s))
        except Gone:
            return None
        except TookTooLong:
            return _unjudged(f"The analysis took longer than {self._longest_s:g} s.")


def _unjudged(sentence: str) -> Reply:
    return Reply(examination=Examination(unjudged=sentence))


JUDGE = Judge()
"""The one of this process."""
