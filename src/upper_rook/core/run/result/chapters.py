"""Chapters of a job: the first work and each visit since, each with what stood at its end."""

from collections.abc import Iterator
from datetime import date

from upper_rook.core.common.units import Frozen, Name
from upper_rook.core.run.result.progress import Run, run_of
from upper_rook.core.run.result.result import Result, result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.visits.chapters import CHECK_KEY, visits_of


class ChapterNumber(Frozen):
    """The number never to pass of one source, as a chapter left it."""

    source: str
    volume: int | None


class ChapterOutput(Frozen):
    """One amplifier output as a chapter left it."""

    name: str
    voltage_v: float | None
    """RMS; None where it wasn't measured."""
    uncertainty_v: float | None
    outdated: bool
    """Whether it no longer held."""


class Chapter(Frozen):
    """The first work at a vehicle, or a visit, as it stood at its end; the last as it stands now."""

    number: int
    """0 for the first work, 1 for the first visit."""
    day: date | None
    """The day that it began; None for a job without readings."""
    by: Name
    note: str
    """Complaint or reason of a visit."""
    check: str
    """Result of its check; empty for the first work."""
    complete: bool
    numbers: tuple[ChapterNumber, ...]
    outputs: tuple[ChapterOutput, ...]
    left: tuple[str, ...]
    """Other settings as they were left."""


def chapters(snapshot: JobSnapshot, run: Run, now: Result) -> tuple[Chapter, ...]:
    """Every chapter, the first one first; a job that never came back has one. `run` and `now` are the snapshot's."""
    return tuple(_chapters(snapshot, run, now))


def _chapters(snapshot: JobSnapshot, run_now: Run, now: Result) -> Iterator[Chapter]:
    visits = visits_of(snapshot.marks)
    first = min((reading.taken_at.date() for reading in snapshot.readings), default=None)
    begun = [(0, first, "", ""), *((visit.number, visit.day, visit.by, visit.note) for visit in visits)]
    befores = [snapshot.until(visit.arrival, visit.sheet_version) for visit in visits]
    ends = [*map(_worked_out, befores), (run_now, now)]
    for (number, day, by, note), (run, found) in zip(begun, ends, strict=True):
        check = next((state.sentence for state in run.states if state.step == CHECK_KEY), "")
        yield _chapter(found, number=number, day=day, by=by, note=note, check=check)


def _worked_out(end: JobSnapshot) -> tuple[Run, Result]:
    run = run_of(end)
    return run, result(end, run)


def _chapter(found: Result, *, number: int, day: date | None, by: str, note: str, check: str) -> Chapter:
    return Chapter(
        number=number,
        day=day,
        by=by,
        note=note,
        check=check,
        complete=found.complete,
        numbers=tuple(ChapterNumber(source=top.name, volume=top.volume) for top in found.top_volumes),
        outputs=tuple(
            ChapterOutput(
                name=output.name,
                voltage_v=output.voltage_v,
                uncertainty_v=output.uncertainty_v,
                outdated=output.outdated,
            )
            for output in found.outputs
        ),
        left=found.left,
    )
