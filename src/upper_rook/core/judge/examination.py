"""All that a capture is judged for: a tone, else a sweep, else what a noise carries; or volume steps."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen
from upper_rook.core.judge.advice import wave_advice
from upper_rook.core.judge.spectrum import Carries, SpectrumReport, judge_spectrum
from upper_rook.core.judge.sweep import judge_sweep
from upper_rook.core.judge.sweep_report import SweepFinding, SweepReport
from upper_rook.core.judge.undo_acquisition import undo_acquisition
from upper_rook.core.judge.volume_steps import judge_volume_steps
from upper_rook.core.judge.volume_steps_report import VolumeReading, VolumeStepsReport
from upper_rook.core.judge.wave import judge
from upper_rook.core.judge.wave_report import Harmonic, Judgement, Verdict, WaveReport, without_figures
from upper_rook.core.metrology.meters import profile
from upper_rook.core.signal.trace import Trace

_SHOWN_CYCLES = 4.0
_SHOWN_SAMPLES = 600
_SWEEP_SECONDS = 2.0


class Drawing(Frozen):
    """A stretch of the wave to draw."""

    milliseconds: tuple[float, ...]
    volts: tuple[float, ...]
    sine: tuple[float, ...] = ()
    """The clean sine behind it, where the wave is clipped."""
    lower_flat_v: float | None = Field(default=None, alias="floor_v")
    upper_flat_v: float | None = Field(default=None, alias="ceiling_v")


class ChannelFigures(Frozen):
    """Figures of one channel of a capture, beside its report."""

    name: str
    rate_hz: float
    samples: int
    clean_v_uncertainty: float | None = None
    """Of its fit alone."""
    clean_v_instrument: float | None = None
    """Error that a scope's data sheet allows; None outside the range that it promises."""
    clean_v_together: float | None = None
    """Both."""
    noise_v: float | None = None
    """RMS of what is neither the tone nor its harmonics, the converter's steps included."""
    below_tone_db: float | None = None
    """How far below the tone that lies."""
    harmonics: tuple[Harmonic, ...] = ()
    sweep: SweepReport | None = None
    spectrum: SpectrumReport | None = None
    advice: tuple[str, ...] = ()
    """Advice for the next step."""


class Channel(ChannelFigures):
    """One channel of a capture and what it says."""

    report: WaveReport
    drawing: Drawing


class VolumeStepsPoint(Frozen):
    """One volume step with the curve through it."""

    volume: float
    voltage_v: float
    average_v: float | None = None
    line_v: float | None = None
    """Where a source without a clean maximum would be."""
    curve_v: float | None = None


class VolumeStepsView(Frozen):
    """Judged volume steps to draw."""

    report: VolumeStepsReport
    points: tuple[VolumeStepsPoint, ...] = ()
    next_volumes: tuple[int, ...] = ()


class Examination(Frozen):
    """Result of a capture's examination."""

    channels: tuple[Channel, ...] = ()
    volume_steps: VolumeStepsView | None = Field(default=None, alias="ladder")
    unjudged: str | None = None
    """Why it can't be judged, in a sentence; it is kept all the same."""


def examine_wave(traces: Sequence[Trace], expect_hz: float | None = None) -> Examination:
    """Judges every channel."""
    return Examination(channels=tuple(_channel(trace, expect_hz) for trace in traces))


def examine_volume_steps(volume_readings: Sequence[VolumeReading], top_volume: int | None = None) -> Examination:
    """Judges volume steps."""
    return Examination(volume_steps=view_volume_steps(tuple(volume_readings), top_volume))


def view_volume_steps(volume_readings: tuple[VolumeReading, ...], top_volume: int | None = None) -> VolumeStepsView:
    """Judged volume steps with their curve. Raises BadInput for no readings at all."""
    judged = judge_volume_steps(list(volume_readings), top_volume)
    by_number = {volume_reading.volume: volume_reading for volume_reading in volume_readings}
    numbers = sorted(by_number)
    lines, curves = (_volts(values, len(numbers)) for values in (judged.line_db, judged.curve_db))
    return VolumeStepsView(
        report=judged.report,
        points=tuple(
            VolumeStepsPoint(
                volume=number,
                voltage_v=by_number[number].voltage_v,
                average_v=by_number[number].average_v,
                line_v=line,
                curve_v=curve,
            )
            for number, line, curve in zip(numbers, lines, curves, strict=True)
        ),
        next_volumes=judged.next_volumes,
    )


def _volts(level_db: NDArray[np.float64] | None, count: int) -> list[float | None]:
    return [float(10 ** (level / 20)) for level in level_db] if level_db is not None else [None] * count


def _channel(trace: Trace, expect_hz: float | None) -> Channel:
    # What is drawn are the samples that were judged.
    shown, drawn = undo_acquisition(trace)
    judged = judge(shown, expect_hz)
    sweep, spectrum = _beyond_a_tone(trace, judged)
    report = judged.report
    if drawn:
        report = report.model_copy(update={"reasons": (*report.reasons, drawn)})
    told = sweep.reasons if sweep else spectrum.reasons if spectrum else ()
    if told:
        # A piece of a sweep can pass for a tone, and the advice to play one would mislead.
        kind = "A sweep." if sweep else "No steady tone: noise or music."
        report = without_figures(np.asarray(trace.volts), Verdict.NOT_A_TONE, kind, *told).report
    return Channel(
        name=trace.name,
        rate_hz=trace.rate_hz,
        samples=int(trace.volts.size),
        report=report,
        **_doubts(trace, report, judged),
        noise_v=judged.noise_v,
        below_tone_db=_below_tone_db(report, judged),
        harmonics=judged.harmonics,
        drawing=_drawing(shown, judged),
        sweep=sweep,
        spectrum=spectrum,
        advice=wave_advice(report, sweep, spectrum),
    )


def _doubts(trace: Trace, report: WaveReport, judged: Judgement) -> dict[str, float | None]:
    """
    Of the clean maximum: by the fit, by a scope's data sheet, and both (JCGM 100).

    A recording's full scale was given by a person, and how well nobody knows.
    """
    fit, clean = judged.clean_v_uncertainty, report.clean_v_rms
    if clean is None or not report.frequency_hz or trace.limits_v is not None:
        return {"clean_v_uncertainty": fit}
    own = profile("scope").uncertainty_v(clean, report.frequency_hz)
    both = None if own is None or fit is None else float(np.hypot(own, fit))
    return {"clean_v_uncertainty": fit, "clean_v_instrument": own, "clean_v_together": both}


def _below_tone_db(report: WaveReport, judged: Judgement) -> float | None:
    if not judged.noise_v or report.v_rms <= judged.noise_v:
        return None
    return float(20 * np.log10(report.v_rms / judged.noise_v))


def _beyond_a_tone(trace: Trace, judged: Judgement) -> tuple[SweepReport | None, SpectrumReport | None]:
    """A long capture without a steady tone may be a sweep, or noise that shows what is carried."""
    # A sweep's low end can pass for a tone of its own, so long clean ones are looked at, too.
    long = trace.volts.size / trace.rate_hz >= _SWEEP_SECONDS
    if not long or judged.report.verdict is Verdict.SILENT:
        return None, None
    sweep = judge_sweep(trace)
    if sweep.verdict is not SweepFinding.NOT_A_SWEEP:
        return sweep, None
    if judged.report.verdict is not Verdict.NOT_A_TONE:
        return None, None
    spectrum = judge_spectrum(trace)
    return None, None if spectrum.carries in (Carries.TOO_SHORT, Carries.SILENT) else spectrum


def _drawing(trace: Trace, judged: Judgement) -> Drawing:
    """A few cycles of the judged part, thinned to what a screen can show."""
    part, report = judged.part, judged.report
    if part.stop <= part.start:
        part = slice(0, trace.volts.size)
    count = part.stop - part.start
    if report.frequency_hz:
        count = min(count, max(8, round(_SHOWN_CYCLES * trace.rate_hz / report.frequency_hz)))
    elif report.verdict is Verdict.NOT_A_TONE:
        count = min(count, _SHOWN_SAMPLES)
    step = max(1, -(-count // _SHOWN_SAMPLES))
    volts = trace.volts[part.start : part.start + count : step]
    clipped = report.over_db is not None or report.verdict is Verdict.SQUARE
    sine = judged.sine[:count:step] if clipped and judged.sine is not None else np.empty(0)
    return Drawing(
        milliseconds=_rounded(np.arange(volts.size) * step * 1000 / trace.rate_hz),
        volts=_rounded(volts),
        sine=_rounded(sine),
        lower_flat_v=report.v_peak_negative if clipped else None,
        upper_flat_v=report.v_peak_positive if clipped else None,
    )


def _rounded(values: NDArray[Any]) -> tuple[float, ...]:
    return tuple(float(f"{value:.6g}") for value in values)


def judge_volume_readings(volume_readings: tuple[VolumeReading, ...], top_volume: int) -> VolumeStepsView | None:
    """The volume steps as they stand during a run: None while they are too few to say anything."""
    try:
        return view_volume_steps(volume_readings, top_volume) if len(volume_readings) >= 3 else None
    except BadInput:
        return None
