"""What every kind of step answers for."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from upper_rook.core.common.units import Frozen
from upper_rook.core.metrology.comparison import Comparison
from upper_rook.core.run.job_snapshot import JobSnapshot
from upper_rook.core.run.step import Step, StepKind, StepState

Place = tuple[int, ...]
"""Where a step stands in the order of the trade: the stage of the work, the path within it, the turn within that."""

PREPARE, CLEAN_MAXIMA, CONVERTERS, GAINS, CORNERS, PROOF, LISTEN = range(7)
STAGES = ("Prepare", "Source", "Converters", "Gains", "Crossovers", "Proof", "Hand over")
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
    comparison: Comparison | None
    instrument: str | None
    remark: str
    outdated: bool


@dataclass(frozen=True)
class Kind:
    """One kind of step: what it asks, how it stands, and what it leaves on the sheet."""

    kind: StepKind
    steps: Callable[[JobSnapshot], Iterator[tuple[Place, Step]]]
    """Every step of this kind, each with its place."""
    state: Callable[[JobSnapshot, Step], StepState]
    """How one of them stands; a skip is looked after for all kinds together."""
    measured: Callable[[JobSnapshot, Step, StepState], Measured | None] = lambda _situation, _step, _state: None
    """Its line of the result, or None."""
    guessed: Callable[[JobSnapshot, Step, StepState], Iterator[str]] = lambda _situation, _step, _state: iter(())
    """What it leaves as a guess."""
    left: Callable[[JobSnapshot, Step, StepState], str] = lambda _situation, _step, _state: ""
    """What it leaves on the sheet in words."""
