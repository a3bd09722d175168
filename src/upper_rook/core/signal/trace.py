"""Samples of one channel, as an instrument or a file gave them."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Trace:
    """Samples of one channel."""

    volts: NDArray[np.floating[Any]]
    """Single precision is enough for what is only kept; what is judged is judged in double."""
    rate_hz: float
    name: str = ""
    limits_v: tuple[float, float] | None = None
    """Lowest and highest value that the converter can give, where the file says so."""
    averaged: int = 1
    """How many samples of the instrument each of these is the mean of."""
    code_v: float | None = None
    """Volts between the converter's codes, where averages no longer show it."""
