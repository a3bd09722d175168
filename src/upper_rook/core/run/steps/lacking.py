"""A path that can't be planned yet: it stays in the run, with what it lacks."""

from collections.abc import Iterator

from upper_rook.core.run.job_snapshot import JobSnapshot
from upper_rook.core.run.step import State, Step, StepKind, StepState
from upper_rook.core.run.step_keys import lacking_key
from upper_rook.core.run.steps.kind import GAINS, Kind, Place

_LAST = 1000
"""After the gains that can be set."""


def _steps(snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
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


def _state(_situation: JobSnapshot, step: Step) -> StepState:
    return StepState(step=step.key, state=State.OPEN, sentence=step.do[0])


KIND = Kind(StepKind.LACKING, _steps, _state)
