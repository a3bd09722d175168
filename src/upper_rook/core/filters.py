"""
Crossover filters and equaliser bands as complex responses, and a filter's true corner from measured volts.

Crossovers are analogue prototypes (a digital one with its corner prewarped differs only near half its rate);
equaliser bands are the biquads of the W3C Audio EQ Cookbook.
"""

import math
from collections.abc import Iterable, Sequence
from enum import StrEnum
from operator import attrgetter
from typing import Annotated, Self

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import Field, model_validator

from upper_rook.core.amplifier import SwitchPosition
from upper_rook.core.errors import BadInput
from upper_rook.core.units import Frozen, Hertz, Volts

Complex = NDArray[np.complex128]
Array = NDArray[np.float64]

EQUALISER_RATE_HZ = 48_000.0
_LEAST_DOUBT_DB = 0.05
_REACH_OCTAVES = 8.0
_SLOPES = (0.3, 10.0)
"""Orders that a fitted filter may have."""


class Pass(StrEnum):
    """Which side of its corner a filter lets through."""

    HIGH = "high"
    LOW = "low"


class Shape(StrEnum):
    """How a filter bends at its corner."""

    BUTTERWORTH = "butterworth"
    LINKWITZ_RILEY = "linkwitz_riley"


class Crossover(Frozen):
    """One filter, set."""

    kind: Pass
    corner_hz: Hertz
    """The frequency that is marked or set."""
    order: Annotated[int, Field(ge=1, le=8)] = 2
    """6 dB an octave each."""
    shape: Shape = Shape.BUTTERWORTH
    depth_db: Annotated[float, Field(ge=-12, le=-0.5)] | None = None
    """What the maker means by the marked corner; None for what the shape itself gives there (−3 or −6 dB)."""

    @model_validator(mode="after")
    def _even(self) -> Self:
        if self.shape is Shape.LINKWITZ_RILEY and self.order % 2:
            raise BadInput("a Linkwitz–Riley filter has an even order: 12, 24, 36 or 48 dB an octave", "order")
        return self

    @property
    def marked_db(self) -> float:
        """The level at the marked corner."""
        if self.depth_db is not None:
            return self.depth_db
        return -6.0206 if self.shape is Shape.LINKWITZ_RILEY else -3.0103

    @property
    def ratio(self) -> float:
        """What the voltage at the marked corner is multiplied by."""
        return float(10 ** (self.marked_db / 20))

    @property
    def natural_hz(self) -> float:
        """The corner of the shape itself, so that the marked one comes out at its depth."""
        if self.depth_db is None:
            return self.corner_hz
        # Butterworth: |H|⁻² = 1 + x²ⁿ; Linkwitz–Riley: |H|⁻¹ = 1 + xⁿ, with x = f/fc for a low-pass.
        if self.shape is Shape.LINKWITZ_RILEY:
            past = (10 ** (-self.depth_db / 20) - 1) ** (1 / self.order)
        else:
            past = (10 ** (-self.depth_db / 10) - 1) ** (1 / (2 * self.order))
        return float(self.corner_hz / past if self.kind is Pass.LOW else self.corner_hz * past)

    def response(self, frequency_hz: ArrayLike) -> Complex:
        """H at each frequency."""
        x = np.asarray(frequency_hz, dtype=np.float64) / self.natural_hz
        s: Complex = np.asarray(1j * (x if self.kind is Pass.LOW else -1 / np.maximum(x, 1e-12)))
        if self.shape is Shape.LINKWITZ_RILEY:
            return _butterworth(s, self.order // 2) ** 2
        return _butterworth(s, self.order)

    def level_db(self, frequency_hz: ArrayLike) -> Array:
        """20·log10|H|, by its closed form: −10·log10(1 + x²ⁿ), and twice that of half the order for Linkwitz–Riley."""
        x = np.asarray(frequency_hz, dtype=np.float64) / self.natural_hz
        rise = x if self.kind is Pass.LOW else 1 / np.maximum(x, 1e-12)
        if self.shape is Shape.LINKWITZ_RILEY:
            return np.asarray(-20 * np.log10(1 + rise**self.order))
        return np.asarray(-10 * np.log10(1 + rise ** (2 * self.order)))


class Dial(Frozen):
    """What is printed at the ends of a filter's knob."""

    lowest_hz: Hertz
    highest_hz: Hertz
    times_ten: bool = False
    """Whether a ×1/×10 switch belongs to it."""

    @model_validator(mode="after")
    def _order(self) -> Self:
        if self.lowest_hz >= self.highest_hz:
            raise BadInput("the dial's lowest frequency must be below its highest")
        return self


class FilterPlace(StrEnum):
    """Where a filter is set."""

    SOURCE = "source"
    PROCESSOR = "processor"
    AMPLIFIER = "amplifier"


class ChannelFilter(Frozen):
    """A filter on a path."""

    crossover: Crossover
    place: FilterPlace = FilterPlace.AMPLIFIER
    dial: Dial | None = None
    """None when it is set by number."""
    active_in: Annotated[tuple[SwitchPosition, ...], Field(max_length=4)] = ()
    """Positions of the amplifier's filter switch that leave it in the signal; none given: all of them."""


def _butterworth(s: Complex, order: int) -> Complex:
    """∏ 1/(s − sₖ) over the left half of the unit circle, s in corners: pairs of poles make s² − 2·Re(sₖ)·s + 1."""
    square = s * s + 1
    whole = s + 1 if order % 2 else np.ones_like(s)
    for number in range(1, order // 2 + 1):
        whole = whole * (square - 2 * math.cos(math.pi * (2 * number + order - 1) / (2 * order)) * s)
    return np.asarray(1 / whole)


class BandKind(StrEnum):
    """An equaliser band's kind."""

    PEAK = "peak"
    LOW_SHELF = "low_shelf"
    HIGH_SHELF = "high_shelf"


class EqualiserBand(Frozen):
    """One band of an equaliser."""

    kind: BandKind = BandKind.PEAK
    frequency_hz: Hertz
    gain_db: Annotated[float, Field(ge=-40, le=40)]
    q: Annotated[float, Field(ge=0.1, le=50)] = 1.0

    def biquad(self) -> tuple[Array, Array]:
        """(b, a) at EQUALISER_RATE_HZ."""
        tops, bottoms = _biquads((self,))
        return tops[0], bottoms[0]

    def response(self, frequency_hz: ArrayLike) -> Complex:
        """H at each frequency."""
        return equaliser_response((self,), frequency_hz)


def equaliser_response(bands: tuple[EqualiserBand, ...], frequency_hz: ArrayLike) -> Complex:
    """All bands of an equaliser in a row, at each frequency."""
    return equaliser_responses((bands,), frequency_hz)[0]


def equaliser_responses(rows: Sequence[tuple[EqualiserBand, ...]], frequency_hz: ArrayLike) -> list[Complex]:
    """The responses of several equalisers at once: the bands of all of them are worked out together."""
    frequency = np.minimum(np.asarray(frequency_hz, dtype=np.float64), EQUALISER_RATE_HZ / 2)
    filled = [row for row in rows if row]
    flat = np.ones(frequency.shape, dtype=np.complex128)
    if not filled:
        return [flat] * len(rows)
    back = np.exp(-2j * np.pi * frequency / EQUALISER_RATE_HZ)
    # Real times real, two numbers to a point: the polynomials have no imaginary part.
    powers = np.stack((np.ones_like(back), back, back**2)).view(np.float64)
    tops, bottoms = _biquads(tuple(band for row in filled for band in row))
    found, place = [], 0
    # Row by row from here: what is multiplied then stays in the processor's cache.
    for row in rows:
        own = slice(place, place + len(row))
        top, bottom = ((one[own] @ powers).view(np.complex128).prod(axis=0) for one in (tops, bottoms))
        found.append(np.asarray(top / bottom) if row else flat)
        place += len(row)
    return found


def equaliser_db(bands: tuple[EqualiserBand, ...], frequency_hz: Array) -> Array:
    """The level after all bands of an equaliser."""
    return level_db(equaliser_response(bands, frequency_hz))


_BAND = attrgetter("frequency_hz", "gain_db", "q", "kind")


def _biquads(bands: tuple[EqualiserBand, ...]) -> tuple[Array, Array]:
    """(b, a) of the W3C Audio EQ Cookbook, a row for each band."""
    *figures, kinds = zip(*map(_BAND, bands), strict=True)
    hertz, gain_db, q = map(np.array, figures)
    amount = 10 ** (gain_db / 40)
    turn = 2 * np.pi * np.minimum(hertz, 0.49 * EQUALISER_RATE_HZ) / EQUALISER_RATE_HZ
    cosine, alpha = np.cos(turn), np.sin(turn) / (2 * q)
    peak = (
        np.stack((1 + alpha * amount, -2 * cosine, 1 - alpha * amount), axis=1),
        np.stack((1 + alpha / amount, -2 * cosine, 1 - alpha / amount), axis=1),
    )
    # The high shelf is the low one with the sign of the cosine turned.
    sign = np.array([-1.0 if kind is BandKind.HIGH_SHELF else 1.0 for kind in kinds])
    more, less, root = amount + 1, amount - 1, 2 * np.sqrt(amount) * alpha
    slope, bend = sign * less * cosine, sign * more * cosine
    shelf = (
        amount[:, None] * np.stack((more - slope + root, 2 * sign * (less - bend), more - slope - root), axis=1),
        np.stack((more + slope + root, -2 * sign * (less + bend), more + slope - root), axis=1),
    )
    is_peak = np.array([kind is BandKind.PEAK for kind in kinds])[:, None]
    return np.where(is_peak, peak[0], shelf[0]), np.where(is_peak, peak[1], shelf[1])


def total_db(filters: Iterable[Crossover], frequency_hz: Array) -> Array:
    """The level after filters in a row, which multiply: their decibels add."""
    total = np.zeros(frequency_hz.shape)
    for one in filters:
        total = total + one.level_db(frequency_hz)
    return total


def level_db(response: Complex) -> Array:
    """20·log10|H|."""
    return np.asarray(20 * np.log10(np.maximum(np.abs(response), 1e-12)))


def _first_guess(octaves: Array, down_db: Array, bounds: tuple[list[float], list[float]]) -> Array:
    """log2 x = log2(10^(down/10) − 1) / 2n: a straight line in log f, whose slope is the order."""
    past = (down_db / 10 * np.log2(10) + np.log2(-np.expm1(-down_db / 10 * np.log(10)))) / 2
    slope = float(np.polyfit(octaves, past, 1)[0]) if octaves.size > 1 and np.ptp(octaves) > 0 else 2.0
    slope = float(np.clip(slope, *_SLOPES))
    guess = np.array([float(np.mean(octaves - past / slope)), slope])
    return np.asarray(np.clip(guess, np.array(bounds[0]) + 1e-6, np.array(bounds[1]) - 1e-6))


class FilterReading(Frozen):
    """Volts with the filter in at one frequency, and with it open."""

    frequency_hz: Hertz
    filtered_v: Volts
    open_v: Volts


class MeasuredCorner(Frozen):
    """Where a filter really is, from readings."""

    corner_hz: float
    """3 dB down."""
    slope_db_octave: float
    order: int
    """The nearest whole one."""
    worst_db: float
    """The largest departure of a reading from the fitted filter."""
    reasons: tuple[str, ...] = ()


def measured_corner(kind: Pass, readings: Iterable[FilterReading], order: int | None = None) -> MeasuredCorner:
    """
    Corner and slope of a Butterworth filter through the readings; one reading needs `order`.

    Raises:
        BadInput: when the readings can't tell.
    """
    # It takes a while to load, which nothing else here needs.
    import scipy.optimize

    rows = list(readings)
    if not rows or (len(rows) == 1 and order is None):
        raise BadInput("One reading tells the corner only of a known slope: take a second one, an octave away.")
    down_db = np.array([20 * np.log10(one.open_v / one.filtered_v) for one in rows])
    useful = down_db > _LEAST_DOUBT_DB
    if np.count_nonzero(useful) < (1 if order else 2):
        raise BadInput("The readings hardly fall: take them at the corner and beyond it, where the filter works.")
    octaves = np.log2([one.frequency_hz for one in rows]) * (1 if kind is Pass.LOW else -1)
    if order is None and np.ptp(octaves[useful]) < 0.1:
        raise BadInput("The readings lie too close together to tell a slope: take one an octave further.")

    def left(values: Array) -> Array:
        # 10·log10(1 + x²ⁿ), which must not overflow far beyond the corner.
        rise = 2 * (values[1] if order is None else order) * np.log(2) * (octaves - values[0])
        return np.asarray(10 / np.log(10) * np.logaddexp(0, rise) - down_db)

    # A corner some octaves outside of the readings can't be told from them anyway.
    lowest, highest = float(octaves.min()) - _REACH_OCTAVES, float(octaves.max()) + _REACH_OCTAVES
    bounds = ([lowest, _SLOPES[0]], [highest, _SLOPES[1]])
    found = scipy.optimize.least_squares(left, _first_guess(octaves[useful], down_db[useful], bounds), bounds=bounds).x
    bend = float(found[1]) if order is None else float(order)
    worst = float(np.max(np.abs(left(found))))
    reasons = [] if worst < 1 else [f"A reading lies {worst:.1f} dB off any filter: another filter may be in the way."]
    return MeasuredCorner(
        corner_hz=float(2 ** (found[0] if kind is Pass.LOW else -found[0])),
        slope_db_octave=6.02 * bend,
        order=max(1, round(bend)),
        worst_db=worst,
        reasons=tuple(reasons),
    )
