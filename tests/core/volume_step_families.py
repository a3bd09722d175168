"""Volume steps of many kinds, made from waves in the time domain: nothing here is shared with the judge."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

Array = np.ndarray
_COUNT = 4096
_SINE = np.sin(2 * np.pi * (np.arange(_COUNT) + 0.5) / _COUNT)
_CLEAN_THD = 0.01
KINDS = (
    *("even", "uneven", "rough", "half_decibels", "wide", "skipped"),
    *("power", "linear", "falls", "sags", "holds", "knee", "average", "wrong_digit"),
)


class Made(NamedTuple):
    """Numbers, what a meter shows at each, and the truth."""

    numbers: Array
    volts: Array
    clean: int
    """The highest number with less than 1 % distortion."""
    clean_v: float


def _clipped(volts: float, limit: float) -> Array:
    return np.clip(volts * np.sqrt(2) * _SINE, -limit * np.sqrt(2), limit * np.sqrt(2))


def _sagging(share: float) -> Callable[[float, float], Array]:
    """The limit falls by a share of the drive in dB: a supply that gives way."""
    return lambda volts, limit: _clipped(volts, limit * 10 ** (-max(0.0, 20 * np.log10(volts / limit)) * share / 20))


def _rounded(sharpness: float) -> Callable[[float, float], Array]:
    def wave(volts: float, limit: float) -> Array:
        return volts * np.sqrt(2) * _SINE / (1 + np.abs(volts * _SINE / (1.1 * limit)) ** sharpness) ** (1 / sharpness)

    return wave


def _thd(wave: Array) -> float:
    lines = np.abs(np.fft.rfft(wave))
    return float(np.sqrt(np.sum(lines[2:40] ** 2)) / lines[1])


def _rms(wave: Array) -> float:
    return float(np.sqrt(np.mean(wave**2)))


def _average_responding(wave: Array) -> float:
    """A rectified mean, scaled to be right for a sine."""
    return float(np.mean(np.abs(wave)) * np.pi / 2 / np.sqrt(2))


def made(kind: str, seed: int) -> Made:
    """Volume steps of a kind by seed, as an installer types them: four figures."""
    dice = np.random.default_rng([7, seed, KINDS.index(kind)])
    limit, clean = float(dice.uniform(1.5, 5)), int(dice.integers(20, 33))
    step_db, first = float(dice.uniform(0.9, 1.8)), clean - int(dice.integers(9, 13))
    above, part = int(dice.integers(2, 6)), float(dice.uniform(0.15, 0.85))
    uneven_db, noise = {"uneven": (0.12, 0.004), "rough": (0.2, 0.008)}.get(kind, (0.05, 0.003))
    wave: Callable[[float, float], Array] = _clipped
    power = {"power": float(dice.uniform(1.2, 3)), "linear": 1.0}.get(kind)
    if kind in ("power", "linear", "half_decibels"):
        above = int(dice.integers(5, 9))
    step_db = {"half_decibels": 0.5, "wide": float(dice.uniform(2.2, 3.0))}.get(kind, step_db)
    if kind in ("falls", "sags"):
        wave = _sagging(float(dice.uniform(*{"falls": (0.15, 0.6), "sags": (0.02, 0.12)}[kind])))
    elif kind == "knee":
        wave = _rounded(float(dice.uniform(8, 14)))
    elif kind == "holds":
        wave = lambda volts, limit: min(volts, limit) * np.sqrt(2) * _SINE  # noqa: E731

    def gain(number: float) -> float:
        if power is not None:
            return limit * float(number / (clean + part)) ** power
        return limit * float(10 ** ((number - clean - part) * step_db / 20))

    numbers = np.arange(max(4, first), clean + above + 1)
    if kind == "skipped":
        numbers = numbers[(np.arange(numbers.size) % 2 == 0) | (numbers >= clean - 1)]
    meter = _average_responding if kind == "average" else _rms
    shown = [
        meter(wave(gain(number) * 10 ** (dice.normal() * uneven_db / 20), limit)) * (1 + dice.normal() * noise)
        for number in numbers
    ]
    volts = np.array([max(0.001, float(f"{value:.4g}")) for value in shown])
    if kind == "wrong_digit":
        place = int(dice.integers(1, numbers.size - 1))
        digits = list(f"{volts[place]:.2f}")
        at = int(dice.choice([index for index, digit in enumerate(digits) if digit != "." and index < 3]))
        digits[at] = str((int(digits[at]) + int(dice.integers(2, 7))) % 10)
        volts[place] = max(0.01, float("".join(digits)))
    if kind != "holds":
        clean = max(
            number
            for number in range(int(numbers[0]), int(numbers[-1]) + 1)
            if _thd(wave(gain(number), limit)) < _CLEAN_THD
        )
    return Made(numbers, volts, clean, limit)
