"""
A part of a capture fitted twice: with harmonics (IEEE 1057) and with a clipped sine.

Lengths are in samples, frequencies in cycles a sample, arrays of shape (n,) over the part.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.judge.part import FEWEST_CYCLES, Part
from upper_rook.core.signal import clip_fit, tone_fit
from upper_rook.core.signal.clip_fit import ClipFit
from upper_rook.core.signal.tone_fit import Harmonics, Interferer

Array = NDArray[np.float64]

_TURNS = 3


@dataclass(frozen=True)
class FittedWave:
    """A part, what is steady in it and isn't the tone, and both fits of the rest."""

    part: Part
    step: float
    """Volts of one code of the converter, 0 where it has none."""
    frequency: float
    """Of the tone, refined."""
    volts: Array
    """The part with interferers and drift taken off."""
    clip: ClipFit
    harmonics: Harmonics
    left_harmonics: Harmonics
    """Harmonics of what the clipped sine leaves."""
    plain: Harmonics
    """The tone alone."""
    interferers: tuple[Interferer, ...]

    @property
    def raw(self) -> Array:
        """The part as it was captured."""
        return self.part.volts

    @cached_property
    def others(self) -> tuple[Interferer, ...]:
        """Interferers that are neither drift nor the tone's own unsteadiness."""
        return tuple(
            line for line in self.interferers if line.frequency > 0 and not self._is_near(line, multiple_too=True)
        )

    @property
    def drift(self) -> tuple[Interferer, ...]:
        """Slow movement under the tone."""
        return tuple(line for line in self.interferers if line.frequency == 0)

    def _is_near(self, line: Interferer, multiple_too: bool = False) -> bool:
        """Whether a line is so near the tone (or a multiple of it) that it is the tone's own unsteadiness."""
        nearest = max(1, round(line.frequency / self.frequency)) if multiple_too else 1
        return abs(line.frequency - nearest * self.frequency) * self.raw.size < 2.5

    @property
    def is_unsteady(self) -> bool:
        """Whether the tone's own level or phase moves."""
        least = 0.01 * float(self.harmonics.amplitudes[0])
        return any(self._is_near(line) and line.amplitude_v > least for line in self.interferers)

    @property
    def is_chord(self) -> bool:
        """Two or more other lines of a tenth of the tone: music rather than a tone with something on it."""
        least = 0.1 * float(self.harmonics.amplitudes[0])
        return sum(line.amplitude_v > least for line in self.others) > 1

    @property
    def foreign_share(self) -> float:
        """Share of the power that is neither the tone nor slow drift: noise, music, another tone."""
        others = sum(line.amplitude_v**2 / 2 for line in self.others)
        return (self.harmonics.noise_v**2 + others) / max(float(self.volts.var()) + others, 1e-300)

    @cached_property
    def noise(self) -> float:
        """Variance of the noise around the clipped sine, raised where neighbouring samples share theirs."""
        left = self.volts - self.clip.fitted
        variance = self.clip.square_sum / max(1, left.size - 6)
        alike = float(left[1:] @ left[:-1]) / max(float(left @ left), 1e-300)
        return variance * min(25.0, (1 + alike) / (1 - alike)) if 0.1 < alike < 1 else variance

    @cached_property
    def slopes(self) -> NDArray[np.bool_]:
        """Samples that are on neither flat."""
        return ~(self.clip.flat(1) | self.clip.flat(-1))

    @cached_property
    def noise_on_slopes(self) -> float:
        """Variance of what the fit leaves where the wave is on neither flat."""
        return float(np.var((self.volts - self.clip.fitted)[self.slopes])) if self.slopes.any() else 0.0

    @cached_property
    def code_doubt_v(self) -> float:
        """
        How far quantisation can shift a flat, as a standard uncertainty.

        Noise of σ shrinks a quantiser's mean error to (q/π)·exp(−2π²σ²/q²) at the most; without noise it is q/√12.
        """
        if self.step <= 0:
            return 0.0
        ratio = max(0.0, self.noise_on_slopes / self.step**2 - 1 / 12)
        return float(self.step * min(1 / np.sqrt(12), np.exp(-2 * np.pi**2 * ratio) / (np.pi * np.sqrt(2))))

    @cached_property
    def unexplained(self) -> float:
        """Harmonics that the clipped sine leaves, over all harmonics."""
        power = self.harmonics.power_above_noise(1)
        return float(np.sqrt(self.left_harmonics.power_above_noise() / power)) if power > 0 else 0.0

    def spread_db(self, gradient: Array) -> float:
        """Standard uncertainty in dB of something with this gradient, shape (6,), after the fit's parameters."""
        variance = self.clip.square_sum / max(1, self.volts.size - 6)
        spread = max(0.0, float(gradient @ self.clip.covariance @ gradient))
        return float(np.sqrt(spread * self.noise / max(variance, 1e-300)))


def fitted(part: Part, step: float) -> FittedWave:
    """Fits the clipped sine and the harmonics, after taking off what is steady and isn't the tone."""
    raw, frequency = part.volts, part.frequency
    steps = np.arange(raw.size) - (raw.size - 1) / 2
    off = tone_fit.slow_drift(raw, frequency)
    for turn in range(_TURNS):
        volts = raw - off
        clip = clip_fit.fit(volts, np.asarray(frequency * steps))
        frequency *= 1 + clip.frequency_shift
        left = raw - clip.fitted
        basis = tone_fit.ToneBasis(frequency, left.size)
        left_harmonics, harmonics = basis.fit(left - off, volts)
        interferers, total = tone_fit.interferers(left - left_harmonics.fitted)
        changed = float(np.std(total - off))
        if turn == _TURNS - 1 or changed <= 0.1 * left_harmonics.noise_v:
            break
        off = total
    (plain,) = basis.fit(volts, most=1)
    return FittedWave(part, step, frequency, volts, clip, harmonics, left_harmonics, plain, interferers)


def steadier_half(wave: FittedWave) -> FittedWave:
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
        "only its steadier half is judged.",
    )
    return fitted(part, wave.step)


def _left_over(volts: Array) -> float:
    """RMS of what a tone and its harmonics leave."""
    frequency = tone_fit.coarse_frequency(volts)
    return tone_fit.ToneBasis(frequency, volts.size).fit(volts)[0].noise_v
