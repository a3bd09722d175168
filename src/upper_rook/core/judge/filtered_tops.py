"""Tops that are flat no more: tilted or bent by a filter behind the clipping, or rounded off by a limiter's knee."""

from dataclasses import replace

import numpy as np

from upper_rook.core.common.units import format_value
from upper_rook.core.judge.conclusion import Conclusion, amount, sides_in_words
from upper_rook.core.judge.fitted_wave import FittedWave
from upper_rook.core.judge.flat_tops import COVER, verdict_of
from upper_rook.core.judge.wave_report import Verdict
from upper_rook.core.signal import filtered_clip, soft_knee, tone_fit
from upper_rook.core.signal.filtered_clip import FilteredClip
from upper_rook.core.signal.harmonic_fit import Complex
from upper_rook.core.signal.soft_knee import SoftKnee
from upper_rook.core.signal.tone_fit import Harmonics

_LEAST_DOUBT_DB = 0.015
"""How well a model of so few terms fits a wave that has more, as a standard uncertainty."""
_LEAST_KNEE_DB, _KNEE_DOUBT = 0.08, 0.05
"""Of a soft overdrive, in decibels of decibels: limiters' knees differ in more than one figure."""
_DB = 20 / float(np.log(10))
_NEARLY = 2.5
"""Two models whose squares differ by less than this factor are as good as each other."""
_SEARCH = 0.3
"""Part of a cycle in the whole capture within which the frequency is looked for again."""


def bent_tops(wave: FittedWave) -> Conclusion | None:
    """Reading of the harmonics as a clip with a filter behind it, or as a knee; None where neither explains them."""
    found = _explained(_refined(wave))
    if found is None:
        return None
    told = _with_codes(found, wave.code_doubt_v)
    over, doubt = told.figures["over_db"], told.figures["over_db_uncertainty"]
    # Below its doubt it may be the steps of a coarse, quiet converter.
    return None if over is not None and doubt is not None and float(over) < float(doubt) else told


def _with_codes(found: Conclusion, code_doubt_v: float) -> Conclusion:
    """A conclusion with what a quiet converter's codes leave open."""
    figures, clean_v = dict(found.figures), float(found.figures["clean_v_rms"] or 0)
    own_v = COVER * code_doubt_v / float(np.sqrt(2))
    if figures["over_db_uncertainty"] is not None:
        figures["over_db_uncertainty"] = float(np.hypot(float(figures["over_db_uncertainty"]), _DB * own_v / clean_v))
    return replace(found, figures=figures, clean_doubt_v=float(np.hypot(found.clean_doubt_v or 0.0, own_v)))


def _explained(harmonics: Harmonics) -> Conclusion | None:
    plain = filtered_clip.fit(harmonics, filtered_clip.FIRST_ORDERS)
    soft = soft_knee.fit(harmonics)
    found = [top for top in (plain, soft) if top is not None]
    # Averages over a wide stretch round a flat off as a knee does; a knee is likelier unless they explain far more.
    averaged = filtered_clip.fit(harmonics, filtered_clip.AVERAGED) if soft or not plain else None
    if averaged is not None and all(_NEARLY * averaged.chi_square < top.chi_square for top in found):
        return _of_clip(harmonics, averaged)
    if found:
        return _nearest(harmonics, found)
    for behind in filtered_clip.FURTHER:
        further = filtered_clip.fit(harmonics, behind)
        if further is not None:
            return _of_clip(harmonics, further)
    return None


def _nearest(harmonics: Harmonics, found: list[FilteredClip | SoftKnee]) -> Conclusion:
    """The model that leaves least; what those that explain the wave about as well differ by is doubt."""
    best = min(found, key=lambda top: top.chi_square)
    near = [top for top in found if top.chi_square < _NEARLY * best.chi_square]
    apart_v = max((abs(top.clean_v - best.clean_v) for top in near), default=0.0)
    if isinstance(best, SoftKnee):
        return _of_knee(harmonics, best, apart_v)
    return _of_clip(harmonics, best, apart_v)


def _of_clip(harmonics: Harmonics, found: FilteredClip, apart_v: float = 0.0) -> Conclusion:
    over_doubt = float(np.hypot(found.over_doubt_db, _LEAST_DOUBT_DB + _DB * apart_v / found.clean_v / COVER))
    clean_doubt = float(np.hypot(found.clean_doubt_v, found.clean_v * _LEAST_DOUBT_DB / _DB + apart_v / COVER))
    side, where = sides_in_words(found.sides)
    return _conclusion(
        harmonics,
        found,
        doubts=(over_doubt, clean_doubt),
        side=side,
        verdict=verdict_of(found.over_db),
        reason=f"Flat on {where} before it was filtered: driven {amount(found.over_db, COVER * over_doubt)} past "
        f"a clean maximum of {format_value(found.clean_v, 'V', 4)} RMS here.",
        more=f"Between where it clips and here {found.kind} tilts or bends its tops; a flat top and that filter "
        f"together explain all but {100 * found.unexplained:.0f} % of its harmonics.",
    )


def _of_knee(harmonics: Harmonics, found: SoftKnee, apart_v: float = 0.0) -> Conclusion:
    model_db = _LEAST_KNEE_DB + _KNEE_DOUBT * abs(found.over_db) + _DB * apart_v / found.clean_v / COVER
    over_doubt = float(np.hypot(found.over_doubt_db, model_db))
    clean_doubt = float(np.hypot(found.clean_doubt_v, found.clean_v * model_db / _DB))
    clean_maximum = format_value(found.clean_v, "V", 4)
    return _conclusion(
        harmonics,
        found,
        doubts=(over_doubt, clean_doubt),
        side="both",
        # Below 1 % a knee is what a clean wave looks like close to its clean maximum.
        verdict=Verdict.CLIPPED if found.over_db > 0 else Verdict.CLEAN,
        reason=f"Rounded off softly: driven {amount(found.over_db, COVER * over_doubt)} past a clean maximum "
        f"of {clean_maximum} RMS, where its distortion reaches 1 %."
        if found.over_db > 0
        else f"A sine: rounded off softly, below 1 % of distortion up to {clean_maximum} RMS.",
        more="It limits with a soft knee: there is no sharp clean maximum.",
    )


def _conclusion(
    harmonics: Harmonics,
    found: FilteredClip | SoftKnee,
    *,
    doubts: tuple[float, float],
    side: str,
    verdict: Verdict,
    reason: str,
    more: str,
) -> Conclusion:
    fitted = _wave(harmonics, found.phasors)
    over = found.over_db if found.over_db > 0 else None
    return Conclusion(
        verdict,
        peaks_v=(float(fitted.max()), float(fitted.min())),
        thd=harmonics.thd(),
        fitted=fitted,
        reason=reason,
        more=(more,),
        clean_doubt_v=COVER * doubts[1],
        figures={
            "over_db": over,
            "over_db_uncertainty": None if over is None else COVER * doubts[0],
            "clean_v_rms": found.clean_v,
            "clipped_side": None if over is None else side,
        },
    )


def _refined(wave: FittedWave) -> Harmonics:
    """The harmonics at the frequency that leaves least: that of a clipped sine is off where tops are tilted."""
    apart, count = _SEARCH / wave.volts.size, wave.volts.size
    left, middle, right = (
        tone_fit.ToneBasis(wave.frequency + part * apart, count).fit(wave.volts)[0] for part in (-1, 0, 1)
    )
    bend = left.noise_v**2 - 2 * middle.noise_v**2 + right.noise_v**2
    if bend <= 0:
        return middle
    shift = float(np.clip(0.5 * (left.noise_v**2 - right.noise_v**2) / bend, -1, 1))
    return tone_fit.ToneBasis(wave.frequency + shift * apart, count).fit(wave.volts)[0]


def _wave(harmonics: Harmonics, phasors: Complex) -> np.ndarray:
    """The model at every sample."""
    steps = np.arange(harmonics.fitted.size) - (harmonics.fitted.size - 1) / 2
    turn = np.exp(2j * np.pi * harmonics.frequency * steps)
    wave, power = np.full(steps.size, harmonics.constant), turn
    for phasor in phasors:
        wave = wave + (phasor * power).real
        power = power * turn
    return wave
