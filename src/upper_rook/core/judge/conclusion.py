"""Conclusions from a fitted wave, before they are put in a report."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import format_db
from upper_rook.core.judge.wave_report import Verdict


def sides_in_words(sides: tuple[int, ...]) -> tuple[str, str]:
    """The sides that clip, 1 above and −1 below, as a report has them and in a sentence."""
    if len(sides) == 2:
        return "both", "both sides"
    side = "positive" if 1 in sides else "negative"
    return side, f"the {side} side"


def amount(over_db: float, doubt_db: float) -> str:
    """An overdrive with its expanded doubt: "1.20 dB ± 0.05"."""
    return f"{format_db(over_db, 2)} ± {max(0.01, doubt_db):.2f}"


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
