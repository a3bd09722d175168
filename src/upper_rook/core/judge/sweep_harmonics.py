"""
Clipping before a filter in a recorded sweep: each band's third harmonic, put right for what the path leaves of it.

A filter behind a stage that clips takes the harmonics away, and the tops are flat no more. A path that passes H(f)
leaves of the third harmonic H(3f)/H(f) against the tone; the sweep itself has measured both (Farina 2000, Novak 2015).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.signal import clipped_sine

Array = NDArray[np.float64]

_GRID_DB = np.geomspace(0.02, 20.0, 400)
_SEEN = 6.0
"""Standard deviations of noise from which a third harmonic is one."""
_LEAST_OVER_DB, _FEWEST_BANDS = 0.3, 3
"""Less, or in fewer bands in a row, is as likely a stage's own small distortion."""
_MISLEADS_DB = 0.5
"""Overdrive that must show, or a band counts as one where nothing can be seen."""
_LEVEL_DB = 0.3
"""How well the level at the third harmonic's own frequency is known."""
_SIDES_DOUBT = 0.15
"""Of the overdrive: one side that clips alone has half of the third harmonic, and a knee another share."""


@dataclass(frozen=True)
class Third:
    """A band's third harmonic and the noise on it, as ratios to its tone."""

    frequency: float
    """Cycles a sample."""
    level_v: float
    ratio: float
    noise: float


@dataclass(frozen=True)
class Behind:
    """Clipping of one band before a filter. Doubt is expanded (k = 2)."""

    over_db: float
    doubt_db: float
    clean_v: float
    """Highest clean sine where it was recorded, RMS."""


def behind_a_filter(thirds: Sequence[Third]) -> tuple[dict[int, Behind], list[int]]:
    """
    (clipping by the bands' places, the places where half a decibel would not show).

    Bands are in order of frequency. The level at a third harmonic is that of the sweep when it gets there.
    """
    lefts = _left_of_thirds(thirds)
    found: dict[int, Behind] = {}
    blind = []
    for place, (third, left) in enumerate(zip(thirds, lefts, strict=True)):
        # Noise and hum weigh the more, the less the path leaves.
        if _over_db(_SEEN * third.noise / left) > _MISLEADS_DB:
            blind.append(place)
        if third.ratio > _SEEN * third.noise:
            over = _over_db(third.ratio / left)
            if over > _LEAST_OVER_DB:
                found[place] = _told(third, left, over)
    return {place: behind for place, behind in found.items() if _in_a_row(place, found)}, blind


def _left_of_thirds(thirds: Sequence[Third]) -> Array:
    """H(3f)/H(f) of every band; past the end of what is heard a path is taken to pass as much as there."""
    log_f = np.log([third.frequency for third in thirds])
    log_level = np.log([third.level_v for third in thirds])
    at = np.interp(log_f + np.log(3), log_f, log_level)
    return np.asarray(np.exp(at - log_level))


def _over_db(ratio: float) -> float:
    """Overdrive at which a clipped sine has this much of a third harmonic; the grid's end beyond it."""
    return float(np.interp(ratio, _third_ratios(), _GRID_DB))


def _third_ratios() -> Array:
    k, theta = 10 ** (_GRID_DB / 20), np.arcsin(10 ** (-_GRID_DB / 20))
    # b₃ by Fourier integration of k·sin clipped at 1, over b₁.
    third = (2 * k * (np.sin(2 * theta) / 2 - np.sin(4 * theta) / 4) + 4 * np.cos(3 * theta) / 3) / np.pi
    return np.asarray(np.abs(third) / clipped_sine.fundamental(_GRID_DB))


def _told(third: Third, left: float, over: float) -> Behind:
    away = third.noise / third.ratio + _LEVEL_DB * np.log(10) / 20
    by_level = abs(_over_db(third.ratio / left * (1 + away)) - over)
    clean = third.level_v / float(clipped_sine.fundamental(over))
    return Behind(over, 2 * float(np.hypot(by_level, _SIDES_DOUBT * over)), clean)


def _in_a_row(place: int, found: dict[int, Behind]) -> bool:
    """Whether a band is one of several neighbours."""
    first = last = place
    while first - 1 in found:
        first -= 1
    while last + 1 in found:
        last += 1
    return last - first + 1 >= _FEWEST_BANDS
