"""
Judging a recorded exponential sweep: level against frequency, and where it clips by how much.

Neither its start nor its speed need be known: the strongest line of short blocks rises on a straight line in log
frequency, which gives both. Each twelfth of an octave is then judged on its own, in the sweep's own time: counted in
turns of its phase a sweep is a steady tone, so the clipped sine of `clipfit` fits it as it fits a tone.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import groupby

import numpy as np
import scipy
from numpy.typing import NDArray

from upper_rook.core.judge.sweep_harmonics import Third, behind_a_filter
from upper_rook.core.judge.sweep_report import (
    ClippedRange,
    HiddenRange,
    SweepFinding,
    SweepPoint,
    SweepReport,
    sweep_reasons,
)
from upper_rook.core.signal import clip_fit as clipfit
from upper_rook.core.signal import clipped_sine
from upper_rook.core.signal.trace import Trace

Array = NDArray[np.float64]

BANDS_AN_OCTAVE = 12
_BLOCKS = 400
_BLOCK_SAMPLES = (512, 8192)
_PART_SAMPLES = 1000
_PART_CYCLES = 8.0
_FEWEST_CYCLES = 3.0
_FEWEST_SAMPLES = 100
_LOCK_CYCLES = 20.0
_CHUNK = 256
_QUIET_DB = 45.0
"""Below the loudest block by which nothing is taken for the sweep."""
_THIRD_SEEN = 1 / 6
"""Of the sampling rate: above it the third harmonic lies beyond the recording."""
_CERTAIN = 4.0
_LEAST_OVER_DB = 0.03
_EXPLAINED = 0.4
"""Share of what a plain sine leaves that may be left by a clipped one, for a flat top to be the reason."""
_CORNER_DB = 10 * np.log10(0.5)
_DENSE_DB = 1.0
_FEWEST_HIDDEN, _MOSTLY = 3, 0.5
_FLAT_OCTAVES = 0.5
"""How far inside its corners the pass band's flatness is judged."""


@dataclass(frozen=True)
class _Chirp:
    """log2(f) = start + rate·t, with t in samples and f in cycles per sample."""

    start: float
    rate: float

    def frequency(self, place: Array | float) -> Array:
        return np.asarray(2.0 ** (self.start + self.rate * np.asarray(place)))

    def place(self, frequency: float) -> float:
        return float((np.log2(frequency) - self.start) / self.rate)

    def cycles(self, place: Array, about: float) -> Array:
        """Turns of the phase since `about`."""
        here = float(self.frequency(about))
        growth = self.rate * np.log(2)
        return np.asarray(here / growth * np.expm1(growth * (place - about)))


@dataclass(frozen=True)
class _Part:
    """One band as it was fitted."""

    frequency: float
    level_v: float
    over_db: float = 0.0
    over_doubt_db: float = 0.0
    clean_maximum_v: float = 0.0
    at_limits: bool = False
    third: float = 0.0
    """The third harmonic over the tone."""
    noise: float = 0.0
    """Noise on that, a standard deviation."""


def judge_sweep(trace: Trace) -> SweepReport:
    """Judges a recording of one exponential sweep, rising or falling, with whatever silence is around it."""
    volts = np.asarray(trace.volts)
    if volts.size < 4 * _BLOCK_SAMPLES[0]:
        return SweepReport(verdict=SweepFinding.NOT_A_SWEEP, reasons=("Too short to be a sweep.",))
    found = _chirp(volts)
    if found is None:
        return SweepReport(
            verdict=SweepFinding.NOT_A_SWEEP,
            reasons=("No frequency that rises or falls evenly, as an exponential sweep’s does.",),
        )
    chirp, first, last = found
    parts, blind = _with_harmonics(_parts(trace, chirp, first, last))
    return _report(parts, blind, chirp, trace.rate_hz)


def _with_harmonics(parts: list[_Part]) -> tuple[list[_Part], list[int]]:
    """The bands with what clips before a filter, where no flat top is left, and the places where nothing would show."""
    thirds = [Third(part.frequency, part.level_v, part.third, part.noise) for part in parts]
    found, blind = behind_a_filter(thirds)
    # A flat that is still there tells it better.
    told = [
        replace(part, over_db=behind.over_db, over_doubt_db=behind.doubt_db, clean_maximum_v=behind.clean_v)
        if (behind := found.get(place)) is not None and (not part.over_db or part.over_doubt_db > behind.doubt_db)
        else part
        for place, part in enumerate(parts)
    ]
    return told, [place for place in blind if not told[place].over_db]


def _chirp(volts: NDArray[np.floating]) -> tuple[_Chirp, float, float] | None:
    """(chirp, first and last sample of the sweep), or None when there is no sweep."""
    size = int(np.clip(2 ** round(np.log2(volts.size / _BLOCKS)), *_BLOCK_SAMPLES))
    rows = volts[: volts.size // size * size].reshape(-1, size)
    # Some hundred blocks at a time: all of an hour's transforms would not fit a small machine.
    parts = [_strongest(rows[start : start + _CHUNK]) for start in range(0, rows.shape[0], _CHUNK)]
    place, level, share = (np.concatenate(column) for column in zip(*parts, strict=True))
    loud = (level > level.max() * 10 ** (-_QUIET_DB / 10)) & (share > 0.3) & (place >= 2.5)
    if np.count_nonzero(loud) < 12:
        return None
    at, heard = np.asarray((np.flatnonzero(loud) + 0.5) * size, dtype=np.float64), np.log2(place[loud] / size)
    line = _steady_line(at, heard)
    if line is None:
        return None
    chirp, on_line = line
    blocks = np.flatnonzero(loud)[on_line]
    first, last = _heard(rows, int(blocks[0]), int(blocks[-1]))
    # The first and last block may hold silence, too.
    return chirp, (first + 0.5) * size, (last + 0.5) * size


def _strongest(rows: NDArray[np.floating]) -> tuple[Array, Array, Array]:
    """For each block the place of its strongest line in bins, its power, and its share of the block's."""
    spectrum = scipy.fft.rfft(rows * np.hanning(rows.shape[1]).astype(rows.dtype), axis=1)
    power = np.asarray(spectrum.real**2 + spectrum.imag**2, dtype=np.float64)
    power[:, :2] = 0
    top = np.argmax(power, axis=1)
    inside = np.clip(top, 1, power.shape[1] - 2)
    blocks = np.arange(rows.shape[0])
    left, middle, right = (np.log(np.maximum(power[blocks, inside + number], 1e-300)) for number in (-1, 0, 1))
    bend = left - 2 * middle + right
    shift = np.where(bend < 0, 0.5 * (left - right) / np.where(bend < 0, bend, -1.0), 0.0)
    # The strongest line of noise holds a small part of its block; a sweep's holds most.
    near = np.clip(top[:, None] + np.arange(-3, 4), 0, power.shape[1] - 1)
    share = power[blocks[:, None], near].sum(axis=1) / np.maximum(power.sum(axis=1), 1e-300)
    return inside + shift, power[blocks, top], share


def _heard(rows: NDArray[np.floating], first: int, last: int) -> tuple[int, int]:
    """The first and last block of the sweep; at its low end a block is shorter than a cycle and shows no line."""
    rms = np.sqrt(np.einsum("ij,ij->i", rows, rows) / rows.shape[1])
    least = 10 ** (-_QUIET_DB / 20) * float(rms[first : last + 1].max())
    while first > 0 and rms[first - 1] > max(least, 0.3 * rms[first]):
        first -= 1
    while last < rms.size - 1 and rms[last + 1] > max(least, 0.3 * rms[last]):
        last += 1
    return first, last


def _steady_line(at: Array, heard: Array) -> tuple[_Chirp, NDArray[np.bool_]] | None:
    """A straight line through most of the points, however wrong the rest are."""
    gap = max(1, at.size // 4)
    rate = float(np.median((heard[gap:] - heard[:-gap]) / (at[gap:] - at[:-gap])))
    start = float(np.median(heard - rate * at))
    good = np.ones(at.size, dtype=bool)
    for bound in (1.0, 0.3, 0.1, 0.05, 0.05):
        good = np.abs(heard - start - rate * at) < bound
        if np.count_nonzero(good) < max(10, 0.4 * at.size):
            return None
        rate, start = (float(figure) for figure in np.polyfit(at[good], heard[good], 1))
    span = abs(rate) * float(np.ptp(at[good]))
    return (_Chirp(start, rate), good) if span > 1.0 else None


def _parts(trace: Trace, chirp: _Chirp, first: float, last: float) -> list[_Part]:
    """Every band from the first to the last sample of the sweep, lowest frequency first."""
    ends = sorted(float(chirp.frequency(place)) for place in (first, last))
    lowest, highest = max(ends[0], 1e-6), min(ends[1], 0.47)
    # Bands lie at whole twelfths from 1 kHz, whatever the rate.
    unit = 1000 / trace.rate_hz
    numbers = np.arange(
        np.ceil(BANDS_AN_OCTAVE * np.log2(lowest / unit)), np.floor(BANDS_AN_OCTAVE * np.log2(highest / unit)) + 1
    )
    parts: list[_Part] = []
    slope = 0.0
    for number in numbers:
        frequency = float(unit * 2 ** (number / BANDS_AN_OCTAVE))
        part = _part(trace, chirp, (first, last), frequency, slope)
        if part is None:
            continue
        if parts:
            # Decibels an octave of the last step, by which the next band's level changes while it is judged.
            slope = 20 * np.log10(part.level_v / parts[-1].level_v) * BANDS_AN_OCTAVE
            slope = float(np.clip(slope, -60, 60))
        parts.append(part)
    return parts


def _part(trace: Trace, chirp: _Chirp, inside: tuple[float, float], frequency: float, slope_db: float) -> _Part | None:
    """One band. `slope_db` an octave is taken off, or a filter's slope would pass for a bend."""
    about = chirp.place(frequency)
    band = 1 / (BANDS_AN_OCTAVE * abs(chirp.rate))
    length = max(min(band, max(_PART_SAMPLES, _PART_CYCLES / frequency)), _FEWEST_CYCLES / frequency)
    start, stop = int(about - length / 2), int(about + length / 2)
    if start < inside[0] or stop > inside[1] or stop - start < _FEWEST_SAMPLES:
        return None
    stride = max(1, (stop - start) // _PART_SAMPLES)
    place = np.arange(start, stop, stride, dtype=np.float64)
    volts = np.asarray(trace.volts[start:stop:stride], dtype=np.float64)
    cycles = chirp.cycles(place, about)
    octaves = chirp.rate * (place - about)
    even = volts * 10 ** (-slope_db * octaves / 20)
    cycles = _locked(even, cycles)
    fit = _harmonics(even, cycles)
    amplitude, level = fit.amplitudes[0], fit.amplitudes[0] / np.sqrt(2)
    if level <= 0:
        return None
    part = _Part(frequency, float(level))
    if frequency <= _THIRD_SEEN and np.hypot(*fit.amplitudes[1:]) >= 0.002 * amplitude:
        part = _clipped_part(trace, frequency, volts if abs(slope_db) < 3 else even, cycles, fit.sine)
    return replace(part, third=fit.amplitudes[2] / amplitude, noise=fit.noise_v / amplitude)


def _locked(volts: Array, cycles: Array) -> Array:
    """The same cycles with their rate corrected by how the phase moves from the first half to the second."""
    half = volts.size // 2
    # A filter's delay shifts the sweep by a hair, which only many cycles feel; few can't be told apart from leakage.
    if cycles[-1] - cycles[0] < _LOCK_CYCLES:
        return cycles
    turned = volts * np.exp(-2j * np.pi * cycles)
    moved = np.angle(turned[half:].mean() * np.conj(turned[:half].mean())) / (2 * np.pi)
    return np.asarray(cycles * (1 + moved / (cycles[half:].mean() - cycles[:half].mean())))


@dataclass(frozen=True)
class _Harmonics:
    """A band fitted with its first three harmonics, volts."""

    amplitudes: tuple[float, float, float]
    sine: Array
    """The fundamental at every sample."""
    noise_v: float
    """Standard deviation of an amplitude, from what the fit leaves."""


def _harmonics(volts: Array, cycles: Array) -> _Harmonics:
    angle = 2 * np.pi * cycles
    turn = np.exp(1j * angle)
    columns = np.stack(
        [np.ones_like(angle), *(part for power in (turn, turn**2, turn**3) for part in (power.real, power.imag))]
    )
    square = columns @ columns.T
    weights = np.linalg.solve(square + 1e-9 * np.trace(square) / 7 * np.eye(7), columns @ volts)
    rest = volts - weights @ columns
    first, second, third = (float(np.hypot(*weights[place : place + 2])) for place in (1, 3, 5))
    return _Harmonics(
        amplitudes=(first, second, third),
        sine=np.asarray(weights[:3] @ columns[:3]),
        noise_v=float(np.sqrt(2 * (rest @ rest) / max(1, volts.size - 7) / volts.size)),
    )


def _clipped_part(trace: Trace, frequency: float, volts: Array, cycles: Array, sine: Array) -> _Part:
    """The band with a clipped sine fitted, where that explains what a plain one leaves."""
    clip = clipfit.fit(volts, cycles)
    rms = float(np.std(clip.fitted))
    plain_sum = float(np.sum((volts - sine) ** 2))
    if clip.square_sum > _EXPLAINED * plain_sum:
        return _Part(frequency, rms)
    sides = []
    for side in (1, -1):
        of_amplitude, of_level = clip.gradients(side)
        doubt = clip.spread_db(of_amplitude - of_level)
        if clip.over_db(side) > max(_LEAST_OVER_DB, min(_CERTAIN * doubt, 3.0)):
            sides.append((clip.over_db(side), doubt, side))
    if not sides:
        return _Part(frequency, rms)
    over, doubt, side = max(sides)
    level = clip.level_v(side)
    limits = trace.limits_v
    top = float(clip.values[4 if side > 0 else 5])
    at_limits = limits is not None and min(abs(top - limit) for limit in limits) < 2e-3 * (limits[1] - limits[0])
    # A filter after the clipping leaves tops that aren't flat: what stays unexplained widens the doubt.
    unexplained = float(np.sqrt(clip.square_sum / plain_sum))
    return _Part(frequency, rms, over, 2.1 * doubt + 0.5 * unexplained * over, level / np.sqrt(2), at_limits)


def _report(parts: list[_Part], hidden: list[int], chirp: _Chirp, rate_hz: float) -> SweepReport:
    if len(parts) < BANDS_AN_OCTAVE:
        return SweepReport(verdict=SweepFinding.NOT_A_SWEEP, reasons=("Less than an octave of a sweep is heard.",))
    frequencies = np.array([part.frequency for part in parts]) * rate_hz
    level_db = 20 * np.log10([part.level_v for part in parts])
    pass_band = _densest(level_db)
    low, high = _corners(frequencies, level_db, pass_band)
    clipped = tuple(_ranges(parts, rate_hz))
    points = tuple(
        SweepPoint(
            frequency_hz=float(hertz),
            v_rms=part.level_v,
            over_db=part.over_db or None,
            over_db_uncertainty=part.over_doubt_db if part.over_db else None,
        )
        for hertz, part in zip(frequencies, parts, strict=True)
    )
    at_limits = any(part.at_limits for part in parts)
    inside = (frequencies >= (low or 0.0)) & (frequencies <= (high or np.inf))
    blind_there = np.isin(np.flatnonzero(inside), hidden)
    unclipped = SweepFinding.UNSEEN if blind_there.mean() > _MOSTLY else SweepFinding.CLEAN
    verdict = SweepFinding.OVER_RANGE if at_limits else SweepFinding.CLIPPED if clipped else unclipped
    blind = rate_hz * _THIRD_SEEN
    report = SweepReport(
        verdict=verdict,
        low_hz=float(frequencies[0]),
        high_hz=float(frequencies[-1]),
        seconds_an_octave=1 / (abs(chirp.rate) * rate_hz),
        points=points,
        clipped=clipped,
        pass_band_v=float(10 ** (pass_band / 20)),
        flatness_db=_flatness(frequencies, level_db, pass_band, low, high),
        low_corner_hz=low,
        high_corner_hz=high,
        blind_above_hz=blind if frequencies[-1] > blind else None,
        hidden=tuple(_runs(hidden, frequencies)),
    )
    return report.model_copy(update={"reasons": sweep_reasons(report)})


def _runs(places: list[int], frequencies: Array) -> Iterator[HiddenRange]:
    """Runs of neighbouring bands; a single one says little."""
    half = 2 ** (0.5 / BANDS_AN_OCTAVE)
    for _, run in groupby(enumerate(places), key=lambda pair: pair[1] - pair[0]):
        own = [place for _, place in run]
        if len(own) >= _FEWEST_HIDDEN:
            yield HiddenRange(low_hz=float(frequencies[own[0]] / half), high_hz=float(frequencies[own[-1]] * half))


def _densest(level_db: Array) -> float:
    """The level about which most bands lie within half a decibel: the pass band's."""
    near = np.sort(level_db[level_db > level_db.max() - 20])
    counts = np.searchsorted(near, near + _DENSE_DB, side="right") - np.arange(near.size)
    start = int(np.argmax(counts))
    return float(np.median(near[start : start + counts[start]]))


def _corners(frequencies: Array, level_db: Array, pass_band: float) -> tuple[float | None, float | None]:
    """Where the level leaves the pass band by 3 dB for good, below and above it."""
    inside = np.flatnonzero(level_db > pass_band + _CORNER_DB)
    return (
        _crossing(frequencies, level_db, pass_band, int(inside[0]), -1),
        _crossing(frequencies, level_db, pass_band, int(inside[-1]), 1),
    )


def _crossing(frequencies: Array, level_db: Array, pass_band: float, edge: int, way: int) -> float | None:
    beyond = edge + way
    if not 0 <= beyond < frequencies.size:
        return None
    wanted = pass_band + _CORNER_DB
    share = (level_db[edge] - wanted) / max(level_db[edge] - level_db[beyond], 1e-9)
    return float(frequencies[edge] * (frequencies[beyond] / frequencies[edge]) ** min(1.0, share))


def _flatness(
    frequencies: Array, level_db: Array, pass_band: float, low: float | None, high: float | None
) -> float | None:
    margin = 2**_FLAT_OCTAVES
    inside = (frequencies >= (low or 0) * margin) & (frequencies <= (high or np.inf) / margin)
    return float(np.max(np.abs(level_db[inside] - pass_band))) if np.any(inside) else None


def _ranges(parts: list[_Part], rate_hz: float) -> list[ClippedRange]:
    """Runs of clipped bands; one band between two clipped ones is counted with them."""
    over = np.array([part.over_db > 0 for part in parts])
    over[1:-1] |= over[:-2] & over[2:]
    edges = np.flatnonzero(np.diff(np.concatenate(([False], over, [False])).astype(np.int8)))
    found = []
    half = 2 ** (0.5 / BANDS_AN_OCTAVE)
    for start, stop in zip(edges[::2], edges[1::2], strict=True):
        run = parts[start:stop]
        worst = max(run, key=lambda part: part.over_db)
        # A single band a hair over, among none, is as likely a tick in the recording.
        if len(run) == 1 and worst.over_db < 2 * clipped_sine.EDGE_DB:
            continue
        found.append(
            ClippedRange(
                low_hz=run[0].frequency * rate_hz / half,
                high_hz=run[-1].frequency * rate_hz * half,
                worst_hz=worst.frequency * rate_hz,
                over_db=worst.over_db,
                over_db_uncertainty=worst.over_doubt_db,
                clean_v_rms=worst.clean_maximum_v,
            )
        )
    return found
