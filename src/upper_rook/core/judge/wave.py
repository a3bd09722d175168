"""
Judging a captured tone: is it a clean sine, how far past its clean maximum is it driven, and how sure is that.

The wave is fitted twice: with harmonics (IEEE 1057), which tells what is in it, and with a clipped sine, which tells
whether a flat top explains it. Nothing is decided by a harmonic figure alone: stair-steps, hum, fuzz and soft rounding
all have one. Each step hands its value on: the part (`part`), the fits (`fitted_wave`), their results
(`flat_tops`, `round_tops`), the report.
"""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import format_hertz, format_value
from upper_rook.core.judge.conclusion import Conclusion
from upper_rook.core.judge.display_thinning import is_over_range
from upper_rook.core.judge.every_cycle import bent_cycles
from upper_rook.core.judge.filtered_tops import bent_tops
from upper_rook.core.judge.fitted_wave import FittedWave, fitted
from upper_rook.core.judge.flat_tops import beside_a_harmonic, clipped, clipped_sides
from upper_rook.core.judge.outliers import without_outliers
from upper_rook.core.judge.round_tops import DISTORTED, unclipped
from upper_rook.core.judge.segment import FEWEST_PER_CYCLE, JUDGED_SAMPLES, Array, Part, Samples, chosen, too_short
from upper_rook.core.judge.stationarity import NOT_A_TONE, is_only_a_moment, steadied
from upper_rook.core.judge.two_tones import SECOND_SHARE, TwoTones, two_tones
from upper_rook.core.judge.undo_acquisition import undo_acquisition
from upper_rook.core.judge.visibility import record_faster
from upper_rook.core.judge.wave_report import Harmonic, Judgement, Verdict, WaveReport, without_figures
from upper_rook.core.signal import tone_fit
from upper_rook.core.signal.clipped_sine import SQUARE_DB
from upper_rook.core.signal.trace import Trace

FEWEST_SAMPLES = 40
TONE_TOLERANCE = 0.02
"""How far a tone may lie from the one expected, as a ratio."""
_UNEXPLAINED = 0.3
"""Share of the harmonics that a flat top may leave unexplained; beyond it the rounding is of another kind."""
_SHARP = 0.008
"""The share up to which a flat top's corners are as sharp as they should be."""
_NO_TONE = 1e-9
_LEAST_SPREAD_V = 1e-9
_FOLDING = (3, 2, 5, 4, 7)
"""Harmonics that may fold back, the likeliest first."""
_ONE_TONE = "Use a single tone for a clean maximum."
_SILENT_V = 1e-3
_MAINS_HZ, _MAINS_WITHIN, _HUM_V = (50.0, 60.0, 100.0, 120.0), 0.003, 0.1
"""A test tone at a hertz of the mains is stronger than this, RMS (common practice, no source)."""
_HUM = "Mains hum alone, weak and bent as no test tone is: is the tone playing, and the probe’s ground on?"
_BEYOND_VOLTS = 1e9


def judge(trace: Trace, expect_hz: float | None = None) -> Judgement:
    """
    Judges a capture; `expect_hz` is the tone that should be playing.

    Raises:
        BadInput: for samples that aren't finite.
    """
    if not np.all(np.isfinite(trace.volts)):
        raise BadInput("The capture holds values that aren’t numbers: export it again.")
    if np.max(np.abs(trace.volts), initial=0.0) > _BEYOND_VOLTS:
        raise BadInput("The capture holds values beyond any voltage: export it again, in volts.")
    taken, told = undo_acquisition(trace)
    if taken is not trace:
        by = round(trace.rate_hz / taken.rate_hz)
        judged = judge(taken, expect_hz)
        where = slice(judged.part.start * by, judged.part.stop * by)
        reasons = (*judged.report.reasons, *((told,) if told else ()))
        return replace(judged, part=where, report=judged.report.model_copy(update={"reasons": reasons}))
    step = tone_fit.code_step(np.asarray(trace.volts))
    still = _nothing_moves(trace.volts, step)
    if still is not None:
        return still
    part = chosen(trace, step)
    little = _too_little(trace, part, step)
    if little is not None:
        return little
    wave = steadied(fitted(without_outliers(part, step), step))
    return _no_single_tone(trace, wave, step) or _concluded(trace, wave, expect_hz)


def _nothing_moves(volts: Samples, step: float) -> Judgement | None:
    if volts.size < FEWEST_SAMPLES:
        return without_figures(volts, Verdict.TOO_SHORT, f"{volts.size} samples; at least {FEWEST_SAMPLES} are needed.")
    spread = float(volts.max() - volts.min())
    # A mean of equal values is off by rounding.
    if spread <= max(2.5 * step, 1e-9 * float(np.abs(volts).max()), _LEAST_SPREAD_V):
        return without_figures(volts, Verdict.SILENT, "Nothing moves: is the tone playing, and the probe on?")
    return None


def _too_little(trace: Trace, part: Part, step: float) -> Judgement | None:
    """Report on a segment that holds too little of one tone."""
    # Two tones beat, so that the steady part of them is too little, or one of their swells.
    beats = part.volts.size < trace.volts.size or part.frequency > 1 / FEWEST_PER_CYCLE
    pair = _two_tones(trace, _beginning(trace)) if beats else None
    if pair is not None:
        return pair
    short = too_short(part)
    if short is None:
        return None
    return _no_tone(trace.volts, step) if _is_noise(part) else without_figures(trace.volts, Verdict.TOO_SHORT, short)


def _no_single_tone(trace: Trace, wave: FittedWave, step: float) -> Judgement | None:
    if wave.harmonics.amplitudes[0] <= _NO_TONE * float(np.abs(trace.volts).max()):
        return _no_tone(trace.volts, step)
    other = wave.second_tone
    pair = _two_tones(trace, wave.raw) if other or wave.loudest_other > SECOND_SHARE else None
    # Two tones that beat leave a part as if one had jumped.
    if pair is None and wave.raw.size < min(trace.volts.size, JUDGED_SAMPLES):
        pair = _two_tones(trace, _beginning(trace))
    if pair is not None:
        return pair
    if other is not None:
        share = 100 * other.amplitude_v / float(wave.harmonics.amplitudes[0])
        told = (
            f"A second tone plays beside it: {format_value(other.frequency * trace.rate_hz, 'Hz', 3)}, {share:.0f} % "
            f"of {format_value(wave.frequency * trace.rate_hz, 'Hz', 3)}."
        )
        return without_figures(trace.volts, Verdict.NOT_A_TONE, told, _ONE_TONE)
    if wave.foreign_share > NOT_A_TONE or wave.is_chord or is_only_a_moment(trace.volts, wave):
        return _no_tone(trace.volts, step)
    return None


def _beginning(trace: Trace) -> Array:
    return np.asarray(trace.volts[:JUDGED_SAMPLES], dtype=np.float64)


def _two_tones(trace: Trace, volts: Array) -> Judgement | None:
    """The report on two tones in a stretch of the capture, one of which may be the other's harmonic; None without."""
    pair = two_tones(volts)
    return None if pair is None else _folded(trace, pair, volts.size) or _intermodulated(trace, pair)


def _folded(trace: Trace, pair: TwoTones, count: int) -> Judgement | None:
    """The report where the lower line is a harmonic of the upper tone that folds back at half of the rate."""
    for number in _FOLDING:
        turns = number * pair.upper % 1
        if number * pair.upper > 0.5 and abs(min(turns, 1 - turns) - pair.lower) * count < 1:
            lower, upper = (format_hertz(value * trace.rate_hz) for value in (pair.lower, pair.upper))
            told = (
                f"Can’t tell whether it clips: the line at {lower} is where harmonic {number} of {upper} folds back. "
                f"{record_faster(trace.rate_hz)}"
            )
            return without_figures(trace.volts, Verdict.UNSEEN, told)
    return None


def _intermodulated(trace: Trace, pair: TwoTones) -> Judgement:
    judged = without_figures(trace.volts, Verdict.NOT_A_TONE, pair.told(trace.rate_hz), _ONE_TONE)
    percent = 100 * pair.whole if pair.whole > pair.floor else None
    return replace(judged, report=judged.report.model_copy(update={"intermodulation_percent": percent}))


def _is_noise(part: Part) -> bool:
    """Whether a part that is too short holds hardly a tone at all."""
    (line,) = tone_fit.ToneBasis(part.frequency, part.volts.size, 1).fit(part.volts)
    return line.noise_v**2 > NOT_A_TONE * float(part.volts.var()) or bool(part.volts.std() < _SILENT_V)


def _no_tone(whole: Samples, step: float) -> Judgement:
    rms = float(whole.std())
    if rms < _SILENT_V or rms < 3 * step:
        return without_figures(whole, Verdict.SILENT, "Only noise: is the tone playing, and the probe on?")
    return without_figures(
        whole, Verdict.NOT_A_TONE, "No steady tone: music, a sweep or noise. Play the test tone and capture again."
    )


def _concluded(trace: Trace, wave: FittedWave, expect_hz: float | None) -> Judgement:
    sides = clipped_sides(wave)
    reasons = (*wave.part.reasons, *_taken_off(wave, trace.rate_hz))
    if not sides or wave.unexplained > _UNEXPLAINED:
        if _is_mains(wave, trace.rate_hz, expect_hz):
            return without_figures(trace.volts, Verdict.NOT_A_TONE, _HUM, *reasons)
        bent = (bent_tops(wave) or beside_a_harmonic(wave)) if wave.harmonics.thd() > DISTORTED else None
        conclusion = bent or unclipped(wave, flat_too=bool(sides), rate_hz=trace.rate_hz)
        return _with_worst(trace, wave, conclusion, reasons, expect_hz)
    if not is_over_range(wave, sides, trace.limits_v):
        rounded = wave.unexplained > _SHARP and min(wave.clip.over_db(side) for side in sides) < SQUARE_DB
        bent = bent_tops(wave) if rounded else None
        return _with_worst(trace, wave, bent or clipped(wave, sides), reasons, expect_hz)
    # What the wave does beyond the screen is not known, so neither are its figures.
    known = {"frequency_hz": wave.frequency * trace.rate_hz, "v_dc": wave.harmonics.constant}
    judged = without_figures(
        trace.volts,
        Verdict.OVER_RANGE,
        "The trace is larger than the screen or the converter, so its top says nothing of the wave: "
        "choose a larger range.",
        *reasons,
    )
    return Judgement(judged.report.model_copy(update=known), part=wave.part.where)


def _with_worst(
    trace: Trace, wave: FittedWave, found: Conclusion, reasons: tuple[str, ...], expect_hz: float | None
) -> Judgement:
    """The report, from the cycles that are bent more than the rest where there are such."""
    worst = bent_cycles(wave, found, trace.rate_hz)
    if worst is not None:
        # Lines that seem to lie beside the tone, and where it seems to jump, are then the clipping's own.
        return _judgement(wave, worst, wave.part.of_stretch, trace.rate_hz, expect_hz)
    return _judgement(wave, found, reasons, trace.rate_hz, expect_hz)


def _is_mains(wave: FittedWave, rate_hz: float, expect_hz: float | None) -> bool:
    """Whether it is hum: at a mains frequency or twice it, weak, and bent, where no such tone should play."""
    hertz = wave.frequency * rate_hz
    if expect_hz is not None and abs(hertz / expect_hz - 1) < TONE_TOLERANCE:
        return False
    near = any(abs(hertz / mains - 1) < _MAINS_WITHIN for mains in _MAINS_HZ)
    return near and float(wave.raw.std()) < _HUM_V and wave.harmonics.thd() > DISTORTED


def _taken_off(wave: FittedWave, rate_hz: float) -> Iterator[str]:
    """Lines that were removed from the tone before it was judged, in words."""
    for line in (*wave.drift, *wave.others):
        share = line.amplitude_v / wave.harmonics.amplitudes[0]
        if share < 0.003:
            continue
        if line.frequency == 0:
            told = "Slow drift or hum under the tone"
        else:
            kind = "Hum or another tone" if line.frequency < wave.frequency else "Whine or switching residue"
            told = f"{kind} at {format_value(line.frequency * rate_hz, 'Hz', 3)}"
        yield f"{told}, {100 * share:.1f} % of the tone: removed before the analysis."


def _judgement(
    wave: FittedWave, conclusion: Conclusion, reasons: tuple[str, ...], rate_hz: float, expect_hz: float | None
) -> Judgement:
    frequency, verdict = wave.frequency * rate_hz, conclusion.verdict
    told = (conclusion.reason, *reasons, *conclusion.more)
    if expect_hz is not None and abs(frequency / expect_hz - 1) > TONE_TOLERANCE:
        wrong = (
            f"{format_value(frequency, 'Hz')} is playing, not {format_value(expect_hz, 'Hz')}: "
            f"the wrong track? Of the wave itself: {verdict.words}."
        )
        told, verdict = (wrong, *told), Verdict.WRONG_TONE
    harmonics = wave.harmonics
    rest = wave.raw - harmonics.fitted
    rms = float(np.sqrt(np.sum(harmonics.amplitudes**2) / 2 + rest.var()))
    high, low = (float(peak) for peak in conclusion.peaks_v)
    report = WaveReport.model_validate(
        {
            "verdict": verdict,
            "frequency_hz": frequency,
            "v_rms": rms,
            "v_peak_positive": high,
            "v_peak_negative": low,
            "v_dc": harmonics.constant,
            "crest_factor": max(high - harmonics.constant, harmonics.constant - low) / rms,
            "thd_percent": 100 * conclusion.thd,
            "reasons": told,
        }
        | conclusion.figures
    )
    first = harmonics.amplitudes[0]
    return Judgement(
        report,
        clean_v_uncertainty=conclusion.clean_doubt_v,
        noise_v=wave.harmonics.noise_v,
        harmonics=tuple(
            Harmonic(number=number, percent=float(100 * amplitude / first))
            for number, amplitude in enumerate(harmonics.amplitudes[1:12], 2)
        ),
        part=wave.part.where,
        fitted=conclusion.fitted,
        sine=wave.clip.sine,
    )
