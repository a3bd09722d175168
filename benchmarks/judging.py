"""
What judging costs: one capture, a long one, a minute's sweep beside one transform of it, a scope export's reading.

./rook bench
"""

import sys
import tempfile
from pathlib import Path

import numpy as np
import scipy.fft

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.timing import milliseconds
from tests.core.waves import clipped, digitised, trace

from upper_rook.core.judge.sweep import judge_sweep
from upper_rook.core.judge.volume_steps import judge_volume_steps
from upper_rook.core.judge.volume_steps_report import VolumeReading
from upper_rook.core.judge.wave import judge
from upper_rook.core.signal.trace import Trace
from upper_rook.formats.capture_reader import read_capture

RATE = 48_000


def sweep(seconds: int = 60) -> np.ndarray:
    times = np.arange(seconds * RATE) / RATE
    growth = np.log(1000) / seconds
    wave = np.sin(2 * np.pi * 20 / growth * np.expm1(growth * times))
    # Half of it clips, which costs more than a clean one.
    wave[: wave.size // 2] = np.clip(1.1 * wave[: wave.size // 2], -1, 1)
    return wave + 3e-4 * np.random.default_rng(1).normal(size=wave.size)


def main() -> None:
    for count in (1000, 20_000):
        for over in (-1.0, 1.0):
            capture = trace(digitised(clipped(over, count=count, cycles=9.3)[0]))
            taken = milliseconds(lambda one=capture: judge(one))
            print(f"{count:,} samples, {'clipped' if over > 0 else 'clean'}: {taken:.1f} ms")
    recorded = sweep()
    judged = milliseconds(lambda: judge_sweep(Trace(recorded, RATE)), 5)
    transform = milliseconds(lambda: scipy.fft.rfft(recorded), 5)
    print(f"60 s sweep at 48 kHz: {judged:.0f} ms, {judged / transform:.1f} × one rfft of it ({transform:.0f} ms)")
    volume_readings = [VolumeReading(volume=number, voltage_v=1.12**number / 10) for number in range(20)]
    print(f"volume steps of 20 numbers: {milliseconds(lambda: judge_volume_steps(volume_readings)):.0f} ms")
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "long.csv"
        rows = ("\n".join(f"{n / 1e6:.9f},{v:.6f}" for n, v in enumerate(clipped(1.0, count=100_000)[0]))).split("\n")
        file.write_text("Time (s),CH1 (V)\n" + "\n".join(_many(rows, 2_300_000)) + "\n", "ascii")
        size = file.stat().st_size / 1e6
        with file.open("rb") as stream:
            taken = milliseconds(lambda: (stream.seek(0), read_capture(stream)), 3)
    print(f"a scope export of {size:.0f} MB: {size / taken * 1000:.0f} MB/s")


def _many(rows: list[str], count: int) -> list[str]:
    """The same volts again and again, with times that go on."""
    volts = [row.split(",")[1] for row in rows]
    return [f"{n / 1e6:.9f},{volts[n % len(volts)]}" for n in range(count)]


main()
