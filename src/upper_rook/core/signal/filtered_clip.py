"""
A clipped sine that was filtered afterwards, found by its harmonics.

A filter that is linear keeps each harmonic's amplitude and phase times its own response:
c_k = clip_k(overdrive, asymmetry) · H(k). So a flat top that AC coupling has tilted, or an all-pass has bent, is fitted
jointly with the filter: first orders, then an all-pass, a second-order high-pass, an equaliser's band.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from upper_rook.core.signal import harmonic_fit
from upper_rook.core.signal.harmonic_fit import SINE, Array, Complex, HarmonicFit
from upper_rook.core.signal.tone_fit import Harmonics

_FEWEST_HARMONICS = 6
_STARTS_DB = (1.5, 6.0, 0.3)
_BOUND_DB = (0.02, 30.0)
_DB = 20 / float(np.log(10))
_APART = 4.0


@dataclass(frozen=True)
class FilteredClip:
    """A clip and the filter behind it, as far as the harmonics tell. Doubts are standard uncertainties."""

    over_db: float
    over_doubt_db: float
    clean_v: float
    """The highest clean sine where it was captured, RMS."""
    clean_doubt_v: float
    sides: tuple[int, ...]
    """Sides that clip: 1 above, −1 below."""
    unexplained: float
    """Of the harmonics, as a ratio."""
    chi_square: float
    kind: str
    """The filter in the trade's words."""
    phasors: Complex
    """The harmonics of the model, about the middle of the capture."""


@dataclass(frozen=True)
class Filter:
    """A filter: its response over rows of parameters and the harmonics' numbers, where to begin, and its bounds."""

    kind: str
    response: Callable[[Array, Array], Complex]
    starts: tuple[tuple[float, ...], ...]
    low: tuple[float, ...]
    high: tuple[float, ...]


def _column(p: Array, place: int) -> Array:
    return np.asarray(np.exp(p[:, place : place + 1]))


def _first_orders(p: Array, h: Array) -> Complex:
    s = 1j * h[None]
    return np.asarray(s / (s + _column(p, 0)) / (1 + s / _column(p, 1)))


def _with_all_pass(p: Array, h: Array) -> Complex:
    s = 1j * h[None] / _column(p, 2)
    return np.asarray(_first_orders(p, h) * (1 - s) / (1 + s))


def _second_order(p: Array, h: Array) -> Complex:
    s = 1j * h[None] / _column(p, 0)
    return np.asarray(s**2 / (s**2 + s / _column(p, 2) + 1) / (1 + 1j * h[None] / _column(p, 1)))


def _with_band(p: Array, h: Array) -> Complex:
    s, a, q = 1j * h[None] / _column(p, 2), _column(p, 3), _column(p, 4)
    return np.asarray(_first_orders(p, h) * (s**2 + s * a / q + 1) / (s**2 + s / (a * q) + 1))


def _averaged(p: Array, h: Array) -> Complex:
    """The mean over a part of a cycle, as a scope's high resolution takes it."""
    return np.asarray(np.sinc(h[None] * _column(p, 0)), dtype=np.complex128)


FIRST_ORDERS = Filter(
    "AC coupling, a high-pass or a low-pass", _first_orders, ((-6.0, 5.0), (-1.5, 5.0)), (-9, 1), (1.5, 9)
)
AVERAGED = Filter("averaging", _averaged, ((-3.0,), (-2.0,)), (-5,), (-0.7,))
FURTHER = (
    Filter("an all-pass", _with_all_pass, ((-6.0, 6.0, 0.0), (-6.0, 6.0, 2.0)), (-9, 1, -3), (1.5, 9, 4)),
    Filter("a steeper high-pass", _second_order, ((-2.0, 6.0, -0.35),), (-6, 1, -1), (1, 9, 1)),
    Filter(
        "an equaliser",
        _with_band,
        tuple((-6.0, 6.0, at, lift, 0.2) for at in (0.5, 1.2) for lift in (-0.2, 0.2)),
        (-9, 1, -1.5, -0.9, -1),
        (1.5, 9, 3, 0.9, 1.5),
    ),
)
"""Candidates, the simplest first."""


def fit(harmonics: Harmonics, behind: Filter) -> FilteredClip | None:
    """The clip that explains these harmonics together with one kind of filter behind it; None where it doesn't."""
    orders = harmonic_fit.numbers(harmonics)
    uneven = _has_even(harmonics)
    first = 4 if uneven else 3
    # More to find than there is to find it from.
    if orders.size < _FEWEST_HARMONICS or first + len(behind.low) > 2 * orders.size - 2:
        return None

    def model(rows: Array) -> Complex:
        apart = rows[:, 3:4] if uneven else np.zeros((rows.shape[0], 1))
        waves = np.clip(np.exp(rows[:, :1]) * SINE, -np.exp(apart), 1.0)
        return harmonic_fit.phasors_of(waves, orders) * behind.response(rows[:, first:], orders)

    between = [-_APART] * uneven, [_APART] * uneven
    low = np.array([_BOUND_DB[0] / _DB, -25.0, -25.0, *between[0], *behind.low])
    high = np.array([_BOUND_DB[1] / _DB, 25.0, 25.0, *between[1], *behind.high])
    found = harmonic_fit.fit(harmonics, model, _starts(behind, uneven=uneven), low, high)
    return _told(found, behind, uneven=uneven, first=first) if found and found.explains else None


def _has_even(harmonics: Harmonics) -> bool:
    floor = harmonics.noise_power
    even, odd = harmonics.amplitudes[1::2], harmonics.amplitudes[2::2]
    return bool(np.sum(even**2) > max(20 * floor * even.size, 1e-3 * float(np.sum(odd**2))))


def _starts(behind: Filter, *, uneven: bool) -> Iterator[Array]:
    for filters in behind.starts:
        for over_db in _STARTS_DB:
            for apart in (0.3, -0.3) if uneven else (None,):
                yield np.array([over_db / _DB, 0.0, 0.0, *([] if apart is None else [apart]), *filters])


def _told(found: HarmonicFit, behind: Filter, *, uneven: bool, first: int) -> FilteredClip:
    def lower(values: Array) -> float:
        return min(0.0, float(values[3])) if uneven else 0.0

    def over_db(values: Array) -> float:
        return _DB * (float(values[0]) - lower(values))

    def log_clean(values: Array) -> float:
        tone = np.abs(behind.response(values[None, first:], np.array([1.0]))[0, 0])
        return float(values[1]) + lower(values) + float(np.log(tone))

    clean = float(np.exp(log_clean(found.values)) / np.sqrt(2))
    drive, apart = float(found.values[0]), float(found.values[3]) if uneven else 0.0
    sides = tuple(side for side, level in ((1, 0.0), (-1, apart)) if drive > level)
    return FilteredClip(
        over_db=over_db(found.values),
        over_doubt_db=found.spread_of(over_db),
        clean_v=clean,
        clean_doubt_v=clean * found.spread_of(log_clean),
        sides=sides,
        unexplained=found.unexplained,
        chi_square=found.chi_square,
        kind=behind.kind,
        phasors=found.phasors,
    )
