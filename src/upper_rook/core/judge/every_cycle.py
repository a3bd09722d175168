"""
Cycles that differ from the rest: a tone that clips at first, until a limiter acts, or now and then.

The fits look at a capture as a whole; what a few cycles do is lost in their mean. Here each cycle is compared with a
sine of its own, and those that are bent more than the rest are fitted apart.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import format_value
from upper_rook.core.judge.conclusion import Conclusion, amount, sides_in_words
from upper_rook.core.judge.fitted_wave import FittedWave
from upper_rook.core.judge.flat_tops import COVER, clip_thd, verdict_of
from upper_rook.core.judge.wave_report import Verdict
from upper_rook.core.signal import clip_fit
from upper_rook.core.signal.clip_fit import ClipFit

Array = NDArray[np.float64]

_FEWEST_CYCLES, _FEWEST_A_CYCLE = 4, 6
_BROKEN_OFF = 0.4
_NEARLY_ALL = 0.85
"""Of the cycles: where so many are bent alike the fits of the whole tell it."""
_STANDS_OUT = 5.0
"""Standard deviations by which a cycle's rest must be more than the noise's."""
_CERTAIN = 4.0
_BENT = 0.015
"""Of the tone's amplitude, the RMS of its rest from which a cycle counts as bent: some 0.5 dB of clipping."""
_PLAYS = 0.5
"""Of the loudest cycles' level, from which a cycle plays the tone at all."""
_EXPLAINED = 0.4
"""Of what a sine leaves of the bent cycles, what their clipped sine may leave."""
_NOISY, _FAR_MORE = 2.0, 4.0
"""Times the noise that a fit of the bent cycles may leave; times the rest of the others that theirs must be."""
_UNCLIPPED = (Verdict.CLEAN, Verdict.UNSEEN, Verdict.DISTORTED)
_LIKE = 4.0
"""Times the middle cycle's rest, from which a cycle that a fit doesn't explain is left out of it."""
_LEAST_DOUBT_DB = 0.01
_DB = 20 / float(np.log(10))


@dataclass(frozen=True)
class _Cycles:
    """The whole cycles of a stretch: where each begins, and a sine fitted to each."""

    volts: Array
    turns: Array
    """Turns of the tone at every sample."""
    starts: NDArray[np.int64]
    counts: Array
    amplitudes: Array
    rests: Array
    """Sum of squares that each cycle's own sine leaves, V²."""

    def samples(self, which: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """The samples of some of the cycles."""
        return np.repeat(which, self.counts.astype(int))


def bent_cycles(wave: FittedWave, found: Conclusion, rate_hz: float) -> Conclusion | None:
    """
    The clipping of those cycles that are bent more than the rest; None where all are alike.

    They are looked for in the whole stretch that the judged part was taken from; `found` is that part's conclusion.
    """
    if wave.frequency * _FEWEST_A_CYCLE > 1:
        return None
    cycles = _cycles(wave.part.stretch, _turns(wave))
    if cycles is None:
        return None
    bent, noise = _bent(cycles)
    for _ in range(2):
        count = int(np.count_nonzero(bent))
        if not 0 < count < _NEARLY_ALL * bent.size or (count == 1 and bent[[0, -1]].any()):
            return None
        of_them = cycles.samples(bent)
        clip = clip_fit.fit(cycles.volts[of_them], cycles.turns[of_them])
        rests = _sums((cycles.volts - clip.at(cycles.turns)) ** 2, cycles.starts)
        own = float(np.median(rests[bent] / cycles.counts[bent]))
        like = bent & (rests / cycles.counts <= _LIKE * max(own, noise))
        if np.array_equal(like, bent):
            break
        bent = like
    sides = tuple(side for side in (1, -1) if _stands_out(clip, side))
    left, before = (float(np.sum(values[bent]) / np.sum(cycles.counts[bent])) for values in (rests, cycles.rests))
    explained = left < _EXPLAINED * before and left < _NOISY * min(noise, _NOISY * wave.noise)
    # Beside a wave that is clipped all along, only what is bent far more says anything new.
    apart = found.verdict in _UNCLIPPED or before > _FAR_MORE * noise
    if not sides or not explained or not apart:
        return None
    code_db = _DB * wave.code_doubt_v / min(clip.level_v(side) for side in sides)
    return _concluded(clip, sides, code_db, _when(bent, cycles, rate_hz), found)


def _turns(wave: FittedWave) -> Array:
    """Turns of the tone at every sample of the stretch, whole where it rises through its middle."""
    where = wave.part.where
    middle = (where.start + where.stop - 1) / 2 - wave.part.stretch_begins
    begins = float(np.arctan2(wave.clip.values[1], wave.clip.values[0])) / (2 * np.pi)
    turns = wave.frequency * (np.arange(wave.part.stretch.size) - middle) + begins
    return np.asarray(turns - np.floor(turns[0]))


def _cycles(volts: Array, turns: Array) -> _Cycles | None:
    number = np.floor(turns).astype(np.int64)
    # What is broken off at either end counts where more than half of it is there.
    first, last = int(turns[0] > _BROKEN_OFF), number[-1] - int(turns[-1] - number[-1] < 1 - _BROKEN_OFF)
    whole = (number >= first) & (number <= last)
    if last - first < _FEWEST_CYCLES:
        return None
    volts, turns = volts[whole], turns[whole]
    starts = np.flatnonzero(np.diff(number[whole], prepend=-1))
    counts = np.diff(np.append(starts, volts.size)).astype(np.float64)
    angle = 2 * np.pi * turns
    sines, cosines = np.sin(angle), np.cos(angle)
    columns = (np.ones(volts.size), sines, cosines)
    square = np.array([[_sums(column * other, starts) for other in columns] for column in columns]).transpose(2, 0, 1)
    pull = np.array([_sums(column * volts, starts) for column in columns]).T
    weights = np.linalg.solve(square, pull[:, :, None])[:, :, 0]
    rests = _sums(volts**2, starts) - np.sum(weights * pull, axis=1)
    return _Cycles(volts, turns, starts, counts, np.hypot(weights[:, 1], weights[:, 2]), np.maximum(0.0, rests))


def _sums(values: Array, starts: NDArray[np.int64]) -> Array:
    return np.asarray(np.add.reduceat(values, starts))


def _bent(cycles: _Cycles) -> tuple[NDArray[np.bool_], float]:
    """Cycles that are bent more than the straightest, and the variance that those leave."""
    freedom = np.maximum(1.0, cycles.counts - 3)
    variance, scatter = cycles.rests / freedom, np.sqrt(2 / freedom)
    plays = cycles.amplitudes > _PLAYS * float(np.quantile(cycles.amplitudes, 0.9))
    if np.count_nonzero(plays) < _FEWEST_CYCLES:
        return np.zeros(plays.size, dtype=bool), 0.0
    # The fifth part from below, put right for what the choice of the least takes off.
    noise = float(np.quantile(variance[plays], 0.2)) / (1 - 0.84 * float(np.median(scatter)) / 1.2)
    more = variance > noise * (1 + _STANDS_OUT * scatter)
    bent = np.sqrt(np.maximum(0.0, variance - noise)) > _BENT * cycles.amplitudes / np.sqrt(2)
    return plays & more & bent, noise


def _stands_out(clip: ClipFit, side: int) -> bool:
    over = clip.over_db(side)
    if over <= 0 or np.count_nonzero(clip.flat(side)) < 3:
        return False
    of_amplitude, of_level = clip.gradients(side)
    return over > min(_CERTAIN * clip.spread_db(of_amplitude - of_level), 3.0)


def _concluded(clip: ClipFit, sides: tuple[int, ...], code_db: float, when: str, found: Conclusion) -> Conclusion:
    """`when` names the cycles, `code_db` is what a converter's codes leave open, `found` is of the whole."""
    lower = min(sides, key=clip.level_v)
    of_amplitude, of_level = clip.gradients(lower)
    level, over = clip.level_v(lower), clip.over_db(lower)
    over_doubt = float(np.hypot(clip.spread_db(of_amplitude - of_level), code_db))
    level_doubt = float(np.hypot(np.hypot(clip.spread_db(of_level), code_db), _LEAST_DOUBT_DB))
    clean = level / float(np.sqrt(2))
    side, where = sides_in_words(sides)
    return Conclusion(
        verdict_of(over),
        peaks_v=found.peaks_v,
        thd=clip_thd(clip),
        fitted=found.fitted,
        reason=f"Clipped in part: {when} flat on {where}, driven "
        f"{amount(over, COVER * over_doubt)} past a clean maximum of {format_value(clean, 'V', 4)} RMS.",
        more=("The other cycles aren’t: turn down until none is.",),
        clean_doubt_v=COVER * clean * level_doubt / _DB,
        figures={
            "over_db": over,
            "over_db_uncertainty": COVER * over_doubt,
            "clean_v_rms": clean,
            "clipped_side": side,
        },
    )


def _when(bent: NDArray[np.bool_], cycles: _Cycles, rate_hz: float) -> str:
    """The bent cycles in words: the first or the last stretch, or how many of how many."""
    places, whole = np.flatnonzero(bent), bent.size
    in_a_row = places[-1] - places[0] + 1 <= 1.2 * places.size
    if in_a_row and places[0] <= 1:
        return f"the first {_milliseconds(cycles.starts[min(places[-1] + 1, whole - 1)] / rate_hz)} are"
    if in_a_row and places[-1] >= whole - 2:
        return f"the last {_milliseconds((cycles.volts.size - cycles.starts[places[0]]) / rate_hz)} are"
    return f"{places.size} of {whole} cycles {'is' if places.size == 1 else 'are'}"


def _milliseconds(seconds: float) -> str:
    return format_value(1000 * seconds, "ms", 2)
