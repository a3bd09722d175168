"""
What real instruments export: files that packages on the index ship in their sources, fetched here and never kept.

Each table is read by the app and, apart from it, by the plain csv module with the interval that its own header states.

.venv/bin/python benchmarks/exports.py
"""

import csv
import io
import re
import subprocess
import sys
import tarfile
import tempfile
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from upper_rook.core.common.errors import BadInput
from upper_rook.formats.capture_reader import read_capture

SOURCES = ("rigolwfm==1.6.0", "soundfile==0.14.0", "npTDMS==1.13.0")
_STATED = re.compile(r"increment|sampl\w* (?:freq|interval)", re.IGNORECASE)


@dataclass
class Plain:
    """A file as read without the app: what its columns span, and its interval where it has one."""

    spans: list[tuple[float, float]]
    interval_s: float | None


def fetched(folder: Path) -> None:
    for source in SOURCES:
        command = [
            sys.executable,
            "-m",
            "pip",
            "download",
            "-q",
            "--no-deps",
            "--no-binary",
            ":all:",
            source,
            "-d",
            folder,
        ]
        subprocess.run(command, check=True)
    for archive in folder.glob("*.tar.gz"):
        with tarfile.open(archive) as packed:
            packed.extractall(folder / archive.stem, filter="data")


def _numbers(row: list[str]) -> list[float] | None:
    cells = [cell.strip() for cell in row]
    while cells and not cells[-1]:
        cells.pop()
    try:
        return [float(cell) for cell in cells] or None
    except ValueError:
        return None


def table(file: Path) -> Plain:
    rows = list(csv.reader(io.StringIO(file.read_text("latin-1"))))
    first = next(place for place in range(len(rows)) if all(_numbers(row) for row in rows[place : place + 3]))
    every = [_numbers(row) for row in rows[first:]]
    values = np.array([row for row in every if row and len(row) == len(every[0] or [])])
    stated = None
    for place, row in enumerate(rows[:first]):
        for column, cell in enumerate(row):
            if not _STATED.search(cell):
                continue
            below = rows[place + 1][column:] if "=" not in cell else row[column + 1 :]
            number = next((float(text) for text in below if re.fullmatch(r"\s*[-+0-9.eE]+\s*", text)), None)
            if number:
                stated = 1 / number if "freq" in cell.lower() else number
    has_time = values.shape[1] > 1 and bool(np.all(np.diff(values[:, 0]) >= 0)) and values[0, 0] != values[-1, 0]
    span = float(values[-1, 0] - values[0, 0]) / (len(values) - 1) if has_time else None
    volts = values[:, 1:] if has_time else values
    return Plain([(float(one.min()), float(one.max())) for one in volts.T], stated or span)


def sound(file: Path) -> Plain:
    frames, rate = soundfile.read(file, always_2d=True)
    return Plain([(float(one.min()), float(one.max())) for one in frames.T], 1 / rate)


def files(folder: Path) -> Iterator[tuple[Path, Plain | None]]:
    for file in sorted(folder.rglob("*")):
        if file.suffix.lower() == ".csv":
            yield file, table(file)
        elif file.suffix.lower() == ".wav":
            yield file, sound(file)
        elif file.suffix.lower() in {".tdms", ".bin", ".trc", ".000"}:
            yield file, None


def verdict(file: Path, plain: Plain | None) -> str:
    """Right, refused with a reason, or what is wrong; a binary file that is read counts as read."""
    try:
        with file.open("rb") as opened:
            traces = read_capture(opened)
    except BadInput as refused:
        return f"refused: {refused.sentence}"
    if plain is None:
        return "read"
    if len(traces) != len(plain.spans):
        return f"wrong: {len(traces)} of {len(plain.spans)} channels"
    if plain.interval_s is None or abs(1 / traces[0].rate_hz / plain.interval_s - 1) > 2e-3:
        return f"wrong: an interval of {1 / traces[0].rate_hz:g} s, not {plain.interval_s}"
    for trace, span in zip(traces, plain.spans, strict=True):
        if not np.allclose((trace.volts.min(), trace.volts.max()), span, rtol=1e-5, atol=1e-6):
            return f"wrong: volts from {trace.volts.min():g} to {trace.volts.max():g}, not {span}"
    return "right"


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        fetched(folder)
        found = [(file, plain, verdict(file, plain)) for file, plain in files(folder)]
    for kind, own in (("tables and recordings", True), ("binary files", False)):
        told = [(file, text) for file, plain, text in found if (plain is not None) is own]
        good = sum(text in {"right", "read"} for _, text in told)
        refused = sum(text.startswith("refused") for _, text in told)
        print(f"{kind}: {len(told)}; right {good}, refused with a reason {refused}, wrong {len(told) - good - refused}")
        for reason, count in Counter(text for _, text in told if text not in {"right", "read"}).most_common():
            print(f"  {count} {reason}")


main()
