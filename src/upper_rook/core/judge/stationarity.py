"""Whether a tone is steady: what drifts is evened, what jumps is judged in part, and a note of music is no tone."""

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.judge.even_time import evened
from upper_rook.core.judge.fitted_wave import FittedWave, fitted
from upper_rook.core.judge.segment import FEWEST_CYCLES, Samples
from upper_rook.core.signal import tone_fit

Array = NDArray[np.float64]

NOT_A_TONE = 0.25
"""Share of the power that may belong neither to the tone nor to a steady interferer."""
_BETTER = 0.5
"""Of the squares that a drifting tone leaves, what it may leave once it is evened."""
_NEARLY_ALL = 0.9
"""Of a capture, from which what is judged is all there is."""
_LOUD, _FOREIGN, _MOSTLY = 0.1, 0.1, 0.35
"""Of the judged part's power, what plays; of that, what may be no part of the tone; and in how many places."""
_BLOCK_CYCLES, _MOST_BLOCKS = 4.5, 40


def steadied(wave: FittedWave) -> FittedWave:
    """A drift of frequency evened out, or the steadier half where the tone jumps; itself where it is steady."""
    if not (wave.is_unsteady or wave.is_coloured):
        return wave
    even = evened(wave.part)
    if even is not None:
        found = fitted(even, 0.0)
        if found.clip.square_sum < _BETTER * wave.clip.square_sum:
            return found
    return _steadier_half(wave) if wave.is_unsteady else wave


def is_only_a_moment(whole: Samples, wave: FittedWave) -> bool:
    """Whether most of what plays beside the judged part is something else: a note of music, a vowel."""
    where, frequency = wave.part.where, wave.frequency
    length = round(_BLOCK_CYCLES / frequency)
    if where.stop - where.start > _NEARLY_ALL * whole.size or whole.size < 2 * length:
        return False
    starts = np.linspace(0, whole.size - length, min(_MOST_BLOCKS, whole.size // length)).astype(int)
    blocks = [np.asarray(whole[start : start + length], dtype=np.float64) for start in starts]
    power = np.array([block.var() for block in blocks])
    loud = power > _LOUD * float(wave.raw.var())
    left = np.array([fit.noise_v**2 for fit in tone_fit.ToneBasis(frequency, length).fit(*blocks)])
    return bool(loud.any() and np.mean(left[loud] > _FOREIGN * power[loud]) > _MOSTLY)


def _steadier_half(wave: FittedWave) -> FittedWave:
    """A jump of phase or level somewhere leaves one half of the capture whole: that half, or all where none is."""
    half = wave.raw.size // 2
    if wave.frequency * half < FEWEST_CYCLES:
        return wave
    left = {start: _left_over(wave.raw[start : start + half]) for start in (0, half)}
    start = min(left, key=lambda place: left[place])
    if left[start] > 0.5 * _left_over(wave.raw):
        return wave
    part = wave.part.within(
        start,
        start + half,
        "The tone jumps in this capture, as where a track restarts or a knob is turned; "
        "only its steadier half is analysed.",
    )
    return fitted(part, wave.step) if part.frequency > 0 else wave


def _left_over(volts: Array) -> float:
    """RMS of what a tone and its harmonics leave."""
    frequency = tone_fit.coarse_frequency(volts)
    return tone_fit.ToneBasis(frequency, volts.size).fit(volts)[0].noise_v
