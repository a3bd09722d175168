"""Fitting a model of a wave to its measured harmonics: each a phasor, with the spread that the noise gives it."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.signal.tone_fit import Harmonics

Array = NDArray[np.float64]
Complex = NDArray[np.complex128]
Model = Callable[[Array], Complex]
"""Phasors, shape (rows, harmonics), for rows of parameters, shape (rows, parameters)."""

POINTS = 512
PHASES = 2 * np.pi * (np.arange(POINTS) + 0.5) / POINTS
SINE = np.sin(PHASES)
_LEFT, _CHI_SQUARE = 0.1, 3.0
"""Of the harmonics, at most, may stay unexplained, and so much of the noise's square: soft rounding leaves more."""
_MOST_NUMBERS = 17
_STEP = 1e-6
_MOST_TURNS = 30
_LARGE, _MOST_STARTS, _FIRST_TURNS = 6, 6, 10
"""A model with more parameters than that is tried from so many starts at most, each for so many turns first."""
_LEAST_SPREAD = 2e-5
"""Of the tone: no model of so few terms is better than that."""
_FOLDED = 0.01
"""Of all harmonics: what folds back from beyond those that can be distinguished."""


@dataclass(frozen=True)
class HarmonicFit:
    """The best parameters, their covariance, and what they leave."""

    values: Array
    covariance: Array
    phasors: Complex
    unexplained: float
    """Of the harmonics without the tone itself, as a ratio."""
    chi_square: float

    @property
    def explains(self) -> bool:
        """Whether hardly anything is left that isn't noise."""
        return self.unexplained <= _LEFT and self.chi_square <= _CHI_SQUARE

    def spread_of(self, figure: Callable[[Array], float]) -> float:
        """Standard uncertainty of a figure worked out from the parameters."""
        told = figure(self.values)
        gradient = np.array([(figure(self.values + step) - told) / 1e-5 for step in 1e-5 * np.eye(self.values.size)])
        return float(np.sqrt(max(0.0, gradient @ self.covariance @ gradient)))


def numbers(harmonics: Harmonics) -> Array:
    """The harmonics that are fitted: 1, 2, … to the most that says something."""
    return np.arange(1.0, min(_MOST_NUMBERS, harmonics.phasors.size) + 1)


def phasors_of(waves: Array, orders: Array) -> Complex:
    """Phasors of cycles at PHASES, shape (rows, POINTS)."""
    bins = np.fft.rfft(waves, axis=1)[:, 1 : orders.size + 1] * 2 / POINTS
    return np.asarray(bins * np.exp(-1j * orders * PHASES[0]))


def fit(harmonics: Harmonics, model: Model, starts: Iterable[Array], low: Array, high: Array) -> HarmonicFit | None:
    """
    The least squares over all `starts`, each shape (parameters,), between bounds; None where nothing can be fitted.

    The second and the third parameter are the logarithm of the size and the phase; a start gives them as 0.
    """
    # It takes a moment to load, which a clean wave need not wait for.
    from scipy.optimize import least_squares

    orders = numbers(harmonics)
    measured = harmonics.phasors[: orders.size]
    have = float(np.sqrt(np.sum(np.abs(measured[1:]) ** 2)))
    noise = np.sqrt(harmonics.noise_power / 2)
    spread = float(np.sqrt(noise**2 + (_LEAST_SPREAD * np.abs(measured[0])) ** 2 + (_FOLDED * have) ** 2 / orders.size))

    def whole(rows: Array) -> Complex:
        size, turn = rows[:, 1:2], rows[:, 2:3]
        return np.asarray(model(rows) * np.exp(size + 1j * orders * turn))

    def left(values: Array) -> Array:
        rest = (whole(values[None])[0] - measured) / spread
        return np.concatenate((rest.real, rest.imag))

    def jacobian(values: Array) -> Array:
        rows = whole(np.vstack((values, values + _STEP * np.eye(values.size))))
        slopes = (rows[1:] - rows[0]).T / (_STEP * spread)
        return np.concatenate((slopes.real, slopes.imag))

    begins = np.array(list(starts))
    if not begins.size:
        return None
    tones = whole(begins)[:, 0]
    begins[:, 1], begins[:, 2] = np.log(np.abs(measured[0]) / np.abs(tones)), np.angle(measured[0] / tones)
    begins = np.clip(begins, low + 1e-6, high - 1e-6)
    enough = 1.0 * 2 * orders.size

    def descended(begin: Array, most: int) -> Any:
        return least_squares(left, begin, jac=jacobian, bounds=(low, high), max_nfev=most)

    # Of many starts of a large model the nearest go some way; only the best of them goes on to its end.
    many = len(begins) > _MOST_STARTS and low.size > _LARGE
    if many:
        begins = begins[np.argsort(np.sum(np.abs(whole(begins) - measured) ** 2, axis=1))][:_MOST_STARTS]
    best: Any = None
    for begin in begins:
        found = descended(begin, _FIRST_TURNS if many else _MOST_TURNS)
        best = found if best is None or found.cost < best.cost else best
        if 2 * best.cost < enough:
            break
    if many and 2 * best.cost >= enough:
        best = descended(best.x, _MOST_TURNS)
    fitted = whole(best.x[None])[0]
    chi_square = float(2 * best.cost / max(1, 2 * orders.size - best.x.size))
    return HarmonicFit(
        values=best.x,
        covariance=np.linalg.pinv(best.jac.T @ best.jac) * max(1.0, chi_square),
        phasors=fitted,
        unexplained=_beyond_noise(fitted[1:] - measured[1:], noise) / have if have else 1.0,
        chi_square=chi_square,
    )


def _beyond_noise(left: Complex, spread: float) -> float:
    """Root of the power that is left, less the noise's share of it."""
    return float(np.sqrt(max(0.0, float(np.sum(np.abs(left) ** 2)) - 2 * spread**2 * left.size)))
