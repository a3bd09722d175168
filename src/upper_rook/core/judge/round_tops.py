"""Waves without a flat top that explains them: a sine, or one that is bent in some other way."""

import numpy as np

from upper_rook.core.common.units import format_db
from upper_rook.core.judge.conclusion import Conclusion
from upper_rook.core.judge.fitted_wave import FittedWave
from upper_rook.core.judge.flat_tops import code_limit_db
from upper_rook.core.judge.visibility import BAND, MISLEADS_DB, least_visible_db, record_faster, rules_out
from upper_rook.core.judge.wave_report import Verdict

_WORTH_TELLING_DB = 0.1
DISTORTED = 0.01
"""THD from which a wave without a flat top is called distorted."""


def unclipped(wave: FittedWave, *, flat_too: bool, rate_hz: float) -> Conclusion:
    """A sine as far as clipping would have shown, or distorted in a way that no flat top explains."""
    thd = _thd_beyond_steps(wave)
    if thd > DISTORTED:
        fitted = wave.harmonics.fitted
        return Conclusion(
            Verdict.DISTORTED,
            peaks_v=(float(fitted.max()), float(fitted.min())),
            thd=thd,
            fitted=fitted,
            reason=f"{100 * thd:.1f} % of harmonics that no flat top explains: {_which(wave)}.",
            more=(_where_bent(wave, flat_too),),
        )
    told = f"{100 * thd:.2f} % of harmonics" if thd >= 5e-5 else "harmonics too small to see"
    constant, top = wave.harmonics.constant, float(wave.harmonics.amplitudes[0])
    least = _least_visible_db(wave, top)
    clean = code_limit_db(wave, top) <= MISLEADS_DB and _rules_out(wave, top)
    return Conclusion(
        Verdict.CLEAN if clean else Verdict.UNSEEN,
        peaks_v=(constant + top, constant - top),
        thd=thd,
        fitted=wave.plain.fitted,
        reason=f"A sine: {told}, no flat top." if clean else _unseen(wave, least, rate_hz),
        more=(f"Clipping of less than about {format_db(least)} can’t be seen here.",)
        if clean and least is not None and least > _WORTH_TELLING_DB and not flat_too
        else (),
    )


def _rules_out(wave: FittedWave, top_v: float) -> bool:
    plain, count = wave.plain, wave.volts.size
    steps = np.arange(count) - (count - 1) / 2
    # The tone is the real part of c·exp(iωt): a quarter of a turn before a sine's beginning.
    turns = wave.frequency * steps + float(np.angle(plain.phasors[0])) / (2 * np.pi) + 0.25
    left = np.asarray(wave.volts - plain.fitted) / top_v
    return rules_out(left, np.asarray(turns), wave.frequency, wave.noise**0.5 / top_v)


def _least_visible_db(wave: FittedWave, top_v: float) -> float | None:
    """Least clipping that would have shown; a quiet converter's codes hide as much as their own doubt."""
    least = least_visible_db(wave.frequency, wave.volts.size, wave.noise**0.5 / max(top_v, 1e-300))
    return None if least is None else max(least, code_limit_db(wave, top_v)) + _between_samples_db(wave, top_v)


def _between_samples_db(wave: FittedWave, top_v: float) -> float:
    """How far below the top the highest sample lies: where few moments of the cycle repeat, none may be on a flat."""
    height = (wave.plain.fitted - wave.plain.constant) / max(top_v, 1e-300)
    reached = min(float(height.max()), -float(height.min()))
    return -20 * float(np.log10(max(reached, 1e-3)))


def _unseen(wave: FittedWave, least: float | None, rate_hz: float) -> str:
    if wave.frequency * 3 >= BAND:
        return (
            f"Can’t tell whether it clips: at {rate_hz:.0f} samples a second its harmonics lie beyond what is "
            f"recorded. {record_faster(rate_hz)}"
        )
    if _between_samples_db(wave, float(wave.harmonics.amplitudes[0])) > _WORTH_TELLING_DB:
        return (
            "Can’t tell whether it clips: the same few moments of every cycle are sampled, and none at its top. Choose "
            "another time base or record faster."
        )
    amount = f"less than about {format_db(least)}" if least is not None else "any size"
    return (
        f"Can’t tell whether it clips: clipping of {amount} would not show beside this noise. Fill more of the "
        "screen, and capture more samples."
    )


def _thd_beyond_steps(wave: FittedWave) -> float:
    """THD less what a quiet converter's stair-steps may make: all of their q²/12, where no noise spreads it."""
    quiet = wave.noise_on_slopes < 1.5 * wave.step**2 / 12
    stairs = wave.step**2 / 6 if quiet else 0.0
    return float(max(0.0, wave.harmonics.power_above_noise(1) - stairs) ** 0.5 / wave.harmonics.amplitudes[0])


def _which(wave: FittedWave) -> str:
    rows = wave.harmonics.significant()[:3]
    return ", ".join(f"{_ordinal(number)} {100 * ratio:.1f} %" for number, ratio in rows)


def _where_bent(wave: FittedWave, flat_too: bool) -> str:
    """Kind of bend, from the place in the cycle where the wave leaves the sine."""
    sine = wave.plain.fitted
    height = (sine - sine.mean()) / (np.sqrt(2) * sine.std())
    left = (wave.harmonics.fitted - sine) ** 2
    near_zero, near_tops = left[np.abs(height) < 0.25], left[np.abs(height) > 0.75]
    if near_zero.size and near_tops.size and near_zero.mean() > 2 * near_tops.mean():
        return "It bends where the wave crosses zero, as an output stage with a dead zone does."
    if flat_too:
        return "The tops are rounded off softly: it is being limited, but not cut."
    return "The bend is spread over the wave: a soft limiter, a transformer or another tone’s harmonics."


def _ordinal(number: int) -> str:
    teens = 10 < number % 100 < 14
    return f"{number}{'th' if teens else {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10, 'th')}"
