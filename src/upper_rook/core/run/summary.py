"""How a job stands, as a list shows it."""

from enum import StrEnum

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.progress import Run
from upper_rook.core.run.step import State


class Standing(StrEnum):
    """What jobs are sorted out by."""

    REDO = "redo"
    """Something that was done no longer holds."""
    OPEN = "open"
    FINISHED = "finished"
    UNREADABLE = "unreadable"
    """This version of the app can't read its sheet."""


class JobSummary(Frozen):
    """A run in a line."""

    stands: Standing
    states: tuple[State, ...] = ()
    """One per step, in order."""
    current: str
    """The step to go on with, in words; why it can't be read where it can't."""


def summary_of(run: Run) -> JobSummary:
    """How a job stands by its run."""
    states = tuple(one.state for one in run.states)
    stands = Standing.REDO if State.STALE in states else Standing.FINISHED if run.complete else Standing.OPEN
    return JobSummary(stands=stands, states=states, current=_current(run))


def unreadable(sentence: str) -> JobSummary:
    """How a job stands that can't be read."""
    return JobSummary(stands=Standing.UNREADABLE, current=sentence)


def _current(run: Run) -> str:
    """What to do next; a path that isn't planned yet waits until the rest is done."""
    if not run.redo and run.plan.unplanned:
        return f"Fill in {run.plan.unplanned[0].name}"
    return next(step.title for step in run.steps if step.key == run.current)
