"""A capture as a job keeps it: the file, its result, and the reading it belongs to."""

from collections.abc import Iterable
from enum import StrEnum
from typing import Annotated
from uuid import UUID

from pydantic import Field

from upper_rook.core.common.moments import Moment
from upper_rook.core.common.units import Frozen, Hertz, Name, Volts, format_db, format_value
from upper_rook.core.judge.examination import Channel, Examination
from upper_rook.core.judge.wave_report import Verdict


class CaptureKind(StrEnum):
    """Kind of a capture's file."""

    CSV = "csv"
    WAV = "wav"
    VOLUME_STEPS = "ladder"
    BINARY = "binary"
    """An oscilloscope's own."""


CaptureName = Annotated[Name, Field(min_length=1)]


class NewCapture(Frozen):
    """Details of a capture when its file is sent: the sender names it, so that sending it twice is harmless."""

    id: UUID
    name: CaptureName
    """The file's name, or what the person called it."""
    full_scale_v: Volts | None = None
    """Volts at full scale of a WAV file."""
    expect_hz: Hertz | None = None
    """The tone that should have been playing."""
    taken_at: Moment
    by: Name = ""
    device: UUID | None = None
    """Device that sent it."""
    sequence: Annotated[int, Field(ge=1, le=2**53)] | None = None


class CaptureEntry(NewCapture):
    """A capture in the list."""

    kind: CaptureKind
    headline: str
    """Verdict in a few words."""
    size: int
    reading_id: UUID | None = None
    """The reading it is attached to."""
    struck: str | None = None


class ListedCapture(CaptureEntry):
    """A capture in the list, with its mark."""

    verdict: Verdict | None
    """Of its channels the worst; None for what is no wave."""
    same_as: Name | None
    """Name of the same file when it came the first time."""


def worst(verdicts: Iterable[str]) -> Verdict | None:
    """Of several channels' verdicts the one to heed."""
    return max((Verdict(verdict) for verdict in verdicts), key=_HEEDED.index, default=None)


_HEEDED = (
    Verdict.CLEAN,
    Verdict.UNSEEN,
    Verdict.SILENT,
    Verdict.TOO_SHORT,
    Verdict.NOT_A_TONE,
    Verdict.WRONG_TONE,
    Verdict.OVER_RANGE,
    Verdict.DISTORTED,
    Verdict.EDGE,
    Verdict.CLIPPED,
    Verdict.SQUARE,
)


class Capture(CaptureEntry):
    """A capture with its verdict."""

    examination: Examination


def headline(examination: Examination) -> str:
    """Verdict of an examination in a few words."""
    if examination.unjudged:
        return "can’t be judged"
    if examination.volume_steps:
        report = examination.volume_steps.report
        if report.surely_volume is not None:
            return f"surely clean to {report.surely_volume}, perhaps to {report.perhaps_volume}"
        if report.clean_volume is None or report.clean_v_rms is None:
            return report.verdict.words
        return f"clean maximum {report.clean_volume}, {format_value(report.clean_v_rms, 'V', 3)}"
    several = len(examination.channels) > 1
    return "; ".join((f"{channel.name} " if several else "") + _words(channel) for channel in examination.channels)


def _words(channel: Channel) -> str:
    if channel.sweep:
        return f"sweep, {channel.sweep.verdict.words}"
    if channel.spectrum:
        return f"noise, {channel.spectrum.carries.words}"
    report = channel.report
    over = f" by {format_db(report.over_db, 2)}" if report.over_db is not None else ""
    return report.verdict.words + over
