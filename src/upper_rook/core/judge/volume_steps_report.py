"""Volume steps as they are read, and the verdict on them."""

from dataclasses import dataclass
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from upper_rook.core.common.units import Frozen, Volts, format_value
from upper_rook.core.judge.in_words import InWords

Array = NDArray[np.float64]

MOST_VOLUME_READINGS = 200


class VolumeReading(Frozen):
    """One volume number with what the meter showed."""

    volume: Annotated[float, Field(ge=0, le=500)]
    voltage_v: Volts
    average_v: Volts | None = None
    """A second, average-responding meter at the same time."""
    averaging: bool = False
    """Whether `voltage_v` itself is such a meter's."""


class VolumeStepsFinding(InWords):
    """Verdict on volume steps."""

    FOUND = "found"
    NOT_REACHED = "not_reached"
    """The readings never leave the straight line."""
    BOUNDED = "bounded"
    """Several numbers are as likely: surely clean to one, perhaps to another."""
    CANNOT_TELL = "cannot_tell"


class OddReading(Frozen):
    """A reading that doesn't fit the others."""

    volume: float
    voltage_v: float
    expected_v: float
    """Volts that the others give there."""

    @property
    def sentence(self) -> str:
        """Both figures, and what to do."""
        return (
            f"{format_value(self.voltage_v, 'V')} at {self.volume:g} doesn’t fit the others, which give about "
            f"{format_value(self.expected_v, 'V', 3)} there: read {self.volume:g} again. It isn’t counted."
        )


class VolumeStepsReport(Frozen):
    """Verdict on volume steps, with the clean maximum."""

    verdict: VolumeStepsFinding
    clean_volume: int | None = None
    """The clean maximum."""
    surely_volume: int | None = None
    """The highest number that is clean beyond doubt, where the clean maximum itself can't be told."""
    perhaps_volume: int | None = None
    """The highest number that may still be clean."""
    clean_v_rms: float | None = None
    """The clean maximum: the highest clean sine, volts RMS."""
    uncertainty_db: float | None = None
    """Of the clean maximum, expanded (about 95 %)."""
    reasons: tuple[str, ...] = ()
    odd: OddReading | None = None
    """The reading that was left out."""

    @property
    def usable_volume(self) -> int | None:
        """The clean maximum, or the highest number that is clean beyond doubt."""
        return self.surely_volume if self.clean_volume is None else self.clean_volume


@dataclass(frozen=True)
class VolumeStepsJudgement:
    """A report with the curve behind it."""

    report: VolumeStepsReport
    line_db: Array | None = None
    """The straight line at each volume reading, dBV: where a source without a clean maximum would be."""
    curve_db: Array | None = None
    """The fitted readings, dBV."""
    next_volumes: tuple[int, ...] = ()
    """Next number to measure."""
