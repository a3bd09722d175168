"""Samples that belong to no wave: glitches and drop-outs, found before anything is made of them."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.judge.segment import Part
from upper_rook.core.signal import clip_fit, tone_fit

Array = NDArray[np.float64]

_JUMP = 7.0
"""Times the usual jump between neighbours, from which a sample is suspected."""
_FAR = 6.0
"""Robust standard deviations (1.4826 times the median of the deviations) from which it is off both fits."""
_WORTH_IT = 2e-3
"""Of the wave's height: what is off by less is no glitch, however quiet the converter."""
_MOST = 0.08
"""Of the samples: where more are off it is no matter of glitches."""
_NORMAL = 1.4826
_HELD = 3
_MOMENTS, _OFTEN = 24, 0.3
_TURNS = 8
_STEEP_DB = 12.0


def without_outliers(part: Part, step: float) -> Part:
    """The part with such samples put where the rest of the wave says that they belong, and the reason."""
    if not _suspected(part.volts):
        return part
    volts, bad, many = part.volts, np.zeros(part.volts.size, dtype=bool), False
    for _ in range(_TURNS):
        fitted, flats = _nearest_fit(part, bad)
        left = np.abs(part.volts - fitted)
        usual = _NORMAL * tone_fit.middle(left) + step / np.sqrt(12)
        far = max(_FAR * usual, _WORTH_IT * float(np.abs(part.volts).max()))
        # Beside a steep edge a sample is on the other flat, where it belongs.
        off = np.min([left, *(np.abs(part.volts - flat) for flat in flats)], axis=0)
        found = _with_held(off > far, part.volts, step)
        many = bool(found.mean() > _MOST)
        if many:
            # A fit that they have pulled off finds too many: the worst of them first.
            found = off > np.quantile(off, 1 - _MOST)
        volts = np.where(found, fitted, part.volts)
        if np.array_equal(found, bad):
            found = _not_recurring(found, part.frequency)
            if np.array_equal(found, bad):
                break
        bad = found
    if many:
        return part
    count = int(bad.sum())
    if not count:
        return part
    told = f"{count} {'sample' if count == 1 else 'samples'} far off the wave (glitches or drop-outs): left out."
    return replace(part, volts=volts, filled=count, reasons=(*part.reasons, told))


def _with_held(found: NDArray[np.bool_], volts: Array, step: float) -> NDArray[np.bool_]:
    """And their neighbours of the same value, where a drop-out holds one: the wave itself crosses it now and then."""
    same = np.abs(np.diff(volts)) <= 1e-9 * float(np.abs(volts).max()) + 0.1 * step
    runs = np.concatenate(([0], np.cumsum(~same)))
    off, whole = np.bincount(runs, found), np.bincount(runs)
    return np.asarray(found | ((off >= _HELD) & (off >= 0.5 * whole))[runs])


def _not_recurring(found: NDArray[np.bool_], frequency: float) -> NDArray[np.bool_]:
    """Those that don't come again in most cycles at the same moment: a wrong fit cuts every top off."""
    moments = np.floor(_MOMENTS * (frequency * np.arange(found.size) % 1)).astype(int)
    share = np.bincount(moments, found, _MOMENTS) / np.maximum(1, np.bincount(moments, minlength=_MOMENTS))
    return np.asarray(found & (share < _OFTEN)[moments])


def _suspected(volts: Array) -> bool:
    jumps = np.abs(volts[1:-1] - (volts[:-2] + volts[2:]) / 2)
    usual = tone_fit.middle(jumps)
    return bool(np.max(jumps, initial=0.0) > _JUMP * max(usual, 1e-3 * float(np.ptp(volts)) / _JUMP))


def _nearest_fit(part: Part, bad: NDArray[np.bool_]) -> tuple[Array, tuple[float, ...]]:
    """
    At each sample the nearer of a clipped sine and of a tone with its harmonics: an outlier is off both.

    Those known to be `bad` say nothing of either. And the levels of the flats, where the edges between them are steep.
    """
    cycles: Array = part.frequency * (np.arange(part.volts.size, dtype=np.float64) - (part.volts.size - 1) / 2)
    clip = clip_fit.fit(part.volts[~bad], cycles[~bad])
    clipped = clip.at(cycles)
    shifted = part.frequency * (1 + clip.frequency_shift)
    (harmonics,) = tone_fit.ToneBasis(shifted, part.volts.size).fit(np.where(bad, clipped, part.volts))
    nearer = np.abs(part.volts - clipped) < np.abs(part.volts - harmonics.fitted)
    steep = min(clip.over_db(1), clip.over_db(-1)) > _STEEP_DB
    flats = (float(clip.values[4]), float(clip.values[5])) if steep else ()
    return np.where(nearer, clipped, harmonics.fitted), flats
