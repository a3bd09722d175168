"""Two tones at once: what an amplifier makes of them beside their own harmonics tells how straight it is."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import format_value
from upper_rook.core.signal import tone_fit

Array = NDArray[np.float64]

SECOND_SHARE = 0.1
"""Of the louder tone, the least that the other must have to be one of two."""
_CLOSE = 2.0
"""Ratio of their frequencies up to which their difference is what tells, else the sidebands of the upper one."""
_MOST_ORDER = 5
_APART_CYCLES, _TOLD_APART_CYCLES = 1.5, 0.6
"""Cycles in the whole capture by which an upper tone is off a harmonic, and by which two tones are apart."""
_TURNS = 15
_HIGHEST = 0.47
_STANDS_OUT = 48.0
"""Times the noise's share of a squared amplitude over the count, from which two sidebands' sum is more than it."""
_TURN = 2 * np.pi
_TONES = [(1, 0), (0, 1)]
_WORTH_IT = 0.05
"""Of the power, what two tones alone may leave: more is no distortion that anybody would ask about."""
_UNEXPLAINED = 0.01
"""Of the power, what two tones and all they make may leave: more is music."""


@dataclass(frozen=True)
class TwoTones:
    """Two tones and their products: frequencies in cycles a sample, the rest as ratios to the upper tone."""

    lower: float
    upper: float
    second_order: float
    third_order: float
    floor: float
    """Level of each product that noise alone would show."""

    @property
    def whole(self) -> float:
        """Both orders together."""
        return float(np.hypot(self.second_order, self.third_order))

    def told(self, rate_hz: float) -> str:
        """The finding in words."""
        tones = " and ".join(format_value(value * rate_hz, "Hz") for value in (self.lower, self.upper))
        if self.whole <= self.floor:
            return f"Two tones, {tones}: no intermodulation above {100 * self.floor:.2g} % of the upper one."
        return (
            f"Two tones, {tones}: {100 * self.whole:.2g} % of intermodulation "
            f"(second order {100 * self.second_order:.2g} %, third {100 * self.third_order:.2g} %)."
        )


def two_tones(volts: Array) -> TwoTones | None:
    """The two tones of a capture, shape (n,), that holds just two, with what they make of each other; else None."""
    first = tone_fit.coarse_frequency(volts)
    if not 0 < first < _HIGHEST:
        return None
    (alone,) = tone_fit.ToneBasis(first, volts.size, 1).fit(volts)
    second = tone_fit.coarse_frequency(volts - alone.fitted)
    tones = _refined(volts, np.array(sorted((first, second))))
    if tones is None or _is_harmonic(tones, volts.size):
        return None
    # Music, noise and a tone that stops leave most of themselves; only what doesn't is worth its products.
    _, left = _amplitudes(volts, tones, _TONES)
    if float(left @ left) > _WORTH_IT * volts.size * float(volts.var()):
        return None
    places = _places(tones, volts.size)
    amplitudes, left = _amplitudes(volts, tones, places)
    by_place = dict(zip(places, amplitudes, strict=True))
    pair = by_place.get((1, 0), 0.0), by_place.get((0, 1), 0.0)
    unlike = min(pair) < SECOND_SHARE * max(pair)
    if unlike or float(left @ left) > _UNEXPLAINED * volts.size * float(volts.var()):
        return None
    return _told(tones, by_place, float(np.sqrt(left @ left / max(1, left.size - 2 * len(places)))), left.size)


def _is_harmonic(tones: Array, count: int) -> bool:
    """Whether the upper is a harmonic of the lower: then it is one tone, bent."""
    low, high = (float(tone) for tone in tones)
    multiple = round(high / low)
    apart = abs(high - multiple * low) * count
    return 1 < multiple <= tone_fit.MOST_HARMONICS and apart < _APART_CYCLES


def _told(tones: Array, amplitudes: dict[tuple[int, int], float], noise: float, count: int) -> TwoTones:
    low, high = amplitudes[1, 0], amplitudes[0, 1]
    floor = noise * float(np.sqrt(_STANDS_OUT / count)) / high
    if tones[1] / tones[0] < _CLOSE:
        # Difference-frequency distortion, IEC 60268-3 from memory: products over the sum of both tones.
        second = amplitudes.get((-1, 1), 0.0) / (low + high)
        third = (amplitudes.get((2, -1), 0.0) + amplitudes.get((-1, 2), 0.0)) / (low + high)
    else:
        # Modulation distortion, IEC 60268-3 from memory: sidebands over the upper tone.
        second = (amplitudes.get((-1, 1), 0.0) + amplitudes.get((1, 1), 0.0)) / high
        third = (amplitudes.get((-2, 1), 0.0) + amplitudes.get((2, 1), 0.0)) / high
    return TwoTones(float(tones[0]), float(tones[1]), second, third, floor)


def _places(tones: Array, count: int) -> list[tuple[int, int]]:
    """How often each tone counts in every product that can be distinguished from the others and from the tones."""
    taken: list[float] = []
    places = []
    for number, other in _orders():
        place = number * tones[0] + other * tones[1]
        if not _APART_CYCLES / count < place < _HIGHEST or any(
            abs(place - seen) * count < _APART_CYCLES for seen in taken
        ):
            continue
        taken.append(float(place))
        places.append((number, other))
    return places


def _orders() -> Iterator[tuple[int, int]]:
    """The tones themselves first, then products by their order."""
    spread = range(-_MOST_ORDER, _MOST_ORDER + 1)
    every = [(number, other) for number in spread for other in spread if 0 < abs(number) + abs(other) <= _MOST_ORDER]
    yield from sorted(every, key=lambda pair: (abs(pair[0]) + abs(pair[1]), pair[0] < 0, pair[1] < 0))


def _amplitudes(volts: Array, tones: Array, places: list[tuple[int, int]]) -> tuple[Array, Array]:
    """(peak volts of each product, what all leave)."""
    steps = np.arange(volts.size) - (volts.size - 1) / 2
    angles = _TURN * np.outer(steps, [number * tones[0] + other * tones[1] for number, other in places])
    columns = np.concatenate((np.ones((volts.size, 1)), np.sin(angles), np.cos(angles)), axis=1)
    weights = np.linalg.lstsq(columns, volts)[0]
    number = len(places)
    return np.hypot(weights[1 : number + 1], weights[number + 1 :]), np.asarray(volts - columns @ weights)


def _refined(volts: Array, tones: Array) -> Array | None:
    """Both frequencies, by Gauss–Newton on both at once; None where they run into each other."""
    steps = np.arange(volts.size) - (volts.size - 1) / 2
    for _ in range(_TURNS):
        angles = _TURN * np.outer(steps, tones)
        sines, cosines = np.sin(angles), np.cos(angles)
        plain = np.concatenate((np.ones((volts.size, 1)), sines, cosines), axis=1)
        weights = np.linalg.lstsq(plain, volts)[0]
        turned = _TURN * steps[:, None] * (weights[1:3] * cosines - weights[3:5] * sines)
        tones = tones + np.linalg.lstsq(np.concatenate((plain, turned), axis=1), volts)[0][5:7]
        if not 0 < tones[0] < tones[1] < _HIGHEST or (tones[1] - tones[0]) * volts.size < _TOLD_APART_CYCLES:
            return None
    return tones
