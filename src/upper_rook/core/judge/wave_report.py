"""Report on a captured wave: the verdict, its figures with their doubt, and the reasons."""

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen
from upper_rook.core.judge.in_words import InWords

Array = NDArray[np.float64]


class Verdict(InWords):
    """Verdict on a captured wave."""

    CLEAN = "clean"
    UNSEEN = "unseen"
    """A sine as far as it shows, where clipping of half a decibel would not have shown."""
    EDGE = "edge"
    """Clipped for certain, by no more than a quarter of a decibel (1 % THD)."""
    CLIPPED = "clipped"
    SQUARE = "square"
    DISTORTED = "distorted"
    OVER_RANGE = "over_range"
    WRONG_TONE = "wrong_tone"
    NOT_A_TONE = "not_a_tone"
    SILENT = "silent"
    TOO_SHORT = "too_short"


Side = Literal["both", "positive", "negative"]


class WaveReport(Frozen):
    """Report on one capture. Volts are volts, RMS where it says so; None is a figure that can't be found."""

    verdict: Verdict
    frequency_hz: float | None = None
    v_rms: float
    """The AC part, noise and hum included."""
    v_peak_positive: float
    v_peak_negative: float
    v_dc: float
    crest_factor: float | None = None
    thd_percent: float | None = None
    """Harmonics over the fundamental, the noise's share taken off."""
    over_db: float | None = None
    """How far the tone is driven past the clean maximum."""
    over_db_uncertainty: float | None = None
    """Expanded (k = 2, about 95 %)."""
    clean_v_rms: float | None = None
    """The highest clean sine at this point."""
    clipped_side: Side | None = None
    intermodulation_percent: float | None = None
    """Where two tones play: what they make of each other, over the upper one."""
    reasons: tuple[str, ...] = ()


class Harmonic(Frozen):
    """One harmonic of the tone."""

    number: int
    percent: float
    """Of the fundamental."""


@dataclass(frozen=True)
class Judgement:
    """A report with what it rests on."""

    report: WaveReport
    part: slice
    """The samples that were judged."""
    clean_v_uncertainty: float | None = None
    """Of `clean_v_rms`, volts, expanded (k = 2)."""
    noise_v: float | None = None
    """RMS of what is neither the tone nor its harmonics, the converter's steps included."""
    harmonics: tuple[Harmonic, ...] = ()
    fitted: Array | None = None
    """The fitted wave at those samples."""
    sine: Array | None = None
    """The clean sine behind it."""


def without_figures(volts: NDArray[np.floating[Any]], verdict: Verdict, *reasons: str) -> Judgement:
    """A judgement with nothing but what a meter would show."""
    centre = float(volts.mean(dtype=np.float64)) if volts.size else 0.0
    return Judgement(
        WaveReport(
            verdict=verdict,
            v_rms=float(volts.std(dtype=np.float64)) if volts.size else 0.0,
            v_peak_positive=float(volts.max(initial=centre)),
            v_peak_negative=float(volts.min(initial=centre)),
            v_dc=centre,
            reasons=reasons,
        ),
        part=slice(0, volts.size),
    )
