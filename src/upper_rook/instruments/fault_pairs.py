"""Two faults at once: a careful person corrects the first that shows, and the second has to show then."""

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.readings.records import Outcome
from upper_rook.core.run.steps.step import Step, StepKind
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.instruments.auto_operator import AutoOperator
from upper_rook.instruments.fault_hunt import SHOWS_AT, signs, signs_of_step, signs_without_fault
from upper_rook.instruments.simulated import Fault
from upper_rook.instruments.simulation import compared


class PairHunt(Frozen):
    """One pair of faults on one bench."""

    first: Fault | None
    """The fault that was corrected; None where neither showed."""
    second: Fault | None
    """The fault that was left."""
    second_found: bool
    signs: tuple[str, ...]
    """Sentences that point at the second, at the steps where it should show."""
    complete: bool
    clips: bool
    """Whether the system clips somewhere at the number handed over, unseen."""


_SAID = (Outcome.ABOVE_AT_LOWEST.value,)
"""Reasons on the sheet that say that it clips as it was left."""


class _Corrector(AutoOperator):
    """Corrects one fault as soon as a step points it out, and does that step again."""

    def __init__(self, sheet: JobSheet, seed: int, faults: tuple[Fault, ...], *, scope: bool) -> None:
        super().__init__(sheet, seed, scope=scope, faults=faults)
        self.corrected: Fault | None = None
        self.without = signs_without_fault(sheet, seed, scope)

    def new_signs(self) -> list[tuple[StepKind, str]]:
        """Everything that the run points out and a run without faults doesn't."""
        return [sign for sign in signs(self.run()) if sign not in self.without]

    def _do(self, step: Step) -> None:
        super()._do(step)
        if self.corrected is not None:
            return
        new = [sign for sign in signs_of_step(self.run(), step) if sign not in self.without]
        shown = [fault for fault in self.state.faults if step.kind in SHOWS_AT[fault]]
        if new and shown:
            self.corrected = shown[0]
            self.turn(faults=tuple(fault for fault in self.state.faults if fault is not self.corrected))
            super()._do(step)


def hunt_pair(sheet: JobSheet, pair: tuple[Fault, Fault], seed: int = 1, *, scope: bool = True) -> PairHunt:
    """A run with both faults on the bench; where either would explain what is shown, the pair's first is corrected."""
    person = _Corrector(sheet, seed, pair, scope=scope)
    run = person.work()
    second = next((fault for fault in pair if fault is not person.corrected), None)
    at = SHOWS_AT[second] if person.corrected and second else ()
    shown = tuple(words for kind, words in person.new_signs() if kind in at)
    left = compared(person, run)
    return PairHunt(
        first=person.corrected,
        second=second if person.corrected else None,
        second_found=bool(shown),
        signs=shown,
        complete=run.complete,
        clips=any(path.clips and not path.clips_before and path.settled not in _SAID for path in left.paths),
    )
