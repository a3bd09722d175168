"""State of a job, as a list shows it."""

from enum import StrEnum

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.result.progress import Run
from upper_rook.core.run.steps.step import State
from upper_rook.core.system.job_sheet import JobSheet, Subject


class Standing(StrEnum):
    """State by which jobs are filtered."""

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
    alone: str = ""
    """Name of the source that it is about on its own; empty where it is about a system."""


def summary_of(run: Run, sheet: JobSheet) -> JobSummary:
    """State of a job by its run."""
    alone = (sheet.chain.sources[0].name or "Source") if sheet.subject is Subject.SOURCE else ""
    states = tuple(state.state for state in run.states)
    stands = Standing.REDO if State.OUTDATED in states else Standing.FINISHED if run.complete else Standing.OPEN
    return JobSummary(stands=stands, states=states, current=_current(run), alone=alone)


def unreadable(sentence: str) -> JobSummary:
    """State of a job that can't be read."""
    return JobSummary(stands=Standing.UNREADABLE, current=sentence)


def _current(run: Run) -> str:
    """Next step; a path that isn't planned yet waits until the rest is done."""
    if not run.redo and run.plan.unplanned:
        return f"Fill in {run.plan.unplanned[0].name}"
    return next(step.title for step in run.steps if step.key == run.current)
