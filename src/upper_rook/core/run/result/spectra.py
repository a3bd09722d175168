"""Recorded noise as third octaves: factory wires side by side, groups in the cabin against the wanted curve."""

import math
from collections.abc import Iterable, Iterator
from uuid import UUID

from upper_rook.core.common.units import Frozen, LongKey
from upper_rook.core.judge.spectrum import NOMINAL_HZ, SpectrumReport
from upper_rook.core.run.readings.records import Reading
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.cabin import AFTER, BEFORE, curve_db
from upper_rook.core.run.steps.readings_from_capture import reading_id
from upper_rook.core.run.steps.step import Row, Step, StepKind

_HERTZ = tuple(float(hertz) for hertz in NOMINAL_HZ)


class SpectrumLine(Frozen):
    """Third octaves of one recording."""

    name: str
    levels_db: tuple[float | None, ...]
    """One for each frequency of its drawing; None where nothing was heard."""


class Spectra(Frozen):
    """Recordings of one place or moment on one paper."""

    steps: tuple[LongKey, ...]
    """The steps that took them."""
    name: str
    hertz: tuple[float, ...]
    lines: tuple[SpectrumLine, ...]
    wanted_db: tuple[float, ...] | None
    """The curve that they are compared with, level with the quietest group; None where there is none."""
    zero: str
    """Level that 0 dB stands for, in words."""


def spectra(snapshot: JobSnapshot, steps: Iterable[Step], noises: dict[UUID, SpectrumReport]) -> tuple[Spectra, ...]:
    """Every drawing that the recordings of noise give whose readings count; `noises` by their captures' ids."""
    steps = tuple(steps)
    wires = [step for step in steps if step.kind is StepKind.FACTORY]
    cabin = next((step for step in steps if step.kind is StepKind.CABIN), None)
    found = [*_of_wires(snapshot, wires, noises)]
    if cabin is not None:
        found += _of_cabin(snapshot, cabin, noises)
    return tuple(found)


def _behind(reading: Reading | None, step: Step, row: str, noises: dict[UUID, SpectrumReport]) -> SpectrumReport | None:
    """The recording that a reading was taken from; None for a typed one."""
    if reading is None:
        return None
    return next(
        (spectrum_report for key, spectrum_report in noises.items() if reading_id(key, step.key, row) == reading.id),
        None,
    )


def _levels_dbv(noise: SpectrumReport) -> tuple[float | None, ...]:
    volts = {band.nominal_hz: band.v_rms for band in noise.bands}
    return tuple(20 * math.log10(volt) if (volt := volts.get(hertz, 0.0)) > 0 else None for hertz in _HERTZ)


def _line(name: str, levels: tuple[float | None, ...], zero_dbv: float) -> SpectrumLine:
    return SpectrumLine(name=name, levels_db=tuple(None if level is None else level - zero_dbv for level in levels))


def _of_wires(snapshot: JobSnapshot, steps: list[Step], noises: dict[UUID, SpectrumReport]) -> Iterator[Spectra]:
    """All wires on one paper: the one that carries what another lacks is seen at once."""
    heard: list[tuple[Step, tuple[float | None, ...]]] = []
    for step in steps:
        readings = rows.last_readings(snapshot, step.key)
        found = (_behind(readings.get(row.key), step, row.key, noises) for row in step.rows)
        noise = next((spectrum_report for spectrum_report in found if spectrum_report is not None), None)
        if noise is not None:
            heard.append((step, _levels_dbv(noise)))
    loudest = max((level for _, levels in heard for level in levels if level is not None), default=None)
    if loudest is None:
        return
    yield Spectra(
        steps=tuple(step.key for step, _ in heard),
        name="Factory wires",
        hertz=_HERTZ,
        lines=tuple(_line(step.name, levels, loudest) for step, levels in heard),
        wanted_db=None,
        zero="the loudest third octave",
    )


def _of_cabin(snapshot: JobSnapshot, step: Step, noises: dict[UUID, SpectrumReport]) -> Iterator[Spectra]:
    bass_db = snapshot.sheet.choices.cabin_bass_db
    readings = rows.last_readings(snapshot, step.key)
    names = {row.key: row for row in step.rows}
    for when in (BEFORE, AFTER):
        heard = [
            (row, reading, noise)
            for key, row in names.items()
            if key.startswith(f"{when}-")
            and (reading := readings.get(key)) is not None
            and (noise := _behind(reading, step, key, noises)) is not None
        ]
        if heard:
            yield _of_groups(step, when, heard, bass_db)


def _of_groups(step: Step, when: str, heard: list[tuple[Row, Reading, SpectrumReport]], bass_db: float) -> Spectra:
    """The groups at one moment; 0 dB is the wanted curve at 1 kHz, level with the quietest group."""
    zero_dbv = min(reading.value for _, reading, _ in heard)
    return Spectra(
        steps=(step.key,),
        name=f"{when.capitalize()} the blend",
        hertz=_HERTZ,
        lines=tuple(
            _line(row.name.removesuffix(f", {when} the blend"), _levels_dbv(noise), zero_dbv) for row, _, noise in heard
        ),
        wanted_db=tuple(curve_db(hertz, bass_db) for hertz in _HERTZ),
        zero="the wanted curve at 1 kHz, level with the quietest group",
    )
