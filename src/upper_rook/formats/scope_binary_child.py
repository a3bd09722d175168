"""
The process that parses an oscilloscope's own binary file: python -m … FILE VOLTS.

It writes the volts of all channels one after the other (float64, little-endian) to VOLTS, and what they are as JSON.
"""

import json
import resource
import sys
from collections.abc import Iterator
from contextlib import redirect_stdout
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from upper_rook.formats.scope_binary import NO_READER, SECONDS, UNREADABLE

Channel = tuple[str, float, NDArray[np.float64]]
"""Name, samples a second, volts."""
_MOST_MEMORY = 3_000_000_000
_TDMS = b"TDSm"
_VOLTS = {"", "v", "volt", "volts"}


def channels(file: Path) -> Iterator[Channel]:
    """The channels in volts. Raises ImportError where the package isn't installed."""
    with file.open("rb") as head:
        kind = head.read(4)
    yield from _of_tdms(file) if kind == _TDMS else _of_scope(file)


def _of_tdms(file: Path) -> Iterator[Channel]:
    from nptdms import TdmsFile

    for group in TdmsFile.read(file).groups():
        for channel in group.channels():
            interval = channel.properties.get("wf_increment")
            unit = str(channel.properties.get("unit_string", "")).strip().lower()
            if interval and unit in _VOLTS and len(channel):
                yield channel.name, 1 / float(interval), np.asarray(channel[:], dtype="<f8")


def _of_scope(file: Path) -> Iterator[Channel]:
    from RigolWFM import Wfm

    for channel in Wfm.from_file(str(file)).channels:
        if not channel.enabled or channel.volts is None or channel.unit.name.lower() not in _VOLTS:
            continue
        yield channel.name, 1 / float(channel.seconds_per_point), np.asarray(channel.volts, dtype="<f8")


def main() -> int:
    """The process itself; returns how it ends."""
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_MEMORY, _MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    file, volts = (Path(text) for text in sys.argv[1:3])
    try:
        # What a parser prints is none of the answer.
        with redirect_stdout(sys.stderr):
            found = list(channels(file))
    except ImportError:
        return NO_READER
    except Exception:
        return UNREADABLE
    with volts.open("wb") as out:
        for _, _, samples in found:
            out.write(samples.tobytes())
    rows = [{"name": name, "rate_hz": rate, "count": int(samples.size)} for name, rate, samples in found]
    sys.stdout.write(json.dumps({"channels": rows}))
    return 0


if __name__ == "__main__":
    sys.exit(main())
