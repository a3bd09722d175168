"""
Laws of a source's volume, below its clean maximum and beyond it, as meters show them.

Below: even decibels a number, or a power of the number. Beyond: cut hard, with a supply that sags, rounded by a knee,
or held level by a limiter. Each kind of clean maximum gives a shape: dB shown above its volts at each drive above it.
"""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
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
_TURNS, _FURTHER_TURNS = 8, 5
"""Turns of the search from nowhere, and from where another shape ended."""
_BEND_SPREAD = 0.02
"""How much the step itself may change from one number to the next, dB."""
_SLIP = 4.0
"""Scatters beyond which a reading counts no further: a slip of the hand must not decide."""
_LOWEST_NUMBER = 0.5
_DB_OF_A_POWER = 20 / np.log(10)
_LEAST_POWER = 0.9
_LOWEST_DB, _HIGHEST_DB = -40.0, 24.0
_DRIVES = np.linspace(_LOWEST_DB, _HIGHEST_DB, 1601)
_PHASES = np.sin(2 * np.pi * (np.arange(256) + 0.5) / 256)


def _looked_up(drive: Array, table: Array) -> Array:
    """`table` over `_DRIVES` at each drive; as `np.interp`, which doesn't know that the table is even, but quicker."""
    at = np.clip((drive - _LOWEST_DB) * ((_DRIVES.size - 1) / (_HIGHEST_DB - _LOWEST_DB)), 0.0, _DRIVES.size - 1)
    place = np.minimum(at.astype(np.intp), _DRIVES.size - 2)
    low = table[place]
    return np.asarray(low + (at - place) * (table[place + 1] - low))


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
        true = _looked_up(drive, self.rms_db)
        if averaging.any():
            true = np.where(averaging, _looked_up(drive, self.average_db), true)
        return np.asarray(true + below)

    def slope(self, drive: Array, averaging: NDArray[np.bool_]) -> Array:
        """Its derivative."""
        of_rms, of_average = self._slopes
        true = _looked_up(drive, of_rms)
        if averaging.any():
            true = np.where(averaging, _looked_up(drive, of_average), true)
        return np.asarray(true)

    @cached_property
    def _slopes(self) -> tuple[Array, Array]:
        return np.gradient(self.rms_db, _DRIVES), np.gradient(self.average_db, _DRIVES)

    def parted_db(self, drive: Array) -> Array:
        """By how much an average-responding meter reads higher than a true one."""
        return _looked_up(drive, self.average_db - self.rms_db)


@lru_cache(maxsize=1)
def shapes() -> tuple[Shape, ...]:
    """The kinds of clean maximum that are tried, the usual one first."""
    return (
        Shape("as a clipped sine does", 0.66, *_hard()),
        Shape("as one whose supply sags does", 0.04, *_hard(sags=0.08)),
        Shape("as one whose supply sags does", 0.03, *_hard(sags=0.2)),
        Shape("as one whose supply sags does", 0.02, *_hard(sags=0.3)),
        Shape("as one whose supply sags does", 0.01, *_hard(sags=0.5)),
        Shape("as a clipped sine does on a meter that responds to the average", 0.08, *_averaged(*_hard())),
        Shape("as one rounded off by a knee does", 0.04, *_of_waves(lambda drive: knee(drive, 12.0))),
        Shape("as one rounded off by a knee does", 0.04, *_of_waves(lambda drive: knee(drive, 6.0))),
        Shape("as one limited softly does", 0.02, *_of_waves(lambda drive: knee(drive, 3.0))),
        Shape("as one limited softly does", 0.02, *_of_waves(np.tanh)),
        Shape("as one limited softly does", 0.02, *_of_waves(cubic)),
        Shape("as one that never quite ends does", 0.01, *_of_waves(np.arctan)),
        Shape("as one that never quite ends does", 0.01, *_of_waves(np.arcsinh)),
        Shape("as behind a limiter that holds it level", 0.04, *_held()),
    )


def _hard(sags: float = 0.0) -> tuple[Array, Array]:
    """A clipped sine; its clean maximum falls by `sags` dB with every dB of drive."""
    above = np.maximum(0.0, _DRIVES) * (1 + sags)
    rms = np.where(_DRIVES > 0, clipped_sine.rms_above_db(above), _DRIVES) - sags * np.maximum(0.0, _DRIVES)
    return rms, np.asarray(rms + clipped_sine.average_meter_db(above))


def _averaged(_rms_db: Array, average_db: Array) -> tuple[Array, Array]:
    """The same on a meter that nobody has said responds to the average."""
    return average_db, average_db


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
    true, responding = (np.interp(at, own, 20 * np.log10(meter)) + below - level for meter in (rms, average))
    return np.asarray(true), np.asarray(responding)


class VolumeLaw(StrEnum):
    """Volts of a clean source over the numbers of its volume."""

    DECIBELS = "decibels"
    """So many decibels a number."""
    POWER = "power"
    """A power of the number: a linear control, an audio taper."""

    @property
    def chance(self) -> float:
        """Before anything was measured (common practice, no source)."""
        return {VolumeLaw.DECIBELS: 0.8, VolumeLaw.POWER: 0.2}[self]

    def distance(self, volumes: Array, places: Array) -> Array:
        """
        How far each number lies above each place, (place, number), in numbers at that place.

        >>> VolumeLaw.DECIBELS.distance(np.array([10.0, 20.0]), np.array([10.0])).tolist()
        [[0.0, 10.0]]
        """
        if self is VolumeLaw.DECIBELS:
            return np.asarray(volumes - places[:, None])
        own = np.maximum(places, _LOWEST_NUMBER)[:, None]
        return np.asarray(own * np.log(np.maximum(volumes, _LOWEST_NUMBER) / own))

    def log_chance(self, step_db: Array, places: Array) -> Array:
        """Log probability of so many decibels a number at each place: powers from the first on are usual."""
        if self is VolumeLaw.DECIBELS:
            return np.zeros_like(places)
        power = step_db * np.maximum(places, _LOWEST_NUMBER) / _DB_OF_A_POWER
        return np.asarray(-0.5 * (np.minimum(0.0, np.log(power / _LEAST_POWER)) / 0.1) ** 2)


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


def _normal_equations(step: Array, bend: Array, trust: Array, rest: Array) -> tuple[Array, Array]:
    """Left and right side of weighted least squares for level, step and bend: (place, 3, 3) and (place, 3)."""
    columns = (trust, trust * step, trust * bend)
    square = np.empty((step.shape[0], 3, 3))
    square[:, 0, 0] = trust.sum(axis=1)
    for first, second, product in (
        (0, 1, columns[1].sum(axis=1)),
        (0, 2, columns[2].sum(axis=1)),
        (1, 2, (columns[1] * bend).sum(axis=1)),
    ):
        square[:, first, second] = square[:, second, first] = product
    square[:, 1, 1] = (columns[1] * step).sum(axis=1)
    square[:, 2, 2] = (columns[2] * bend).sum(axis=1)
    return square, np.stack([(column * rest).sum(axis=1) for column in columns], axis=1)


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
    turns = _TURNS if near is None else _FURTHER_TURNS
    for turn in range(turns + 1):
        drive = values[:, 1:2] * x + values[:, 2:3] * bow
        rest = level_db - values[:, :1] - shape.shown(drive, averaging)
        if turn == turns:
            break
        slope = shape.slope(drive, averaging)
        trust = np.minimum(1.0, bound / np.maximum(np.abs(rest), 1e-9))
        square, pull = _normal_equations(slope * x, slope * bow, trust, rest)
        square += prior
        square[:, range(3), range(3)] *= 1 + 1e-6
        values = values + np.linalg.solve(square, (pull - values @ prior)[..., None])[..., 0]
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
