"""Conclusions from a fitted wave, before they are put in a report."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.judge.wave_report import Verdict


@dataclass(frozen=True)
class Conclusion:
    """A verdict with its figures and its reasons."""

    verdict: Verdict
    peaks_v: tuple[float, float]
    """The highest and the lowest."""
    thd: float
    """Harmonics over fundamental, as a ratio."""
    fitted: NDArray[np.float64]
    """The wave as it was understood, shape (n,)."""
    reason: str
    """Sentence that comes first."""
    more: tuple[str, ...] = ()
    """Sentence that comes last."""
    clean_doubt_v: float | None = None
    figures: dict[str, float | str | None] = field(default_factory=dict)
    """Further fields of the report."""
