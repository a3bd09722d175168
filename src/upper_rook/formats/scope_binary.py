"""
Oscilloscopes' own binary files, through packages that are no part of the usual set-up.

They are parsed in a process of their own with little memory and time: such a file is somebody's, and those parsers
trust what they read.
"""

import json
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import BinaryIO

import numpy as np

from upper_rook.core.common.errors import BadInput
from upper_rook.core.signal.trace import Trace

INSTEAD = "export it from the scope, or from its program, as CSV or WAV"
_MISSING = (
    f"This is not text. If it is an oscilloscope’s own binary file, {INSTEAD}; or install the readers for such files "
    "once with “./rook setup scopes”."
)
_UNREADABLE = f"This is not text, nor a binary file that can be read: {INSTEAD}."
_NO_VOLTS = f"This binary file has no channel in volts with a sample interval: {INSTEAD}."
SECONDS = 90
_MOST_CHANNELS = 64
NO_READER, UNREADABLE = 3, 4
"""How the process ends where the package is missing, and where it can't read the file."""


def is_binary(head: bytes) -> bool:
    """Whether a file is no text at all: zero bytes in it, and no mark of UTF-16."""
    return b"\0" in head and head[:2] not in (b"\xff\xfe", b"\xfe\xff")


def read_scope_binary(file: BinaryIO) -> list[Trace]:
    """
    The channels in volts of a binary `file`.

    Raises:
        BadInput: with what to export instead.
    """
    with tempfile.TemporaryDirectory(prefix="rook-scope-") as folder:
        # Without a suffix the parsers go by what is in it, not by what it is called.
        given, found = Path(folder) / "capture", Path(folder) / "volts"
        with given.open("wb") as copy:
            shutil.copyfileobj(file, copy)
        told = _parsed(given, found)
        return _traces(told, found)


def _parsed(given: Path, found: Path) -> bytes:
    """Answer of the parsing process about the file; the volts are in `found`."""
    command = [sys.executable, "-I", "-m", "upper_rook.formats.scope_binary_child", str(given), str(found)]
    own = str(given.parent)
    environment = {"PATH": "/usr/bin:/bin", "HOME": own, "MPLBACKEND": "Agg", "MPLCONFIGDIR": own}
    try:
        ended = subprocess.run(  # noqa: S603 - the interpreter itself, on a file whose name is ours
            command,
            capture_output=True,
            timeout=SECONDS,
            check=False,
            env=environment,
            cwd=given.parent,
        )
    except subprocess.TimeoutExpired:
        raise BadInput(_UNREADABLE) from None
    if ended.returncode == NO_READER:
        raise BadInput(_MISSING)
    if ended.returncode != 0:
        raise BadInput(_UNREADABLE)
    return ended.stdout


def _traces(told: bytes, found: Path) -> list[Trace]:
    """Nothing that the process says is taken on trust."""
    try:
        rows = json.loads(told)["channels"]
        volts = np.fromfile(found, dtype="<f8")
        ends = np.cumsum([int(row["count"]) for row in rows])
        traces = [
            Trace(volts[end - int(row["count"]) : end], float(row["rate_hz"]), str(row["name"])[:40])
            for row, end in zip(rows, ends, strict=True)
        ]
    except (ValueError, KeyError, TypeError, OSError):
        raise BadInput(_UNREADABLE) from None
    if not traces:
        raise BadInput(_NO_VOLTS)
    if (
        len(traces) > _MOST_CHANNELS
        or any(trace.volts.size == 0 or not 0 < trace.rate_hz < np.inf for trace in traces)
        or ends[-1] != volts.size
    ):
        raise BadInput(_UNREADABLE)
    return traces
