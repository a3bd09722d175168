"""
Crossover filters and equaliser bands as complex responses.

Crossovers are analogue prototypes (a digital one with its corner prewarped differs only near half its rate);
equaliser bands are the biquads of the W3C Audio EQ Cookbook.
"""

import math
from collections.abc import Iterable, Sequence
from enum import StrEnum
from functools import cache
from operator import attrgetter
from typing import Annotated, Self

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Hertz

Complex = NDArray[np.complex128]
Array = NDArray[np.float64]

EQUALISER_RATE_HZ = 48_000.0
_THREE_DB = 10 * math.log10(2)


class SwitchPosition(StrEnum):
    """Position of an amplifier's filter switch."""

    FLAT = "flat"
    HIGH = "high"
    LOW = "low"
    BAND = "band"


class Pass(StrEnum):
    """Side of its corner that a filter lets through."""

    HIGH = "high"
    LOW = "low"


class Shape(StrEnum):
    """How a filter bends at its corner."""

    BUTTERWORTH = "butterworth"
    LINKWITZ_RILEY = "linkwitz_riley"
    BESSEL = "bessel"
    """Flat delay; its corner is where it is 3 dB down."""
    CHOSEN_Q = "chosen_q"
    """12 dB an octave with a Q of its own; its corner is where it rings, and the level there is Q itself."""


class Crossover(Frozen):
    """One filter, set."""

    model_config = labelled(
        "Filter",
        kind="high- or low-pass",
        corner_hz="corner",
        order="slope",
        shape="shape",
        depth_db="depth at the corner",
        q="Q",
    )
    kind: Pass
    corner_hz: Hertz
    """The frequency that is marked or set."""
    order: Annotated[int, Field(ge=1, le=8)] = 2
    """6 dB an octave each."""
    shape: Shape = Shape.BUTTERWORTH
    q: Annotated[float, Field(ge=0.3, le=4)] | None = None
    """Only with a Q chosen by hand."""
    depth_db: Annotated[float, Field(ge=-12, le=-0.5)] | None = None
    """Level at the marked corner by the maker, in dB; None for the level of the shape itself there (−3 or −6 dB)."""

    @model_validator(mode="after")
    def _even(self) -> Self:
        if self.shape is Shape.LINKWITZ_RILEY and self.order % 2:
            raise BadInput("a Linkwitz–Riley filter has an even order: 12, 24, 36 or 48 dB an octave", "order")
        if (self.shape is Shape.CHOSEN_Q) is (self.q is None):
            raise BadInput("give the Q where it is chosen, and only there", "q")
        if self.shape is Shape.CHOSEN_Q and (self.order != 2 or self.depth_db is not None):
            raise BadInput("a filter with a chosen Q has 12 dB an octave, and its depth is its Q", "order")
        return self

    @property
    def marked_db(self) -> float:
        """The level at the marked corner."""
        if self.depth_db is not None:
            return self.depth_db
        if self.q is not None:
            return 20 * math.log10(self.q)
        return -6.0206 if self.shape is Shape.LINKWITZ_RILEY else -3.0103

    @property
    def ratio(self) -> float:
        """Ratio of the voltage at the marked corner."""
        return float(10 ** (self.marked_db / 20))

    @property
    def natural_hz(self) -> float:
        """The corner of the shape itself, so that the marked one comes out at its depth."""
        if self.depth_db is None:
            return self.corner_hz
        # Butterworth: |H|⁻² = 1 + x²ⁿ; Linkwitz–Riley: |H|⁻¹ = 1 + xⁿ, with x = f/fc for a low-pass.
        if self.shape is Shape.BESSEL:
            past = _bessel_reaching(self.order, self.depth_db)
        elif self.shape is Shape.LINKWITZ_RILEY:
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
        if self.shape is Shape.BESSEL:
            return _bessel(s, self.order)
        if self.q is not None:
            return np.asarray(1 / (s * s + s / self.q + 1))
        return _butterworth(s, self.order)

    def level_db(self, frequency_hz: ArrayLike) -> Array:
        """20·log10|H|, by its closed form: −10·log10(1 + x²ⁿ), and twice that of half the order for Linkwitz–Riley."""
        x = np.asarray(frequency_hz, dtype=np.float64) / self.natural_hz
        if self.shape in (Shape.BESSEL, Shape.CHOSEN_Q):
            return level_db(self.response(frequency_hz))
        rise = x if self.kind is Pass.LOW else 1 / np.maximum(x, 1e-12)
        if self.shape is Shape.LINKWITZ_RILEY:
            return np.asarray(-20 * np.log10(1 + rise**self.order))
        return np.asarray(-10 * np.log10(1 + rise ** (2 * self.order)))


class Dial(Frozen):
    """Figures printed at the ends of a filter's knob."""

    model_config = labelled(
        "Filter’s scale",
        lowest_hz="from",
        highest_hz="to",
        times_ten="×10 switch",
    )
    lowest_hz: Hertz
    highest_hz: Hertz
    times_ten: bool = False
    """Whether a ×1/×10 switch belongs to it."""

    @model_validator(mode="after")
    def _order(self) -> Self:
        if self.lowest_hz >= self.highest_hz:
            raise BadInput("the dial’s lowest frequency must be below its highest")
        return self


class FilterPlace(StrEnum):
    """Where a filter is set."""

    SOURCE = "source"
    PROCESSOR = "processor"
    AMPLIFIER = "amplifier"


class ChannelFilter(Frozen):
    """A filter on a path."""

    model_config = labelled(
        "Filter",
        crossover="filter",
        place="where it is",
        dial="scale",
        active_in="switch positions",
    )
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


@cache
def _bessel_polynomial(order: int) -> tuple[float, ...]:
    """The reverse Bessel polynomial θₙ, highest power first: aₖ = (2n−k)! / (2ⁿ⁻ᵏ k! (n−k)!)."""
    return tuple(
        math.factorial(2 * order - k) / (2 ** (order - k) * math.factorial(k) * math.factorial(order - k))
        for k in range(order, -1, -1)
    )


def _bessel_raw(s: Complex, order: int) -> Complex:
    """θₙ(0)/θₙ(s), with a delay of 1 s."""
    polynomial = _bessel_polynomial(order)
    return np.asarray(polynomial[-1] / np.polyval(polynomial, s))


@cache
def _bessel_at_db(order: int, depth_db: float) -> float:
    """Where the raw shape is so many decibels down, found by halving: it falls all the way."""
    low, high = 0.0, 1000.0
    for _ in range(60):
        middle = (low + high) / 2
        level = 20 * math.log10(abs(complex(_bessel_raw(np.asarray(1j * middle), order))))
        low, high = (middle, high) if level > depth_db else (low, middle)
    return low


def _bessel_reaching(order: int, depth_db: float) -> float:
    """Corners at which a shape scaled to −3 dB is at another depth."""
    return _bessel_at_db(order, depth_db) / _bessel_at_db(order, -_THREE_DB)


def _bessel(s: Complex, order: int) -> Complex:
    """The same with its corner 3 dB down."""
    return _bessel_raw(s * _bessel_at_db(order, -_THREE_DB), order)


class BandKind(StrEnum):
    """An equaliser band's kind."""

    PEAK = "peak"
    LOW_SHELF = "low_shelf"
    HIGH_SHELF = "high_shelf"


class EqualiserBand(Frozen):
    """One band of an equaliser."""

    model_config = labelled(
        "Equaliser band",
        kind="kind",
        frequency_hz="frequency",
        gain_db="gain",
        q="Q",
    )
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
        top, bottom = ((values[own] @ powers).view(np.complex128).prod(axis=0) for values in (tops, bottoms))
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
    for crossover in filters:
        total = total + crossover.level_db(frequency_hz)
    return total


def level_db(response: Complex) -> Array:
    """20·log10|H|."""
    return np.asarray(20 * np.log10(np.maximum(np.abs(response), 1e-12)))
