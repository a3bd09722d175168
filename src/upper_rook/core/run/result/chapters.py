"""Chapters of a job: the first work and each visit since, each with what stood at its end."""

from collections.abc import Iterator
from datetime import date

from upper_rook.core.common.units import Frozen, Name
from upper_rook.core.run.result.progress import run_of
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


def chapters(snapshot: JobSnapshot) -> tuple[Chapter, ...]:
    """Every chapter, the first one first; a job that never came back has one."""
    return tuple(_chapters(snapshot))


def _chapters(snapshot: JobSnapshot) -> Iterator[Chapter]:
    visits = visits_of(snapshot.marks)
    first = min((one.taken_at.date() for one in snapshot.readings), default=None)
    begun = [(0, first, "", ""), *((one.number, one.day, one.by, one.note) for one in visits)]
    ends = [*(snapshot.until(one.arrival, one.sheet_version) for one in visits), snapshot]
    for (number, day, by, note), end in zip(begun, ends, strict=True):
        run = run_of(end)
        check = next((state.sentence for state in run.states if state.step == CHECK_KEY), "")
        yield _chapter(result(end, run), number=number, day=day, by=by, note=note, check=check)


def _chapter(found: Result, *, number: int, day: date | None, by: str, note: str, check: str) -> Chapter:
    return Chapter(
        number=number,
        day=day,
        by=by,
        note=note,
        check=check,
        complete=found.complete,
        numbers=tuple(ChapterNumber(source=one.name, volume=one.volume) for one in found.top_volumes),
        outputs=tuple(
            ChapterOutput(
                name=one.name,
                voltage_v=one.voltage_v,
                uncertainty_v=one.uncertainty_v,
                outdated=one.outdated,
            )
            for one in found.outputs
        ),
        left=found.left,
    )
