"""
How many digits of what is computed agree with closed forms and with general-purpose libraries.

.venv/bin/python benchmarks/digits.py
"""

import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import scipy.integrate
import scipy.optimize

sys.path.insert(0, str(Path(__file__).parents[1]))

from upper_rook.core.judge.wave import judge
from upper_rook.core.signal import clipped_sine, tone_fit
from upper_rook.core.signal.trace import Trace

RATE = 48_000.0


def digits(found: float, true: float) -> float:
    off = abs(found / true - 1)
    return 16.0 if off < 1e-16 else float(-np.log10(off))


def integrals() -> Iterator[tuple[str, float]]:
    """The closed forms of a clipped sine against scipy's quadrature."""
    worst = {"fundamental": 16.0, "RMS": 16.0, "mean absolute": 16.0}
    for over in (0.1, 0.5, 1, 3, 6, 12, 20):
        height = 10 ** (over / 20)
        corner = float(np.arcsin(1 / height))

        def quarter(form, height=height, corner=corner) -> float:
            wave = lambda turn: min(height * np.sin(turn), 1.0)  # noqa: E731
            return scipy.integrate.quad(lambda turn: form(turn, wave(turn)), 0, np.pi / 2, points=[corner], epsabs=0)[0]

        pairs = (
            ("fundamental", clipped_sine.fundamental(over), 4 / np.pi * quarter(lambda turn, one: one * np.sin(turn))),
            ("RMS", clipped_sine.rms(over), np.sqrt(2 / np.pi * quarter(lambda _, one: one**2))),
            ("mean absolute", clipped_sine.mean_absolute(over), 2 / np.pi * quarter(lambda _, one: one)),
        )
        for name, found, true in pairs:
            worst[name] = min(worst[name], digits(float(found), float(true)))
    yield from ((f"clipped sine, {name}, against quadrature", value) for name, value in worst.items())


def sine_fit() -> Iterator[tuple[str, float]]:
    """The four-parameter fit of IEEE 1057 against scipy's least squares on the same samples."""
    dice, steps = np.random.default_rng(1), np.arange(3000)
    volts = 2.5 * np.sin(2 * np.pi * 0.01234 * steps + 0.3) + 0.1 + 0.02 * dice.normal(size=steps.size)
    found = judge(Trace(volts, RATE))

    def left(values: np.ndarray) -> np.ndarray:
        return values[0] * np.sin(2 * np.pi * values[1] * steps + values[2]) + values[3] - volts

    begin, scale = [2.4, 0.01235, 0.2, 0.0], [1, 1e-6, 1, 1]
    other = scipy.optimize.least_squares(left, begin, x_scale=scale, xtol=1e-15, ftol=1e-15)
    basis = tone_fit.ToneBasis(float(other.x[1]), steps.size, 1).fit(volts)[0]
    yield "frequency of a noisy sine, against scipy", digits(float(found.report.frequency_hz or 0), RATE * other.x[1])
    yield "amplitude at that frequency, against scipy", digits(float(basis.amplitudes[0]), float(other.x[0]))


def captures() -> Iterator[tuple[str, float]]:
    """What a capture without noise says of a wave whose figures are known exactly."""
    steps = np.arange(4000)
    worst = {"frequency": 16.0, "overdrive": 16.0, "ceiling": 16.0, "THD": 16.0, "RMS of whole cycles": 16.0}
    for over in (0.5, 1.0, 3.0, 6.0, 12.0):
        wave = np.clip(10 ** (over / 20) * np.sin(2 * np.pi * 0.00725 * steps + 0.1), -1, 1)
        report = judge(Trace(wave, RATE)).report
        pairs = (
            ("frequency", report.frequency_hz, 0.00725 * RATE),
            ("overdrive", report.over_db, over),
            ("ceiling", report.clean_v_rms, 1 / np.sqrt(2)),
            ("THD", report.thd_percent, 100 * float(clipped_sine.thd(over))),
            ("RMS of whole cycles", report.v_rms, float(clipped_sine.rms(over))),
        )
        for name, found, true in pairs:
            worst[name] = min(worst[name], digits(float(found or 0), float(true)))
    yield from ((f"captures without noise, {name}", value) for name, value in worst.items())


def main() -> None:
    print("| figure | digits that agree, at worst |")
    print("|---|---|")
    for group in (integrals, sine_fit, captures):
        for name, value in group():
            print(f"| {name} | {value:.1f} |")


main()
