"""Commands of the app as processes of their own, forked from one that has loaded it: a start takes no seconds."""

import multiprocessing
import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Mapping, Sequence
from multiprocessing.process import BaseProcess
from pathlib import Path

from tests import quick_hashes

_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(["tests.forked", "upper_rook.cli", "upper_rook.web.server"])


def _command(words: Sequence[str], environment: dict[str, str], out: str, err: str) -> None:
    os.environ.clear()
    os.environ.update(environment)
    for number, path in ((1, out), (2, err)):
        os.dup2(os.open(path, os.O_WRONLY | os.O_APPEND), number)
    sys.argv = ["upper-rook", *words]
    from upper_rook.cli import main

    quick_hashes.use()
    main()


class Forked:
    """`upper-rook` with some words, running."""

    def __init__(self, words: Sequence[str | Path], environment: Mapping[str, str]) -> None:
        with tempfile.NamedTemporaryFile(delete=False) as out, tempfile.NamedTemporaryFile(delete=False) as err:
            self._out, self._err = Path(out.name), Path(err.name)
        arguments = ([str(word) for word in words], dict(environment), out.name, err.name)
        self._process: BaseProcess = _CONTEXT.Process(target=_command, args=arguments)
        self._process.start()

    @property
    def ended(self) -> int | None:
        """Its exit code, None while it runs."""
        return self._process.exitcode

    def printed(self, until: str) -> str:
        """Everything it printed once `until` is among it."""
        for _ in range(600):
            told = self._out.read_text("utf-8") + self._err.read_text("utf-8")
            if until in told:
                return told
            assert self.ended is None, told
            time.sleep(0.05)
        raise AssertionError(f"“{until}” was never printed: {told}")

    def wait(self, seconds: float = 60) -> subprocess.CompletedProcess[str]:
        """Its end, with what it printed."""
        self._process.join(seconds)
        assert self.ended is not None, "it didn't end"
        told = self._out.read_text("utf-8"), self._err.read_text("utf-8")
        for file in (self._out, self._err):
            file.unlink()
        return subprocess.CompletedProcess([], self.ended, *told)

    def end(self, how: signal.Signals = signal.SIGTERM) -> None:
        """Sends it a signal and waits until it is gone."""
        assert self._process.pid is not None
        os.kill(self._process.pid, how)
        self.wait(20)


def run(*words: str | Path, **environment: str) -> subprocess.CompletedProcess[str]:
    """A command that ends."""
    return Forked(words, os.environ | environment).wait()
