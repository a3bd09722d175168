"""
Laws of a source beyond its clean maximum, as meters show it: cut hard, rounded by a knee, or held level by a limiter.

Each kind of clean maximum gives a shape: dB shown above its volts, at each drive above it in dB.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.signal import clipped_sine
from upper_rook.core.signal.soft_knee import CLEAN_THD, cubic, knee

Array = NDArray[np.float64]

EXPECTED_SCATTER_DB = 0.08
"""Unevenness of a usual volume law together with a meter's flicker (common practice, no source)."""
_SCATTER_WEIGHT = 4.0
"""How many readings that expectation counts for."""
_STEPS = np.geomspace(0.4, 3.2, 5)
"""Decibels of one volume number: where the search begins."""
_TURNS = 8
_BEND_SPREAD = 0.02
"""How much the step itself may change from one number to the next, dB."""
_SLIP = 4.0
"""Scatters beyond which a reading counts no further: a slip of the hand must not decide."""
_LOWEST_DB, _HIGHEST_DB = -40.0, 24.0
_DRIVES = np.linspace(_LOWEST_DB, _HIGHEST_DB, 1601)
_PHASES = np.sin(2 * np.pi * (np.arange(256) + 0.5) / 256)


@dataclass(frozen=True)
class Shape:
    """A kind of clean maximum as meters see it: dB above the clean maximum's volts over `_DRIVES`."""

    told: str
    chance: float
    """Before anything was measured (common practice, no source)."""
    rms_db: Array
    average_db: Array
    """As an average-responding meter shows it, which reads high on a clipped wave."""

    def shown(self, drive: Array, averaging: NDArray[np.bool_]) -> Array:
        """DB above the clean maximum at this drive (…, number); `averaging` says which numbers such a meter read."""
        # Far below the clean maximum the law is straight.
        below = np.minimum(0.0, drive - _LOWEST_DB)
        true = np.interp(drive, _DRIVES, self.rms_db)
        if averaging.any():
            true = np.where(averaging, np.interp(drive, _DRIVES, self.average_db), true)
        return np.asarray(true + below)

    def slope(self, drive: Array, averaging: NDArray[np.bool_]) -> Array:
        """Its derivative."""
        of_rms, of_average = self._slopes
        true = np.interp(drive, _DRIVES, of_rms)
        if averaging.any():
            true = np.where(averaging, np.interp(drive, _DRIVES, of_average), true)
        return np.asarray(true)

    @cached_property
    def _slopes(self) -> tuple[Array, Array]:
        return np.gradient(self.rms_db, _DRIVES), np.gradient(self.average_db, _DRIVES)

    def parted_db(self, drive: Array) -> Array:
        """By how much an average-responding meter reads higher than a true one."""
        return np.asarray(np.interp(drive, _DRIVES, self.average_db - self.rms_db))


@lru_cache(maxsize=1)
def shapes() -> tuple[Shape, ...]:
    """The kinds of clean maximum that are tried, the usual one first."""
    return (
        Shape("as a clipped sine does", 0.8, *_hard()),
        Shape("as one rounded off by a knee does", 0.08, *_of_waves(lambda drive: knee(drive, 6.0))),
        Shape("as one limited softly does", 0.02, *_of_waves(lambda drive: knee(drive, 3.0))),
        Shape("as one limited softly does", 0.02, *_of_waves(np.tanh)),
        Shape("as one limited softly does", 0.02, *_of_waves(cubic)),
        Shape("as one that never quite ends does", 0.01, *_of_waves(np.arctan)),
        Shape("as one that never quite ends does", 0.01, *_of_waves(np.arcsinh)),
        Shape("as behind a limiter that holds it level", 0.04, *_held()),
    )


def _hard() -> tuple[Array, Array]:
    above = np.maximum(0.0, _DRIVES)
    rms = np.where(_DRIVES > 0, clipped_sine.rms_above_db(above), _DRIVES)
    return rms, np.asarray(rms + clipped_sine.average_meter_db(above))


def _held() -> tuple[Array, Array]:
    level = np.minimum(0.0, _DRIVES)
    return level, level


def _of_waves(bend: Callable[[Array], Array]) -> tuple[Array, Array]:
    """Both meters' shapes of what `bend` makes of a sine; its clean maximum is where its distortion reaches 1 %."""
    own = np.linspace(_LOWEST_DB, _HIGHEST_DB + 20, 1801)
    waves = bend(10 ** (own[:, None] / 20) * _PHASES)
    tones = 2 * np.mean(waves * _PHASES, axis=1)
    rms = np.sqrt(np.mean(waves**2, axis=1))
    thd = np.sqrt(np.maximum(0.0, 2 * (rms / tones) ** 2 - 1))
    clean_maximum = float(np.interp(CLEAN_THD, thd, own))
    level = float(np.interp(clean_maximum, own, 20 * np.log10(rms)))
    average = clipped_sine.FORM_FACTOR * np.mean(np.abs(waves), axis=1)
    at = _DRIVES + clean_maximum
    below = np.minimum(0.0, at - own[0])
    true, responding = (np.interp(at, own, 20 * np.log10(one)) + below - level for one in (rms, average))
    return np.asarray(true), np.asarray(responding)


@dataclass(frozen=True)
class Laws:
    """The best volume law for each place of the clean maximum."""

    drive: Array
    """(place, number): dB above the clean maximum."""
    values: Array
    """(place, 3): the clean maximum in dBV, the step in dB a number, and how much that changes from one to the next."""
    level_db: Array
    """(place): the clean maximum, dBV."""
    level_variance: Array
    scatter_db: Array
    log_weight: Array


def fit_laws(
    level_db: Array, distance: Array, shape: Shape, averaging: NDArray[np.bool_], near: Laws | None = None
) -> Laws:
    """
    Fits level, step and bend to the readings for each place: `distance` (place, number) in volume numbers.

    Gauss–Newton from several steps at once. A reading counts no further than a few scatters, so that a slip of the
    hand doesn't decide. Scatter, level, step and bend are then integrated out (Laplace), leaving the place's weight.
    `near` are another shape's laws, to begin from.
    """
    starts = len(_STEPS) if near is None else 1
    x = np.repeat(distance, starts, axis=0)
    bow = x**2 / 2
    values = np.zeros((x.shape[0], 3)) if near is None else near.values.copy()
    if near is None:
        values[:, 1] = np.tile(_STEPS, distance.shape[0])
    values[:, 0] = np.median(level_db - shape.shown(values[:, 1:2] * x, averaging), axis=-1)
    prior = np.zeros((3, 3))
    # Where every number is past a limiter nothing tells the step.
    prior[1, 1] = 1e-6
    prior[2, 2] = (EXPECTED_SCATTER_DB / _BEND_SPREAD) ** 2
    bound = _SLIP * EXPECTED_SCATTER_DB
    for turn in range(_TURNS + 1):
        drive = values[:, 1:2] * x + values[:, 2:3] * bow
        rest = level_db - values[:, :1] - shape.shown(drive, averaging)
        if turn == _TURNS:
            break
        slope = shape.slope(drive, averaging)
        trust = np.minimum(1.0, bound / np.maximum(np.abs(rest), 1e-9))
        columns = np.stack((np.ones_like(x), slope * x, slope * bow), axis=-1)
        square = np.einsum("pni,pn,pnj->pij", columns, trust, columns) + prior
        square[:, range(3), range(3)] *= 1 + 1e-6
        pull = np.einsum("pni,pn->pi", columns, trust * rest) - values @ prior
        values = values + np.linalg.solve(square, pull[..., None])[..., 0]
        values[:, 1] = np.clip(values[:, 1], _STEPS[0] / 2, 1.5 * _STEPS[-1])
    size = np.abs(rest)
    cost = np.sum(np.where(size < bound, size**2, 2 * bound * size - bound**2), axis=-1)
    cost = cost + prior[2, 2] * values[:, 2] ** 2
    freedom = _SCATTER_WEIGHT + level_db.size - 2
    expected = _SCATTER_WEIGHT * EXPECTED_SCATTER_DB**2
    best = np.argmin(cost.reshape(distance.shape[0], -1), axis=1) + np.arange(distance.shape[0]) * starts
    variance = (expected + cost[best]) / freedom
    return Laws(
        drive=drive[best],
        values=values[best],
        level_db=values[best, 0],
        level_variance=variance * np.linalg.inv(square[best])[:, 0, 0],
        scatter_db=np.sqrt(variance),
        log_weight=-0.5 * freedom * np.log1p(cost[best] / expected) - 0.5 * np.linalg.slogdet(square[best])[1],
    )
