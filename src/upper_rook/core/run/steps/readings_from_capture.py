"""Readings from a recording: tones of the proof or of a source from a sweep, noise of the factory wires."""

from collections.abc import Iterator
from typing import NamedTuple
from uuid import UUID, uuid5

import numpy as np

from upper_rook.core.common.errors import BadInput
from upper_rook.core.judge.examination import Examination
from upper_rook.core.judge.spectrum import SpectrumReport
from upper_rook.core.judge.sweep_report import SweepFinding, SweepReport
from upper_rook.core.run.readings.records import Eye, Quantity
from upper_rook.core.run.steps.cabin import level_over_curve_db
from upper_rook.core.run.steps.step import Row, Step, StepKind

_WITHIN = 1.07
"""A frequency is heard where the recording has a band within little more than a semitone, a twelfth of an octave."""


class CaptureReading(NamedTuple):
    """Value that a recording gives for one reading."""

    row: Row
    value: float
    seen: Eye


def reading_id(capture: UUID, step: str, row: str) -> UUID:
    """Id of the reading that a recording gave for a row of a step: used twice it is the same one."""
    return uuid5(capture, f"{step} {row}")


def readings_from_capture(
    step: Step, examination: Examination, row: str | None = None, bass_db: float = 0.0
) -> tuple[CaptureReading, ...]:
    """
    The readings of `step` that a recording answers, in the unit of each; of the cabin that of one `row` alone.

    `bass_db` is how much more bass the wanted curve of the cabin has.

    Raises:
        BadInput: when the step doesn't take such a recording, or nothing of what it asks for is in it.
    """
    channel = next(iter(examination.channels), None)
    found: list[CaptureReading] = []
    if step.kind in (StepKind.PROVE, StepKind.SOURCE_SWEEP):
        if channel is None or channel.sweep is None or channel.sweep.verdict is SweepFinding.NOT_A_SWEEP:
            raise BadInput("This isn’t a recorded sweep: play 20 Hz to 20 kHz and record what comes out.", "capture")
        if channel.sweep.verdict is SweepFinding.OVER_RANGE:
            raise BadInput("The recording itself is over its range: choose a larger one and record again.", "capture")
        found = list(_of_sweep(step, channel.sweep))
    elif step.kind is StepKind.FACTORY:
        if channel is None or channel.spectrum is None or not channel.spectrum.bands:
            raise BadInput("This isn’t a recording of noise: play pink noise and record the wires.", "capture")
        found = list(_of_noise(step, channel.spectrum))
    elif step.kind is StepKind.CABIN:
        if channel is None or channel.spectrum is None or not channel.spectrum.bands:
            raise BadInput("This isn’t a recording of noise: play pink noise and record it at the seat.", "capture")
        found = list(_of_group(step, channel.spectrum, row, bass_db))
    else:
        raise BadInput(f"“{step.title}” isn’t answered by a recording.", "step")
    if not found:
        raise BadInput("Nothing of what this step asks for is in the recording.", "capture")
    return tuple(found)


def _of_sweep(step: Step, sweep: SweepReport) -> Iterator[CaptureReading]:
    hertz = np.array([point.frequency_hz for point in sweep.points])
    volts = np.array([point.v_rms for point in sweep.points])
    for row in _tones(step):
        wanted = row.wants.tone.frequency_hz if row.wants.tone else 0.0
        if not hertz.size or not hertz[0] / _WITHIN <= wanted <= hertz[-1] * _WITHIN:
            continue
        value = float(np.exp(np.interp(np.log(wanted), np.log(hertz), np.log(np.maximum(volts, 1e-9)))))
        yield CaptureReading(row, value, _seen(sweep, wanted))


def _seen(sweep: SweepReport, hertz: float) -> Eye:
    if any(
        clipped_range.low_hz / _WITHIN <= hertz <= clipped_range.high_hz * _WITHIN for clipped_range in sweep.clipped
    ):
        return Eye.CLIPPED
    hidden = any(hidden_range.low_hz <= hertz <= hidden_range.high_hz for hidden_range in sweep.hidden)
    beyond = sweep.blind_above_hz is not None and hertz >= sweep.blind_above_hz
    return Eye.UNSEEN if hidden or beyond else Eye.CLEAN


def _of_noise(step: Step, noise: SpectrumReport) -> Iterator[CaptureReading]:
    """The bands round the quiet tones: noise gives every third of an octave the same level."""
    for row in _tones(step):
        if row.key not in ("at-40", "at-1000") or row.wants.tone is None:
            continue
        wanted = row.wants.tone.frequency_hz
        band = next((band for band in noise.bands if abs(band.nominal_hz - wanted) < 0.01 * wanted), None)
        if band is not None and band.v_rms > 0:
            yield CaptureReading(row, band.v_rms, Eye.UNSEEN)


def _of_group(step: Step, noise: SpectrumReport, row: str | None, bass_db: float) -> Iterator[CaptureReading]:
    """The level of one group over the wanted curve."""
    asked = next((other for other in step.rows if other.key == row), None)
    if asked is None or asked.band is None:
        raise BadInput("Choose the group that was recorded first.", "row")
    level = level_over_curve_db(noise, asked.band, bass_db)
    if level is not None:
        yield CaptureReading(asked, level, Eye.UNSEEN)


def _tones(step: Step) -> Iterator[Row]:
    return (row for row in step.rows if row.quantity is Quantity.AC_VOLTS and row.wants.tone is not None)
