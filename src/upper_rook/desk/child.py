"""A child process that is asked a line and answers a line; started when first needed, and again when it died."""

import os
import selectors
import subprocess
import sys
from collections.abc import Callable
from typing import IO


class Gone(Exception):
    """The child ended before it had answered."""


class TookTooLong(Exception):
    """The child was ended, since it hadn't answered in time."""


class Child:
    """One process of a module of ours; who asks it does so one at a time."""

    def __init__(self, module: str, environment: dict[str, str]) -> None:
        """`environment` is added to that of this process."""
        self._module, self._environment = module, environment
        self._process: subprocess.Popen[bytes] | None = None

    def ask(self, line: bytes, longest_s: float) -> bytes:
        """
        The answer to a line, without its end, within so many seconds.

        Raises Gone and TookTooLong; the next is asked of a new child then.
        """
        process = self._running()
        if process.stdin is None or process.stdout is None:
            raise RuntimeError("the child was started without pipes")
        try:
            process.stdin.write(line + b"\n")
            process.stdin.flush()
        except BrokenPipeError:
            self.end()
            raise Gone("The child had ended.") from None
        if not _readable(process.stdout, longest_s):
            self.end()
            raise TookTooLong(f"The child took longer than {longest_s:g} s.")
        answer = process.stdout.readline()
        if not answer:
            self.end()
            raise Gone("The child ended without an answer.")
        return answer.rstrip(b"\n")

    def kill(self) -> None:
        """Ends it in the middle of what it does; `ask` raises Gone then."""
        process = self._process
        if process is not None:
            process.kill()

    def end(self) -> None:
        """Ends it and lets go of all that it held."""
        if self._process is None:
            return
        self._process.kill()
        self._process.wait()
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                pipe.close()
        self._process = None

    def _running(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None:
            self.end()
            # The words are our own modules' names.
            self._process = subprocess.Popen(  # noqa: S603
                [sys.executable, "-m", self._module],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env=os.environ | self._environment,
            )
        return self._process


def answer_lines(answer: Callable[[bytes], str]) -> None:
    """In the child: answers each line of standard input by a line, until its parent is gone."""
    for line in sys.stdin.buffer:
        sys.stdout.buffer.write(answer(line).encode() + b"\n")
        sys.stdout.buffer.flush()


def _readable(pipe: IO[bytes], seconds: float) -> bool:
    with selectors.DefaultSelector() as selector:
        selector.register(pipe, selectors.EVENT_READ)
        return bool(selector.select(seconds))
