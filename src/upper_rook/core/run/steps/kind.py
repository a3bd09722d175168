"""Protocol of every kind of step."""

from abc import ABC, abstractmethod
from collections.abc import Iterator
from datetime import date
from typing import ClassVar

from upper_rook.core.common.units import Frozen
from upper_rook.core.metrology.comparison import Comparison
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import Step, StepKind, StepState

Place = tuple[int, ...]
"""Where a step stands in the order of the trade: the stage of the work, the path within it, the turn within that."""

PREPARE, CLEAN_MAXIMA, CONVERTERS, GAINS, CORNERS, PROOF, LISTEN, VISIT = range(8)
STAGES = ("Prepare", "Source", "Converters", "Gains", "Crossovers", "Proof", "Hand over", "Visit")
"""Their names on the step map."""


class Measured(Frozen):
    """One amplifier output as it was left: a line of the result."""

    name: str
    probe: str
    target_v: float
    voltage_v: float | None
    uncertainty_v: float | None
    power_w: float | None
    """V²/R with the load's rated ohms."""
    power_uncertainty_w: float | None
    volume: int | None
    """Volume number it was taken at."""
    tone_hz: float | None = None
    """Tone that it was read with."""
    taken_on: date | None = None
    """The day that it was read."""
    comparison: Comparison | None
    instrument: str | None
    remark: str
    outdated: bool


class Kind(ABC):
    """One kind of step: what it asks, its state, and what it leaves on the sheet."""

    kind: ClassVar[StepKind]

    @abstractmethod
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        """Every step of this kind, each with its place."""

    @abstractmethod
    def state(self, snapshot: JobSnapshot, step: Step) -> StepState:
        """State of one of them; a skip is looked after for all kinds together."""

    def measured(self, snapshot: JobSnapshot, step: Step, state: StepState) -> Measured | None:
        """Its line of the result, or None."""
        return None

    def guessed(self, snapshot: JobSnapshot, step: Step, state: StepState) -> Iterator[str]:
        """Guesses that it leaves."""
        return iter(())

    def left(self, snapshot: JobSnapshot, step: Step, state: StepState) -> str:
        """Words that it leaves on the sheet."""
        return ""
