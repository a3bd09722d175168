"""Fitting a clipped sine, clip(A·sin(φ)+c, lo, hi), to samples by least squares."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.signal import clipped_sine

Array = NDArray[np.float64]

_TURN = 2 * np.pi
_STARTS_DB = (0.5, 6.0, 20.0)
_FIRST_SAMPLES = 1500
_FEW_A_CYCLE = 30
_AS_GOOD = 1e-6
"""Where two starts lead to sums of squares as near as this, they lead to the same place."""


@dataclass(frozen=True)
class ClipFit:
    """The fitted parameters: sine, cosine, drift of frequency, centre, upper and lower level."""

    values: Array
    information: Array
    """JᵀJ, shape (6, 6)."""
    square_sum: float
    """Sum of squares left over, V²."""
    fitted: Array
    """The clipped sine at every sample."""
    sine: Array
    """The sine as it would be without a clean maximum."""

    @cached_property
    def covariance(self) -> Array:
        """Of the parameters, for noise as large as what is left."""
        # A level that no sample reaches has no information: its variance is what can't be told, not zero.
        scale = np.sqrt(np.maximum(np.diag(self.information), 1e-9))
        within = np.outer(scale, scale)
        inverse = np.linalg.inv(self.information / within + 1e-12 * np.eye(6)) / within
        return np.asarray(inverse * self.square_sum / max(1, self.fitted.size - 6))

    @property
    def amplitude_v(self) -> float:
        """Peak of the sine before it is clipped."""
        return float(np.hypot(self.values[0], self.values[1]))

    @property
    def centre_v(self) -> float:
        """The sine's own middle, which is the mean of the wave only when both sides clip alike."""
        return float(self.values[3])

    @property
    def frequency_shift(self) -> float:
        """Relative correction to the frequency of the cycles it was fitted on."""
        return float(self.values[2])

    def level_v(self, side: int) -> float:
        """How far the flat lies from the centre: `side` +1 above, −1 below."""
        return side * (float(self.values[4 if side > 0 else 5]) - self.centre_v)

    def over_db(self, side: int) -> float:
        """Overdrive of one side in dB, 0 when it isn't reached."""
        return max(0.0, 20 * float(np.log10(max(self.amplitude_v, 1e-300) / max(self.level_v(side), 1e-300))))

    def gradients(self, side: int) -> tuple[Array, Array]:
        """Derivatives of (20·log10 of the amplitude, 20·log10 of the level) after the six parameters."""
        slope = 20 / np.log(10)
        of_amplitude, of_level = np.zeros(6), np.zeros(6)
        of_amplitude[:2] = slope * self.values[:2] / max(self.amplitude_v**2, 1e-300)
        of_level[4 if side > 0 else 5] = side * slope / self.level_v(side)
        of_level[3] = -side * slope / self.level_v(side)
        return of_amplitude, of_level

    def spread_db(self, gradient: Array) -> float:
        """Standard uncertainty in dB of something with this gradient, shape (6,), for white noise."""
        return float(np.sqrt(max(0.0, float(gradient @ self.covariance @ gradient))))

    def half_gradient(self) -> Array:
        """Derivative of 20·log10 of half the distance between the flats after the six parameters."""
        slope = 20 / np.log(10) / (self.values[4] - self.values[5])
        return np.array([0.0, 0.0, 0.0, 0.0, slope, -slope])

    def at(self, cycles: Array) -> Array:
        """The clipped sine at other places of the turns that it was fitted on."""
        return _model(self.values, cycles)[0]

    def flat(self, side: int) -> NDArray[np.bool_]:
        """Samples on the flat of one side."""
        return np.asarray(self.sine >= self.values[4] if side > 0 else self.sine <= self.values[5])


def fit(volts: Array, cycles: Array, near: Array | None = None) -> ClipFit:
    """
    The best clipped sine through `volts`, sampled at `cycles` (turns of the tone; a sweep's are uneven).

    Without `near`, parameters to begin from, several overdrives are tried as a start when the first leaves more than
    its noise. Long captures are first fitted on a part of their samples.
    """
    if near is not None:
        return _descend(volts, cycles, near)
    sampled = _sample(volts.size)
    start = _first_fit(volts[sampled], cycles[sampled])
    return start if sampled.size == volts.size else _descend(volts, cycles, start.values, most=2)


def _first_fit(volts: Array, cycles: Array) -> ClipFit:
    ends = round(0.015 * (volts.size - 1)), round(0.985 * (volts.size - 1))
    ordered = np.partition(volts, ends)
    lowest, highest = float(ordered[ends[0]]), float(ordered[ends[1]])
    centre, level = (highest + lowest) / 2, (highest - lowest) / 2
    ac = (volts - volts.mean()) * 2 / volts.size
    of_sine, of_cosine = float(ac @ np.sin(_TURN * cycles)), float(ac @ np.cos(_TURN * cycles))
    phase = np.arctan2(of_cosine, of_sine)
    best = None
    for over in _STARTS_DB:
        # A fundamental in the ratio of this overdrive to its level.
        flat = max(np.hypot(of_sine, of_cosine), level) / float(clipped_sine.fundamental(over))
        amplitude = flat * 10 ** (over / 20)
        start = np.array(
            [amplitude * np.cos(phase), amplitude * np.sin(phase), 0.0, centre, centre + flat, centre - flat]
        )
        found = _descend(volts, cycles, start)
        if best is not None and abs(found.square_sum - best.square_sum) < _AS_GOOD * best.square_sum:
            break
        if best is None or found.square_sum < best.square_sum:
            best = found
        if best.square_sum < (1 + 4 / np.sqrt(volts.size)) * _noise_floor(volts, cycles, best):
            break
    if best is None:
        raise ValueError("there is no start to fit from")
    return best


def _sample(count: int) -> NDArray[np.int64]:
    """Every sample of a short capture, else one from each of equal stretches, at uneven places within them."""
    if count <= 2 * _FIRST_SAMPLES:
        return np.arange(count)
    stride = count // _FIRST_SAMPLES
    places = np.arange(_FIRST_SAMPLES)
    return places * stride + (places * 7919) % stride


def _noise_floor(volts: Array, cycles: Array, fit: ClipFit) -> float:
    """
    The sum of squares of noise alone, from how much what is left jumps from sample to sample.

    With few samples in a cycle a misfit jumps as noise does; neighbours in the cycle then tell them apart.
    """
    left = volts - fit.fitted
    floor = float(np.sum(np.diff(left) ** 2) / 2) if left.size > 1 else 0.0
    if abs(cycles[-1] - cycles[0]) * _FEW_A_CYCLE < left.size:
        return floor
    return min(floor, float(np.sum(np.diff(left[np.argsort(np.round(cycles % 1, 6), kind="stable")]) ** 2) / 2))


def _model(values: Array, cycles: Array) -> tuple[Array, Array, Array, Array]:
    """(clipped, unclipped, sin, cos) at every sample."""
    angle = (_TURN * (1 + values[2])) * cycles
    sines, cosines = np.sin(angle), np.cos(angle)
    sine = values[0] * sines + values[1] * cosines + values[3]
    return np.minimum(np.maximum(sine, values[5]), values[4]), sine, sines, cosines


def _descend(volts: Array, cycles: Array, start: Array, most: int = 40) -> ClipFit:
    """Levenberg–Marquardt with the exact derivatives; the corners move with the parameters."""
    values, damping = start, 1e-3
    model = _model(values, cycles)
    left = volts - model[0]
    square_sum = float(left @ left)
    for _ in range(most):
        square, pull = _normal(values, cycles, model, left)
        improved = False
        for _ in range(5):
            damped = square + np.diag(damping * np.maximum(np.diag(square), 1e-12))
            try:
                trial = values + np.linalg.solve(damped, pull)
            except np.linalg.LinAlgError:
                # Nothing on the slopes tells some of them: what is known stays.
                break
            tried = _model(trial, cycles)
            rest = volts - tried[0]
            trial_sum = float(rest @ rest)
            if trial_sum < square_sum and trial[4] > trial[5]:
                improved = True
                break
            damping *= 8
        if not improved:
            break
        gain = 1 - trial_sum / square_sum
        values, model, left, square_sum, damping = trial, tried, rest, trial_sum, damping / 8
        if gain * volts.size < 1e-3:
            break
    square, _ = _normal(values, cycles, model, left)
    return ClipFit(values, square, square_sum, model[0], model[1])


def _normal(values: Array, cycles: Array, model: tuple[Array, Array, Array, Array], left: Array) -> tuple[Array, Array]:
    """JᵀJ and Jᵀr. A sample on a flat depends on that level alone."""
    _, sine, sines, cosines = model
    above, below = sine > values[4], sine < values[5]
    inside = ~(above | below)
    columns = np.empty((4, sine.size))
    columns[0], columns[1], columns[3] = sines, cosines, 1
    columns[2] = _TURN * cycles * (values[0] * cosines - values[1] * sines)
    columns *= inside
    square = np.zeros((6, 6))
    square[:4, :4] = columns @ columns.T
    square[4, 4], square[5, 5] = np.count_nonzero(above), np.count_nonzero(below)
    pull = np.zeros(6)
    pull[:4] = columns @ left
    pull[4], pull[5] = left @ above, left @ below
    return square, pull
