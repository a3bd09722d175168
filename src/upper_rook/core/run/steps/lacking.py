"""A path that can't be planned yet: it stays in the run, with what it lacks."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.run.readings.step_keys import lacking_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.kind import GAINS, Kind, Place
from upper_rook.core.run.steps.step import State, Step, StepKind, StepState

_LAST = 1000
"""After the gains that can be set."""


class LackingPaths(Kind):
    kind = StepKind.LACKING

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, lack in enumerate(snapshot.plan.unplanned):
            yield (
                (GAINS, _LAST + number),
                Step(
                    key=lacking_key(lack.path),
                    kind=StepKind.LACKING,
                    path=lack.path,
                    name=f"{lack.name} lacks",
                    title=f"{lack.name} can’t be planned yet",
                    do=(lack.sentence,),
                    field=lack.field,
                ),
            )

    @override
    def state(self, snapshot: JobSnapshot, step: Step) -> StepState:
        return StepState(step=step.key, state=State.OPEN, sentence=step.do[0])
