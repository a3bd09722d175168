"""A tone in samples: where it is, its frequency and harmonics, and what else is in there."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy
from numpy.typing import NDArray

Array = NDArray[np.float64]

MOST_HARMONICS = 25
_ALIKE, _MOST_SHARED = 0.1, 25.0
_APART_BINS = 0.7
_REFINED, _STILL_BINS = 4, 0.01
_SLOWEST_BINS, _SLOW_BINS = 0.8, 1.5
"""Cycles in the whole capture of the slowest line, and those below which it may as well be a drift."""
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
    independent: float
    """How many samples' worth of noise that is: neighbours share theirs where points were drawn between samples."""

    @property
    def noise_power(self) -> float:
        """Squared amplitude that noise alone adds to each harmonic, V²."""
        return 4 * self.noise_v**2 / self.independent

    def thd(self) -> float:
        """Harmonics over fundamental as a ratio, the noise's share taken off; 0 when that leaves only its scatter."""
        return float(self.power_above_noise(1) ** 0.5 / self.amplitudes[0])

    def power_above_noise(self, first: int = 0) -> float:
        """Sum of squared amplitudes from index `first` on, V², less the noise's share; 0 unless it stands out."""
        floor = self.noise_power
        found = float(np.sum(self.amplitudes[first:] ** 2 - floor))
        # A squared amplitude of pure noise scatters by as much as it is.
        return found if found > 4 * floor * np.sqrt(self.amplitudes.size) else 0.0

    def significant(self) -> list[tuple[int, float]]:
        """(number, ratio to the fundamental) of every harmonic that counts out of the noise, largest first."""
        floor = self.noise_power
        found = [
            (number, float(amplitude / self.amplitudes[0]))
            for number, amplitude in enumerate(self.amplitudes[1:], 2)
            if amplitude**2 > 12 * floor and amplitude > 5e-4 * self.amplitudes[0]
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
        number = max(1, min(most, int(0.48 / max(frequency, 1e-9)), count // 8))
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
            self._told(weight, fitted, volts - fitted, freedom)
            for volts, weight, fitted in zip(signals, weights.T, every, strict=True)
        ]

    def _told(self, weights: NDArray[np.complex128], fitted: Array, left: Array, freedom: int) -> Harmonics:
        amplitudes, constant = np.abs(weights[1:]), float(weights[0].real)
        power = float(left @ left)
        independent = left.size / shared_noise(left, power)
        return Harmonics(
            self.frequency, weights[1:], amplitudes, constant, fitted, float(np.sqrt(power / freedom)), independent
        )

    def without(self, columns: Array, also: Array) -> Array:
        """`columns`, shape (n, k), less what the tone with its harmonics and `also`, shape (n,), hold of them."""
        left = columns - np.stack([harmonics.fitted for harmonics in self.fit(*columns.T)], axis=1)
        return np.asarray(left - np.outer(also, also @ left))

    def direction_of_frequency(self, wave: Harmonics) -> Array:
        """How `wave` changes with its frequency beside all that its harmonics can do, shape (n,), of length 1."""
        number = wave.phasors.size
        steps = np.arange(self._powers.shape[1]) - (self._powers.shape[1] - 1) / 2
        turned = steps * ((1j * np.arange(1, number + 1) * wave.phasors) @ self._powers[1 : number + 1]).real
        own = self.without(turned[:, None], np.zeros(turned.size))[:, 0]
        return np.asarray(own / max(float(np.linalg.norm(own)), 1e-300))


def _solved(square: Array, right: Array) -> Array:
    """The least weights where harmonics can't be distinguished: one at half the rate has no sine, two may coincide."""
    try:
        found = np.linalg.solve(square, right)
    except np.linalg.LinAlgError:
        found = np.linalg.lstsq(square, right)[0]
    return np.asarray(found)


def shared_noise(left: Array, power: float) -> float:
    """How many neighbours share their noise in what a fit leaves, whose squares' sum is `power`: 1 where it's white."""
    alike = float(left[1:] @ left[:-1]) / max(power, 1e-300)
    return min(_MOST_SHARED, (1 + alike) / (1 - alike)) if _ALIKE < alike < 1 else 1.0


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


@dataclass(frozen=True)
class Besides:
    """Steady lines beside a tone and its harmonics."""

    lines: tuple[Interferer, ...]
    total: Array
    """Their sum at every sample, volts."""
    left_v: float
    """RMS of what neither they nor the tone explain."""


def interferers(residual: Array, tone: ToneBasis, wave: Harmonics, most: int = 3) -> Besides:
    """
    The lines that rise out of `residual`, from which `tone` and its harmonics were taken.

    `wave` is the tone itself. A line counts when noise alone would show one as high less than once in some thousand
    captures. Few cycles aren't orthogonal to each other, so that the tone's fit has taken its share of a line: each is
    fitted by what it is beside the tone and its frequency, as if all were fitted together.
    """
    count = residual.size
    steps = np.arange(count, dtype=np.float64) - (count - 1) / 2
    found: list[Interferer] = []
    total, direction = np.zeros(count), None
    seen: Array = residual
    window = _window(count)
    size = scipy.fft.next_fast_len(count * (2 if count <= 4096 else 1), real=True)
    for _ in range(most):
        spectrum = scipy.fft.rfft(seen * window, size)
        power = spectrum.real**2 + spectrum.imag**2
        floor = middle(power) / np.log(2)
        place = _peak(power) / size
        if floor <= 0 or power.max() < (np.log(count) + 9) * floor:
            break
        if direction is None:
            direction = tone.direction_of_frequency(wave)
            seen = np.asarray(seen - direction * float(direction @ seen), dtype=np.float64)
        fits = [_line(seen, max(place, _SLOWEST_BINS / count), steps, tone, direction)]
        if place * count < _SLOW_BINS:
            fits.append(_cubic(seen, steps, tone, direction))
        best = min(fits, key=lambda fit: float(fit.left @ fit.left))
        total, seen = total + best.volts, best.left
        found.append(Interferer(best.place, float(np.sqrt(2) * np.std(best.volts))))
    return Besides(tuple(found), total, float(np.sqrt(np.mean(seen**2))))


@dataclass(frozen=True)
class _Beside:
    """One thing beside the tone: its frequency, itself at every sample, and what it leaves."""

    place: float
    volts: Array
    left: Array


def _fitted_beside(volts: Array, place: float, columns: Array, beside: Array) -> _Beside:
    weights = _solve(beside, volts)
    return _Beside(place, np.asarray(columns @ weights), np.asarray(volts - beside @ weights))


def _cubic(volts: Array, steps: Array, tone: ToneBasis, direction: Array) -> _Beside:
    scaled = steps / volts.size
    columns = np.column_stack((scaled, scaled**2, scaled**3))
    return _fitted_beside(volts, 0.0, columns, tone.without(columns, direction))


def _line(volts: Array, place: float, steps: Array, tone: ToneBasis, direction: Array) -> _Beside:
    """The line nearest to `place`, its frequency refined."""

    def own(columns: Array) -> Array:
        # What is all but the tone or a multiple of it can't be told apart from that: it is the tone's own unsteadiness.
        away = abs(place - round(place / tone.frequency) * tone.frequency) * volts.size
        return tone.without(columns, direction) if away > _APART_BINS else columns

    sines, cosines = _sine_and_cosine(place * steps)
    of_sine, of_cosine = _solve(np.column_stack((sines, cosines)), volts)
    for _ in range(_REFINED):
        turned = _ANGLE * steps * (of_sine * cosines - of_cosine * sines)
        of_sine, of_cosine, shift = _solve(own(np.column_stack((sines, cosines, turned))), volts)
        # Further than half a bin it is another line, or none.
        if abs(shift) * volts.size >= 0.5:
            break
        place += float(shift)
        sines, cosines = _sine_and_cosine(place * steps)
        if abs(shift) * volts.size < _STILL_BINS:
            break
    columns = np.column_stack((sines, cosines))
    return _fitted_beside(volts, place, columns, own(columns))


def _sine_and_cosine(turns: Array) -> tuple[Array, Array]:
    angle = _ANGLE * turns
    return np.sin(angle), np.cos(angle)


def middle(values: Array) -> float:
    """The upper median of values, shape (n,): what `numpy.median` costs here is mostly ceremony."""
    place = values.size // 2
    return float(np.partition(values, place)[place])


def slow_drift(volts: Array, frequency: float) -> Array:
    """
    A first guess of what moves under the tone: a cubic through its mean over one period, which a tone leaves at rest.

    Zero unless the mean moves by more than a hundredth of the wave's height.
    """
    if frequency <= 0:
        return np.zeros(volts.size)
    period = max(1, round(1 / frequency))
    sums = np.concatenate(([0.0], np.cumsum(volts)))
    means = (sums[period:] - sums[:-period]) / period
    if means.size < 2:
        return np.zeros(volts.size)
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
    playing = np.concatenate(([False], level > 0.7 * np.partition(level, 4 * blocks // 5)[4 * blocks // 5], [False]))
    edges = np.flatnonzero(np.diff(playing.astype(np.int8)))
    starts, ends = edges[::2], edges[1::2]
    if not starts.size:
        return slice(0, volts.size), False
    best = int(np.argmax(ends - starts))
    first, last = int(starts[best]), int(ends[best])
    if first == 0 and last == blocks:
        return slice(0, volts.size), False
    # The cycle beside a gap may itself be broken off.
    first, last = first + (first > 0), last - (last < blocks)
    return slice(first * period, volts.size if last == blocks else last * period), True


def code_step(volts: Array) -> float:
    """Volts between neighbouring codes of a coarse converter, or 0 when too many values differ to tell."""
    first = volts[:4096]
    values = np.unique(first)
    # Equal codes that were computed in different ways differ by rounding.
    values = values[np.append(True, np.diff(values) > 1e-9 * (values[-1] - values[0]))]
    if values.size < 3:
        return 0.0
    gaps = np.diff(values)
    closest = float(np.min(gaps[gaps > 0.3 * middle(gaps)]))
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
