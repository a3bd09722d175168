"""Flat tops: whether there are any, and how far past its clean maximum the wave is."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import format_value
from upper_rook.core.judge.conclusion import Conclusion, amount, sides_in_words
from upper_rook.core.judge.display_thinning import Sides, may_be_screen
from upper_rook.core.judge.fitted_wave import FittedWave, without_strongest_harmonic
from upper_rook.core.judge.wave_report import Verdict
from upper_rook.core.signal import clipped_sine
from upper_rook.core.signal.clip_fit import ClipFit

Array = NDArray[np.float64]

COVER = 2.1
"""Coverage factor: a little above 2, since near the threshold only the likelier half of the errors is reported."""
_PLAIN_DB = 3.0
_LEAST_DOUBT_DB = 0.001
_SQUARE_THD = float(np.sqrt(np.pi**2 / 8 - 1))
"""Of an ideal square wave: 48.343 %."""
_STEPS_DOUBT = 3.0
_LEAST_OVER_DB = 0.02
"""An overdrive (0.03 % THD) below which a flat is put down to the instrument's own drawing of the peaks."""
_CERTAIN = 4.0
"""Standard uncertainties by which clipping must stand out: a clean wave passes for clipped once in some 10,000."""
_ROUNDED_DB = 2.0
"""How far a rounded corner leaves the clean maximum open, for what it leaves unexplained."""
_LINE_DOUBT = 0.02
"""Of hum or whine that was taken off, what its fit beside few cycles leaves open."""
_SHARP_BESIDE, _HUM_DOUBT = 0.1, 0.1
"""Residue that may stay unexplained once a harmonic was removed, and the doubt that it adds to the clean maximum."""
_DB = 20 / float(np.log(10))
"""Decibels of a small relative change."""


def clipped_sides(wave: FittedWave) -> Sides:
    """The sides whose flat is beyond what noise could feign."""
    return tuple(side for side in (1, -1) if _is_clipped(wave, side))


def _is_clipped(wave: FittedWave, side: int) -> bool:
    clip, over = wave.clip, wave.clip.over_db(side)
    if over <= 0.0 or np.count_nonzero(clip.flat(side)) < 3:
        return False
    of_amplitude, of_level = clip.gradients(side)
    doubt = wave.spread_db(of_amplitude - of_level)
    step_db = code_limit_db(wave, clip.level_v(side))
    gained = float(np.sum((wave.volts - wave.plain.fitted) ** 2)) - clip.square_sum
    # Past some decibels the amplitude rests on a few samples of the slopes, but the flat is beyond doubt.
    least = max(step_db, _LEAST_OVER_DB, min(_CERTAIN * doubt, _PLAIN_DB))
    return bool(over > least and gained > _CERTAIN**2 * wave.noise)


def code_limit_db(wave: FittedWave, level_v: float) -> float:
    """Overdrive that may be a quiet converter's own: its last step is a flat of half a code below the top."""
    return _DB * _STEPS_DOUBT * wave.code_doubt_v / level_v


def clipped(wave: FittedWave, sides: Sides) -> Conclusion:
    """How far the wave is driven past its clean maximum, where that lies, and how sure both are."""
    clip, unexplained = wave.clip, wave.unexplained
    of_amplitude, of_level, level = _clean_maximum(wave, sides)
    over = 20 * float(np.log10(clip.amplitude_v / level))
    code = _DB * wave.code_doubt_v / level
    taken_off = _DB * _LINE_DOUBT * sum(line.amplitude_v for line in wave.interferers) / level
    level_parts = (wave.spread_db(of_level), code, _ROUNDED_DB * unexplained, _LEAST_DOUBT_DB, taken_off)
    level_doubt = float(np.sqrt(sum(part**2 for part in level_parts)))
    # A rounded corner hides part of the overdrive: some half of what it leaves unexplained.
    parts = (wave.spread_db(of_amplitude - of_level), code, 0.5 * unexplained * over, _LEAST_DOUBT_DB)
    over_doubt = float(np.sqrt(sum(part**2 for part in parts)))
    clean = level / np.sqrt(2)
    verdict = verdict_of(over)
    steep = verdict is Verdict.SQUARE
    # With hardly a sample on the slopes, or always the same few, or an edge as steep as the noise, it can't be told.
    seen = np.count_nonzero(wave.slopes) >= 6 if steep else _has_phases(wave)
    known = over_doubt < _PLAIN_DB / 2 and bool(seen)
    driven = amount(over, COVER * over_doubt) if known else "more than 20 dB" if steep else _SOME
    side, where = sides_in_words(sides)
    return Conclusion(
        verdict,
        peaks_v=(
            min(clip.values[4], clip.centre_v + clip.amplitude_v),
            max(clip.values[5], clip.centre_v - clip.amplitude_v),
        ),
        thd=float(np.hypot(clip_thd(clip) if known else _SQUARE_THD, unexplained * wave.harmonics.thd())),
        fitted=clip.fitted,
        reason=f"Flat on {where}: driven {driven} past a clean maximum of {format_value(clean, 'V', 4)} RMS.",
        more=tuple(_remarks(wave, sides)),
        clean_doubt_v=COVER * clean * level_doubt / _DB,
        figures={
            "over_db": over if known else None,
            "over_db_uncertainty": COVER * over_doubt if known else None,
            "clean_v_rms": clean,
            "clipped_side": side,
        },
    )


def beside_a_harmonic(wave: FittedWave) -> Conclusion | None:
    """A clipped sine beside hum on one of its harmonics; None where that doesn't explain it."""
    alone = without_strongest_harmonic(wave)
    sides = clipped_sides(alone[0]) if alone else ()
    if alone is None or not sides or alone[0].unexplained > _SHARP_BESIDE:
        return None
    found, lost_v = clipped(alone[0], sides), float(wave.harmonics.amplitudes[alone[1] - 1])
    told = (
        f"There is also a tone of {alone[1]} times its frequency, as hum may: it adds to the doubt of the clean "
        "maximum."
    )
    doubt_v = float(np.hypot(found.clean_doubt_v or 0.0, _HUM_DOUBT * lost_v))
    return replace(found, more=(*found.more, told), clean_doubt_v=doubt_v)


def verdict_of(over_db: float) -> Verdict:
    """Name of an overdrive."""
    if over_db >= clipped_sine.SQUARE_DB:
        return Verdict.SQUARE
    return Verdict.CLIPPED if over_db > clipped_sine.EDGE_DB else Verdict.EDGE


_SOME = "by the limit of so few different moments of its cycle,"
_FEWEST_PHASES = 3


def _has_phases(wave: FittedWave) -> bool:
    """Whether its slopes are seen at enough different moments: a rate of few whole samples a cycle repeats the same."""
    moments = np.round((wave.frequency * np.flatnonzero(wave.slopes)) % 1, 2)
    return bool(np.unique(moments).size >= 2 * _FEWEST_PHASES)


def _remarks(wave: FittedWave, sides: Sides) -> list[str]:
    remarks, unexplained = [], wave.unexplained
    if may_be_screen(wave, sides):
        remarks.append("Every sample on the flat has the same value: it may be the screen. Choose a larger range.")
    if len(sides) == 1:
        remarks.append("One side clips first: look for a DC offset, a weak rail or a single-ended stage running out.")
    if unexplained > 0.1:
        remarks.append("The corners of the flat are rounded; the overdrive is counted as if they were sharp.")
    return remarks


def _clean_maximum(wave: FittedWave, sides: Sides) -> tuple[Array, Array, float]:
    """(gradient of the amplitude, dB; gradient of the clean maximum, dB; the clean maximum, volts from the centre)."""
    clip = wave.clip
    rows = {side: clip.gradients(side) for side in sides}
    if min(clip.level_v(1), clip.level_v(-1)) <= 0:
        # A square's middle can't be told from its flats: half of what lies between them is its level.
        return rows[sides[0]][0], clip.half_gradient(), float(clip.values[4] - clip.values[5]) / 2
    if len(sides) == 2:
        apart = 20 * np.log10(clip.level_v(1) / clip.level_v(-1))
        square = min(clip.over_db(1), clip.over_db(-1)) > clipped_sine.SQUARE_DB
        if square or abs(apart) < 3 * wave.spread_db(rows[1][1] - rows[-1][1]) + 0.02:
            # The same clean maximum on both sides: half of what lies between is surer than the lower of the two.
            # Nor does it need the centre, which hangs on the slopes alone once they are steep.
            level = (clip.level_v(1) + clip.level_v(-1)) / 2
            return rows[1][0], clip.half_gradient(), level
    lower = min(sides, key=clip.level_v)
    return *rows[lower], clip.level_v(lower)


def clip_thd(clip: ClipFit) -> float:
    """THD of the clipped sine itself, all harmonics counted; its two sides may differ."""
    phase = 2 * np.pi * (np.arange(1024) + 0.5) / 1024
    wave = np.clip(clip.amplitude_v * np.sin(phase), clip.values[5] - clip.centre_v, clip.values[4] - clip.centre_v)
    fundamental = float(2 * np.mean(wave * np.sin(phase)))
    return float(np.sqrt(max(0.0, 2 * wave.var() / fundamental**2 - 1)))
