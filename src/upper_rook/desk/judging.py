"""
Judging files in a child process: one at a time, bounded in memory and time, so that no file can hurt who saves.

The child reads a request a line and answers a line, both JSON; it is started when first needed and again when it died.
"""

import os
import selectors
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen
from upper_rook.core.judge.examination import Examination
from upper_rook.core.run.readings.kept_captures import CaptureKind, NewCapture

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
        self._longest_s, self._most_bytes = longest_s, most_bytes
        self._lock = threading.Lock()
        self._child: subprocess.Popen[bytes] | None = None
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
        child = self._child
        if child is not None:
            child.kill()
        with self._lock:
            self._end()
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
        child = self._running()
        if child.stdin is None or child.stdout is None:
            raise RuntimeError("the judge was started without pipes")
        try:
            child.stdin.write(request.model_dump_json().encode() + b"\n")
            child.stdin.flush()
        except BrokenPipeError:
            self._end()
            return None
        if not _readable(child.stdout, self._longest_s):
            self._end()
            return _unjudged(f"The analysis took longer than {self._longest_s:g} s.")
        line = child.stdout.readline()
        if not line:
            self._end()
            return None
        return Reply.model_validate_json(line)

    def _running(self) -> subprocess.Popen[bytes]:
        if self._child is None or self._child.poll() is not None:
            self._end()
            # One thread for the arithmetic: the others belong to who saves.
            limits = {"ROOK_JUDGE_BYTES": str(self._most_bytes), "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
            self._child = subprocess.Popen(
                [sys.executable, "-m", "upper_rook.desk.judging_child"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env=os.environ | limits,
            )
        return self._child

    def _end(self) -> None:
        if self._child is None:
            return
        self._child.kill()
        self._child.wait()
        for pipe in (self._child.stdin, self._child.stdout):
            if pipe is not None:
                pipe.close()
        self._child = None


def _readable(pipe: IO[bytes], seconds: float) -> bool:
    with selectors.DefaultSelector() as selector:
        selector.register(pipe, selectors.EVENT_READ)
        return bool(selector.select(seconds))


def _unjudged(sentence: str) -> Reply:
    return Reply(examination=Examination(unjudged=sentence))


JUDGE = Judge()
"""The one of this process."""
