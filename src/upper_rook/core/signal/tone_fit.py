"""A tone in samples: where it is, its frequency and harmonics, and what else is in there."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy.fft
from numpy.typing import NDArray

Array = NDArray[np.float64]

MOST_HARMONICS = 25
_ANGLE = 2 * np.pi


@dataclass(frozen=True)
class Harmonics:
    """Least-squares fit of a tone, its harmonics and a constant (four-parameter fit of IEEE 1057, with harmonics)."""

    frequency: float
    """Cycles per sample."""
    phasors: NDArray[np.complex128]
    """Of the harmonics 1, 2, … about the middle: the wave is the real part of Σ c_k·exp(i·k·ω·t)."""
    amplitudes: Array
    """Peak volts of the harmonics 1, 2, …"""
    constant: float
    fitted: Array
    """The fit at every sample, volts."""
    noise_v: float
    """RMS of what the fit leaves."""

    def thd(self) -> float:
        """Harmonics over fundamental as a ratio, the noise's share taken off; 0 when that leaves only its scatter."""
        return float(self.power_above_noise(1) ** 0.5 / self.amplitudes[0])

    def power_above_noise(self, first: int = 0) -> float:
        """Sum of squared amplitudes from index `first` on, V², less the noise's share; 0 unless it stands out."""
        floor = 4 * self.noise_v**2 / self.fitted.size
        found = float(np.sum(self.amplitudes[first:] ** 2 - floor))
        # A squared amplitude of pure noise scatters by as much as it is.
        return found if found > 4 * floor * np.sqrt(self.amplitudes.size) else 0.0

    def significant(self) -> list[tuple[int, float]]:
        """(number, ratio to the fundamental) of every harmonic that stands out of the noise, largest first."""
        floor = 4 * self.noise_v**2 / self.fitted.size
        found = [
            (number, float(one / self.amplitudes[0]))
            for number, one in enumerate(self.amplitudes[1:], 2)
            if one**2 > 12 * floor and one > 5e-4 * self.amplitudes[0]
        ]
        return sorted(found, key=lambda row: -row[1])


def coarse_frequency(volts: Array) -> float:
    """Frequency of the strongest line of `volts` in cycles per sample, to a fraction of a bin."""
    count = volts.size
    windowed = (volts - volts.mean()) * _window(count)
    # Few cycles need a fine grid; many have a bin to spare on either side of the line.
    size = scipy.fft.next_fast_len(count * (4 if count <= 4096 else 2), real=True)
    power = np.abs(scipy.fft.rfft(windowed, size))
    # Below one cycle in the whole capture only drift is found.
    power[: max(1, int(0.9 * size / count))] = 0
    return _peak(power) / size


class ToneBasis:
    """
    The harmonics of one tone at `count` samples, to be fitted to several signals.

    About the middle of the capture sines and cosines are orthogonal to each other, and their inner products are sums
    of geometric series.
    """

    def __init__(self, frequency: float, count: int, most: int = MOST_HARMONICS) -> None:
        """`frequency` in cycles per sample; harmonics up to Nyquist, `most`, and what the samples carry."""
        self.frequency = frequency
        number = max(1, min(most, int(0.48 / frequency), count // 8))
        angle = _ANGLE * frequency * (np.arange(count) - (count - 1) / 2)
        turn = np.cos(angle) + 1j * np.sin(angle)
        self._powers = np.empty((number + 1, count), dtype=np.complex128)
        self._powers[0] = 1
        for order in range(1, number + 1):
            np.multiply(self._powers[order - 1], turn, out=self._powers[order])
        orders = np.arange(number + 1)
        self._sums = _cosine_sum(frequency * np.subtract.outer(orders, orders), count)
        self._crossed = _cosine_sum(frequency * np.add.outer(orders, orders), count)

    def fit(self, *signals: Array, most: int = MOST_HARMONICS) -> list[Harmonics]:
        """The least-squares fit of the first `most` harmonics to each signal."""
        number = min(most, self._powers.shape[0] - 1)
        powers, size = self._powers[: number + 1], slice(0, number + 1)
        sums, crossed = self._sums[size, size], self._crossed[size, size]
        projections = powers @ np.stack(signals, axis=1)
        cosines = _solved((sums + crossed) / 2, projections.real)
        sines = _solved((sums - crossed)[1:, 1:] / 2, projections.imag[1:])
        weights = cosines.astype(np.complex128)
        weights[1:] -= 1j * sines
        every = (weights.T @ powers).real
        freedom = max(1, every.shape[1] - 2 * number - 2)
        return [
            Harmonics(
                self.frequency, one[1:], np.abs(one[1:]), float(one[0].real), fitted, _root(volts - fitted, freedom)
            )
            for volts, one, fitted in zip(signals, weights.T, every, strict=True)
        ]


def _solved(square: Array, right: Array) -> Array:
    """The least weights where harmonics can't be told apart: one at half the rate has no sine, two may coincide."""
    try:
        found = np.linalg.solve(square, right)
    except np.linalg.LinAlgError:
        found = np.linalg.lstsq(square, right)[0]
    return np.asarray(found)


def _root(left: Array, freedom: int) -> float:
    return float(np.sqrt(left @ left / freedom))


@lru_cache(maxsize=8)
def _window(count: int) -> Array:
    return np.hanning(count)


def _cosine_sum(frequency: Array, count: int) -> Array:
    """Σ cos(2π·frequency·t) over `count` unit steps about 0: sin(count·x)/sin(x) with x = π·frequency."""
    half = np.pi * np.asarray(frequency, dtype=np.float64)
    bottom = np.sin(half)
    whole = np.abs(bottom) < 1e-9
    return np.where(whole, float(count), np.sin(count * half) / np.where(whole, 1.0, bottom))


@dataclass(frozen=True)
class Interferer:
    """Something periodic besides the tone: hum, whine, switching residue; frequency 0 for slow drift."""

    frequency: float
    """Cycles per sample."""
    amplitude_v: float


def interferers(residual: Array, most: int = 3) -> tuple[tuple[Interferer, ...], Array]:
    """
    The lines that stand out of `residual` (the tone and its harmonics already taken off), and their sum.

    A line counts when noise alone would show one as high less than once in some thousand captures.
    """
    count = residual.size
    steps = np.arange(count) - (count - 1) / 2
    found: list[Interferer] = []
    total = np.zeros(count)
    window = _window(count)
    size = scipy.fft.next_fast_len(count * (2 if count <= 4096 else 1), real=True)
    for _ in range(most):
        spectrum = scipy.fft.rfft((residual - total) * window, size)
        power = spectrum.real**2 + spectrum.imag**2
        floor = float(np.median(power)) / np.log(2)
        place = _peak(power) / size
        if floor <= 0 or power.max() < (np.log(count) + 9) * floor:
            break
        if place * count < 1.2:
            scaled = steps / count
            basis = np.column_stack((np.ones(count), scaled, scaled**2, scaled**3))
            place = 0.0
        else:
            angle = _ANGLE * place * steps
            basis = np.column_stack((np.sin(angle), np.cos(angle)))
        part = basis @ _solve(basis, residual - total)
        total = total + part
        found.append(Interferer(place, float(np.sqrt(2) * np.std(part))))
    return tuple(found), total


def slow_drift(volts: Array, frequency: float) -> Array:
    """
    A first guess of what moves under the tone: a cubic through its mean over one period, which a tone leaves at rest.

    Zero unless the mean moves by more than a hundredth of the wave's height.
    """
    period = max(1, round(1 / frequency))
    sums = np.concatenate(([0.0], np.cumsum(volts)))
    means = (sums[period:] - sums[:-period]) / period
    height = float(volts.max() - volts.min())
    # A period that isn't a whole number of samples leaves a ripple of its own.
    if float(means.max() - means.min()) < (0.01 + 2 / period) * height:
        return np.zeros(volts.size)
    scaled = (np.arange(volts.size) - (volts.size - 1) / 2) / volts.size
    places = scaled[: means.size] + (period - 1) / (2 * volts.size)
    cubic = np.polynomial.polynomial.polyfit(places, means - means.mean(), 3)
    return np.asarray(np.polynomial.polynomial.polyval(scaled, cubic))


def steady_part(volts: Array, frequency: float) -> tuple[slice, bool]:
    """
    The longest stretch in which the tone plays, and whether that leaves a gap out.

    A stretch ends where a cycle's RMS falls below 0.7 of what is usual in the loud part.
    """
    period = max(1, round(1 / frequency))
    blocks = volts.size // period
    if blocks < 4:
        return slice(0, volts.size), False
    ac = volts[: blocks * period].reshape(blocks, period)
    level = ac.std(axis=1)
    playing = np.concatenate(([False], level > 0.7 * np.quantile(level, 0.8), [False]))
    edges = np.flatnonzero(np.diff(playing.astype(np.int8)))
    starts, ends = edges[::2], edges[1::2]
    best = int(np.argmax(ends - starts))
    first, last = int(starts[best]), int(ends[best])
    if first == 0 and last == blocks:
        return slice(0, volts.size), False
    # The cycle beside a gap may itself be broken off.
    first, last = first + (first > 0), last - (last < blocks)
    return slice(first * period, volts.size if last == blocks else last * period), True


def code_step(volts: Array) -> float:
    """Volts between neighbouring codes of a coarse converter, or 0 when too many values differ to tell."""
    some = volts[:4096]
    values = np.unique(some)
    # Equal codes that were computed in different ways differ by rounding.
    values = values[np.append(True, np.diff(values) > 1e-9 * (values[-1] - values[0]))]
    if values.size < 3 or values.size > 0.6 * some.size:
        return 0.0
    gaps = np.diff(values)
    closest = float(np.min(gaps[gaps > 0.3 * np.median(gaps)]))
    # A wave that repeats itself exactly visits few codes, and maybe no two neighbours.
    for codes in range(1, 7):
        step = _evened(values, closest / codes)
        places = (values - values[0]) / step
        if float(np.mean(np.abs(places - np.round(places)) < 0.2)) > 0.95:
            return step
    return 0.0


def _evened(values: Array, step: float) -> float:
    """A step that rounding in print has made uneven, from ever longer spans of the values."""
    count = 4
    while True:
        span = values[:count] - values[0]
        places = np.round(span / step)
        whole = float(places @ places)
        if whole > 0:
            step = float(places @ span) / whole
        if count >= values.size:
            return step
        count = min(values.size, 2 * count)


def _solve(basis: Array, volts: Array) -> Array:
    """Least squares by normal equations; a ridge of rounding size keeps near-equal columns apart."""
    square = basis.T @ basis
    square[np.diag_indices_from(square)] *= 1 + 1e-12
    return np.asarray(np.linalg.solve(square, basis.T @ volts))


def _peak(power: Array) -> float:
    """Place of the highest bin, refined by a parabola through its neighbours."""
    top = int(np.argmax(power))
    if not 0 < top < power.size - 1:
        return float(top)
    left, middle, right = np.log(np.maximum(power[top - 1 : top + 2], 1e-300))
    bend = left - 2 * middle + right
    return top + (0.5 * (left - right) / bend if bend < 0 else 0.0)
