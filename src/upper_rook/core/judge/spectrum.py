"""
Band that a signal carries, from its third octaves: full range, only bass, only treble.

Bands by IEC 61260-1 (base ten: exact centres 1000·10^(n/10) Hz, edges at ±1/20 of a decade), with rectangular edges in
place of its filters. Pink noise gives every band the same level, so a filter on the way shows as it is.
"""

from itertools import product

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen, format_db, format_hertz
from upper_rook.core.judge.in_words import InWords
from upper_rook.core.signal.trace import Trace

Array = NDArray[np.float64]

BAND_NUMBERS = range(-17, 14)
"""20 Hz to 20 kHz."""
NOMINAL_HZ = (
    *(20, 25, 31.5, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000),
    *(2500, 3150, 4000, 5000, 6300, 8000, 10000, 12500, 16000, 20000),
)
"""Nominal frequencies of the bands, which name them."""
_BINS_IN_LOWEST = 3
_REACH_DB = 40.0
"""How far below the pass band a level still belongs to a filter's slope rather than to noise."""
_BASS_BELOW_HZ = 300.0
_TREBLE_ABOVE_HZ = 60.0
_STEEPEST = 8.0
_SILENT_V = 1e-3


class Carries(InWords):
    """Part of the audible band that a signal carries."""

    FULL_RANGE = "full_range"
    BASS = "bass"
    """Nothing above some hundred hertz."""
    NO_BASS = "no_bass"
    BAND = "band"
    """Neither the lowest nor the highest frequencies."""
    SILENT = "silent"
    TOO_SHORT = "too_short"


class ThirdOctave(Frozen):
    """One band."""

    nominal_hz: float
    v_rms: float
    uncertainty_db: float
    """Expanded (k = 2): noise shows its level only so well in this time."""


class SpectrumReport(Frozen):
    """Report on the band that a signal carries, with its third octaves."""

    carries: Carries
    bands: tuple[ThirdOctave, ...] = ()
    low_corner_hz: float | None = None
    """3 dB below the pass band."""
    low_slope_db_octave: float | None = None
    high_corner_hz: float | None = None
    high_slope_db_octave: float | None = None
    reasons: tuple[str, ...] = ()


def third_octaves(trace: Trace) -> tuple[ThirdOctave, ...]:
    """RMS in each band that the capture is long and fast enough for, by Welch's averaged periodograms."""
    # These take a second to load, which a start without any noise to judge need not wait for.
    import scipy.signal

    volts = np.asarray(trace.volts, dtype=np.float64)
    wanted = _BINS_IN_LOWEST * trace.rate_hz / (20 * (10**0.05 - 10**-0.05))
    size = int(min(volts.size, 2 ** np.ceil(np.log2(max(wanted, 256)))))
    frequency, density = scipy.signal.welch(volts, trace.rate_hz, "hann", size)
    step = float(frequency[1])
    # Power up to each bin's upper edge; a band takes its share of the bins that it cuts.
    power = np.concatenate(([0.0], np.cumsum(density) * step))
    edges = np.concatenate(([0.0], frequency + step / 2))
    found = []
    for number, nominal in zip(BAND_NUMBERS, NOMINAL_HZ, strict=True):
        centre = 1000 * 10 ** (number / 10)
        low, high = centre * 10**-0.05, centre * 10**0.05
        width = high - low
        if high > 0.5 * trace.rate_hz or width < 1.5 * step:
            continue
        share = float(np.interp(high, edges, power) - np.interp(low, edges, power))
        # A band of noise of width B seen for T seconds has 2·B·T degrees of freedom.
        doubt = 2 * 4.343 / np.sqrt(max(1.0, width * volts.size / trace.rate_hz))
        found.append(ThirdOctave(nominal_hz=nominal, v_rms=max(0.0, share) ** 0.5, uncertainty_db=float(doubt)))
    return tuple(found)


def judge_spectrum(trace: Trace) -> SpectrumReport:
    """Says what of pink noise comes through at this point, with corners and slopes."""
    if np.std(trace.volts, dtype=np.float64) < _SILENT_V:
        return SpectrumReport(carries=Carries.SILENT, reasons=("Nothing is heard: is the noise playing?",))
    bands = third_octaves(trace)
    lasting = trace.volts.size / trace.rate_hz
    if len(bands) < 12 or lasting < 1:
        return SpectrumReport(
            carries=Carries.TOO_SHORT,
            bands=bands,
            reasons=(f"{format_hertz(trace.rate_hz)} for {lasting:.2g} s: some seconds of noise are needed.",),
        )
    centres = np.array([1000 * 10 ** (BAND_NUMBERS[NOMINAL_HZ.index(band.nominal_hz)] / 10) for band in bands])
    level = 20 * np.log10(np.maximum([band.v_rms for band in bands], 1e-12))
    low, high = _filters(centres, level)
    carries = _carries(low, high)
    return SpectrumReport(
        carries=carries,
        bands=bands,
        low_corner_hz=low[0] if low else None,
        low_slope_db_octave=low[1] if low else None,
        high_corner_hz=high[0] if high else None,
        high_slope_db_octave=high[1] if high else None,
        reasons=tuple(_reasons(carries, low, high)),
    )


_Corner = tuple[float, float] | None
"""(corner in Hz, slope in dB an octave)."""


def _filters(centres: Array, level: Array) -> tuple[_Corner, _Corner]:
    """
    A high-pass and a low-pass fitted to the levels, with a floor of white noise under them.

    Each falls as −10·m·log10(1 + (f/fc)^(2n/m)): m = 1 is Butterworth's shape, 2 Linkwitz and Riley's. White noise
    rises by 3 dB an octave in bands that are as wide as their frequency.
    """
    import scipy.optimize

    log_f = np.log2(centres)
    first, last, near = float(log_f[0]), float(log_f[-1]), level > level.max() - _REACH_DB
    log_f, heard = log_f[near], level[near]
    white = 3.0103 * (log_f - np.log2(1000))

    top = float(np.median(heard[heard > heard.max() - 6]))
    start = np.array([top, log_f[0] - 0.5, 2.0, log_f[-1] + 0.5, 2.0, float(np.min(heard - white)) - 6])
    lowest, highest = [-200, first - 4, 0.7, first - 4, 0.7, -300], [200, last + 4, _STEEPEST, last + 4, _STEEPEST, 200]

    def fitted(low_kind: float, high_kind: float) -> tuple[float, list[float]]:
        def left(values: Array) -> Array:
            top, low, low_order, high, high_order, floor = values
            fallen = _fall_db(low - log_f, low_order, low_kind) + _fall_db(log_f - high, high_order, high_kind)
            return np.asarray(np.logaddexp((top - fallen) / _NEPER, (floor + white) / _NEPER) * _NEPER - heard)

        inside = np.clip(start, lowest, highest)
        found = scipy.optimize.least_squares(left, inside, bounds=(lowest, highest), loss="soft_l1")
        return float(found.cost), [float(value) for value in found.x]

    kinds = min(product(_KINDS, _KINDS), key=lambda pair: fitted(*pair)[0])
    low_kind, high_kind = kinds
    _, (_, low, low_order, high, high_order, _) = fitted(*kinds)
    low, high = low + _half_power_octaves(low_order, low_kind), high - _half_power_octaves(high_order, high_kind)
    # A corner at the very end of what is heard is the end of the noise, not a filter.
    return (
        (2.0**low, 6.02 * low_order) if low > first + 0.2 else None,
        (2.0**high, 6.02 * high_order) if high < last - 0.2 else None,
    )


_KINDS = (1.0, 2.0)
_NEPER = 10 / float(np.log(10))


def _fall_db(octaves: Array, order: float, kind: float) -> Array:
    """Decibels that a filter takes, so many octaves past its corner."""
    return np.asarray(_NEPER * kind * np.logaddexp(0.0, 2 * order / kind * octaves * np.log(2)))


def _half_power_octaves(order: float, kind: float) -> float:
    """How far inside its corner a filter of that kind is 3 dB down; 0 for Butterworth's."""
    return float(-np.log2(2 ** (1 / kind) - 1) * kind / (2 * order))


def _carries(low: _Corner, high: _Corner) -> Carries:
    bass_only = high is not None and high[0] < _BASS_BELOW_HZ
    no_bass = low is not None and low[0] > _TREBLE_ABOVE_HZ
    cut_above = high is not None and high[0] < 10_000
    if bass_only and not no_bass:
        return Carries.BASS
    if no_bass:
        return Carries.BAND if cut_above else Carries.NO_BASS
    return Carries.BAND if cut_above else Carries.FULL_RANGE


def _reasons(carries: Carries, low: _Corner, high: _Corner) -> list[str]:
    told = {
        Carries.FULL_RANGE: "Full range.",
        Carries.BASS: "Only bass.",
        Carries.NO_BASS: "No bass.",
        Carries.BAND: "A band out of the middle.",
    }[carries]
    corners = [
        f"It falls {side} {format_hertz(fall[0])} by about {format_db(fall[1], 0)} an octave."
        for side, fall in (("below", low), ("above", high))
        if fall
    ]
    return [told, *corners]
