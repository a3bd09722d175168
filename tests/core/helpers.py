"""Readings and marks for the tests of a run."""

from datetime import UTC, datetime, timedelta
from itertools import count
from uuid import uuid4

from upper_rook.core.chain import JobSheet
from upper_rook.core.plan import plan
from upper_rook.core.progress import progress
from upper_rook.core.records import Eye, Mark, Reading
from upper_rook.core.runsheet import Step, run_sheet

_tick = count()
START = datetime(2026, 5, 1, 9, 0, tzinfo=UTC)


def moment() -> datetime:
    """A moment later than every one before."""
    return START + timedelta(seconds=next(_tick))


def reading(step: Step, volume: int, voltage_v: float, seen: Eye = Eye.UNSEEN) -> Reading:
    assert step.tone is not None
    return Reading(
        id=uuid4(),
        step=step.key,
        voltage_v=voltage_v,
        uncertainty_v=voltage_v * 0.01,
        instrument="true-rms",
        volume=volume,
        seen=seen,
        sheet_version=1,
        taken_at=moment(),
        tone=step.tone,
        settings=step.settings,
    )


def mark(step: str, **said: object) -> Mark:
    fields = {"id": uuid4(), "step": step, "sheet_version": 1, "taken_at": moment()} | said
    return Mark.model_validate(fields)


def steps_of(sheet: JobSheet) -> dict[str, Step]:
    return {step.key: step for step in run_sheet(sheet, plan(sheet), None)}


def answers(sheet: JobSheet) -> tuple[Mark, ...]:
    """Every line of every checklist, done."""
    steps = steps_of(sheet).values()
    return tuple(mark(step.key, item=item.key, answer="done") for step in steps for item in step.items)


def gain_step(sheet: JobSheet, readings: tuple[Reading, ...], marks: tuple[Mark, ...], key: str = "gain-front") -> Step:
    """The gain step as it is once the ceiling is taken."""
    return next(step for step in progress(sheet, readings, marks).steps if step.key == key)
