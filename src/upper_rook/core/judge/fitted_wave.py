"""
A part of a capture fitted twice: with harmonics (IEEE 1057) and with a clipped sine.

Lengths are in samples, frequencies in cycles a sample, arrays of shape (n,) over the part.
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.judge.segment import Part
from upper_rook.core.signal import clip_fit, tone_fit
from upper_rook.core.signal.clip_fit import ClipFit
from upper_rook.core.signal.tone_fit import Besides, Harmonics, Interferer

Array = NDArray[np.float64]

_TURNS = 3
_MOST_OF_IT = 0.35
"""Of what the clipped sine leaves, what one harmonic must hold to be tried without."""
_COLOURED = 2.0
"""Samples that share their noise, from which it may be the tone's own unsteadiness."""
_STRONG, _FELLOW = 0.15, 0.4
"""Of the tone, from which a line is no unsteadiness of it; of a sideband, what its fellow holds at least."""
_AS_EXPECTED = 1.03
"""Ratio of the residue to the noise that removed lines should leave, up to which no further line is sought."""
_SHIFT_APPLIED = np.array([1.0, 1.0, 0.0, 1.0, 1.0, 1.0])


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
        multiple = min(tone_fit.MOST_HARMONICS, round(line.frequency / self.frequency))
        nearest = max(1, multiple) if multiple_too else 1
        return abs(line.frequency - nearest * self.frequency) * self.raw.size < 2.5

    @property
    def is_unsteady(self) -> bool:
        """Whether the tone's own level or phase moves."""
        least = 0.01 * float(self.harmonics.amplitudes[0])
        return any(self._is_near(line) and line.amplitude_v > least for line in self.interferers)

    @property
    def is_coloured(self) -> bool:
        """Whether what harmonics leave is more than a hundredth of the tone, and no white noise."""
        left = self.harmonics
        shared = left.fitted.size / left.independent
        return shared > _COLOURED and left.noise_v > 0.01 * float(left.amplitudes[0])

    @property
    def is_chord(self) -> bool:
        """Two or more other lines of a tenth of the tone: music rather than a tone with something on it."""
        least = 0.1 * float(self.harmonics.amplitudes[0])
        return sum(line.amplitude_v > least for line in self.others) > 1

    @property
    def loudest_other(self) -> float:
        """The loudest line beside the tone, over the tone."""
        loudest = max((line.amplitude_v for line in self.others), default=0.0)
        return loudest / max(float(self.harmonics.amplitudes[0]), 1e-300)

    @property
    def second_tone(self) -> Interferer | None:
        """
        The loudest line that is too strong to be the tone's own unsteadiness, or has no fellow on the other side.

        A level or a frequency that moves makes sidebands in pairs; one alone is another tone, however near.
        """
        top = float(self.harmonics.amplitudes[0])
        strong = [line for line in self.interferers if line.frequency > 0 and line.amplitude_v > _STRONG * top]
        alone = (line for line in strong if not self._is_paired(line))
        return max(alone, key=lambda line: line.amplitude_v, default=None)

    def _is_paired(self, line: Interferer) -> bool:
        mirrored = 2 * self.frequency - line.frequency
        return any(
            abs(other.frequency - mirrored) * self.raw.size < 1 and other.amplitude_v > _FELLOW * line.amplitude_v
            for other in self.interferers
            if other is not line
        )

    @property
    def foreign_share(self) -> float:
        """Share of the power that is neither the tone nor slow drift: noise, music, another tone."""
        others = sum(line.amplitude_v**2 / 2 for line in self.others)
        return (self.harmonics.noise_v**2 + others) / max(float(self.volts.var()) + others, 1e-300)

    @cached_property
    def noise(self) -> float:
        """Variance of the noise around the clipped sine, raised where neighbouring samples share theirs."""
        left = self.volts - self.clip.fitted
        variance = self.clip.square_sum / max(1, left.size - 6) * self._told_twice**2
        return variance * tone_fit.shared_noise(left, float(left @ left))

    @property
    def _told_twice(self) -> float:
        """All samples over those that say something: what was filled in repeats the rest."""
        count = self.volts.size
        return count / max(1, count - self.part.filled)

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

        A quantiser's mean error is a sawtooth; noise of σ shrinks its k-th harmonic, q/(πk), by exp(−2π²k²σ²/q²).
        Without noise that comes to q/√12.
        """
        code_v = self.part.code_v
        if code_v <= 0:
            return 0.0
        ratio = max(0.0, self.noise_on_slopes * self.part.averaged / code_v**2 - 1 / 12)
        orders = np.arange(1.0, 33.0)
        parts = np.exp(-2 * (np.pi * orders) ** 2 * ratio) / (np.pi * orders)
        return float(code_v * np.sqrt(np.sum(parts**2) / 2))

    @cached_property
    def unexplained(self) -> float:
        """Harmonics that the clipped sine leaves, over all harmonics."""
        power = self.harmonics.power_above_noise(1)
        return float(np.sqrt(self.left_harmonics.power_above_noise() / power)) if power > 0 else 0.0

    def spread_db(self, gradient: Array) -> float:
        """Standard uncertainty in dB of something with this gradient, shape (6,), after the fit's parameters."""
        variance = self.clip.square_sum / max(1, self.volts.size - 6)
        return self.clip.spread_db(gradient) * float(np.sqrt(self.noise / max(variance, 1e-300)))


def fitted(part: Part, step: float) -> FittedWave:
    """Fits the clipped sine and the harmonics, after taking off what is steady and isn't the tone."""
    raw, frequency = part.volts, part.frequency
    steps = np.arange(raw.size) - (raw.size - 1) / 2
    off, near = tone_fit.slow_drift(raw, frequency), None
    besides: Besides | None = None
    for _ in range(_TURNS):
        volts = raw - off
        clip = clip_fit.fit(volts, np.asarray(frequency * steps), near)
        frequency *= 1 + clip.frequency_shift
        near = clip.values * _SHIFT_APPLIED
        left = raw - clip.fitted
        basis = tone_fit.ToneBasis(frequency, left.size)
        left_harmonics, harmonics, *beside = basis.fit(left - off, volts, *([left] if off.any() else ()))
        if besides is not None and left_harmonics.noise_v <= _AS_EXPECTED * besides.left_v:
            break
        besides = tone_fit.interferers(left - (beside or [left_harmonics])[0].fitted, basis, harmonics)
        if float(np.std(besides.total - off)) <= 0.1 * left_harmonics.noise_v:
            break
        off = besides.total
    (plain,) = basis.fit(volts, most=1)
    return FittedWave(
        part, step, frequency, volts, clip, harmonics, left_harmonics, plain, besides.lines if besides else ()
    )


def without_strongest_harmonic(wave: FittedWave) -> tuple[FittedWave, int] | None:
    """
    The wave without the one harmonic that its clipped sine doesn't have, and that harmonic's number.

    None where what it leaves is more than one. It is another source's: hum of twice the tone's frequency, say.
    """
    part, number = wave.part, 0
    for _ in range(2 * _TURNS):
        left = wave.left_harmonics
        power = np.maximum(0.0, left.amplitudes**2 - left.noise_power)
        power[0] = 0
        number = number or int(power.argmax()) + 1
        if number < 2 or power[number - 1] < _MOST_OF_IT * power.sum():
            break
        steps = np.arange(wave.raw.size) - (wave.raw.size - 1) / 2
        off = (left.phasors[number - 1] * np.exp(2j * np.pi * number * wave.frequency * steps)).real
        wave = fitted(replace(wave.part, volts=wave.raw - off), wave.step)
    return None if wave.part is part else (wave, number)
