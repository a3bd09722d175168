"""Segment of a capture that is judged: the loudest, and of that the longest that is steady."""

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import format_value
from upper_rook.core.signal import tone_fit
from upper_rook.core.signal.trace import Trace

Array = NDArray[np.float64]
Samples = NDArray[np.floating[Any]]

FEWEST_CYCLES = 2.25
FEWEST_PER_CYCLE = 4.0
JUDGED_SAMPLES = 20_000
"""More than this adds no certainty worth its time: of a longer capture the loudest part is judged."""
_WISHED_CYCLES = 8


@dataclass(frozen=True)
class Part:
    """A stretch of a capture with one tone in it."""

    where: slice
    """Samples of the capture that it covers."""
    volts: Array
    """Those samples, shape (n,)."""
    frequency: float
    """Of the tone, in cycles a sample."""
    reasons: tuple[str, ...] = ()
    """Why it is not the whole."""
    stretch: Array = field(default_factory=lambda: np.zeros(0))
    """The loudest stretch of the capture, volts as captured, of which this may be the steadier part."""
    stretch_begins: int = 0
    """The sample of the capture at which that begins."""
    of_stretch: tuple[str, ...] = ()
    """Those of the reasons that hold for all of it."""
    averaged: int = 1
    """How many samples of the instrument each of these is the mean of."""
    code_v: float = 0.0
    """Volts between the converter's codes, 0 where it has none."""
    filled: int = 0
    """How many of them were off the wave, and are what the rest of it says."""

    @property
    def cycles(self) -> float:
        """How many cycles of the tone it holds."""
        return self.frequency * self.volts.size

    def within(self, start: int, end: int, reason: str) -> "Part":
        """A stretch of it, with the reason."""
        volts = self.volts[start:end]
        where = slice(self.where.start + start, self.where.start + end)
        frequency = tone_fit.coarse_frequency(volts)
        return replace(self, where=where, volts=volts, frequency=frequency, reasons=(*self.reasons, reason))


def chosen(trace: Trace, step: float) -> Part:
    """The part of a capture that is judged; `step` is its code's volts as its samples show it."""
    whole, code_v = trace.volts, step if trace.code_v is None else trace.code_v
    part = _loudest_part(whole, JUDGED_SAMPLES)
    if part.cycles < _WISHED_CYCLES < part.frequency * whole.size:
        part = _loudest_part(whole, int(_WISHED_CYCLES / part.frequency))
    if part.volts.size < whole.size:
        shown, all_of_it = part.volts.size / trace.rate_hz, whole.size / trace.rate_hz
        told = f"Judged: the loudest {_seconds(shown)} of {_seconds(all_of_it)}."
        part = replace(part, reasons=(told,))
    part = replace(
        part,
        averaged=trace.averaged,
        code_v=code_v,
        stretch=part.volts,
        stretch_begins=part.where.start,
        of_stretch=part.reasons,
    )
    steady, gap = tone_fit.steady_part(part.volts, part.frequency)
    if not gap or part.frequency * (steady.stop - steady.start) < FEWEST_CYCLES:
        return part
    return part.within(
        steady.start,
        steady.stop,
        "The tone stops or changes its level in this capture, as where a track restarts; "
        "only its longest steady part is analysed.",
    )


def too_short(part: Part) -> str | None:
    """Why a part holds too little to be judged, or None."""
    if part.cycles < FEWEST_CYCLES:
        return f"About {part.cycles:.1f} cycles; at least 2.5 are needed: choose a slower time base."
    if part.frequency * FEWEST_PER_CYCLE > 1:
        return (
            f"{1 / part.frequency:.1f} samples in a cycle; at least {FEWEST_PER_CYCLE:g} are needed: "
            "choose a faster time base."
        )
    return None


def _loudest_part(whole: Samples, most: int) -> Part:
    where = _loudest(whole, most)
    volts = np.asarray(whole[where], dtype=np.float64)
    return Part(where, volts, tone_fit.coarse_frequency(volts))


def _loudest(volts: Samples, most: int) -> slice:
    """The loudest stretch of `most` samples, in steps of a quarter of it."""
    if volts.size <= most:
        return slice(0, volts.size)
    hop = max(1, most // 4)
    rows = volts[: volts.size // hop * hop].reshape(-1, hop)
    sums, squares = rows.sum(axis=1, dtype=np.float64), np.einsum("ij,ij->i", rows, rows, dtype=np.float64)
    sums, squares = (np.convolve(values, np.ones(4), "valid") for values in (sums, squares))
    power = squares - sums**2 / (4 * hop)
    start = hop * int(np.argmax(power)) if power.size else 0
    return slice(start, min(volts.size, start + most))


def _seconds(value: float) -> str:
    return format_value(value, "s", 3) if value >= 1 else format_value(1000 * value, "ms", 3)
