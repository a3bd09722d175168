"""
Judging a captured tone: is it a clean sine, how far past its ceiling is it driven, and how sure is that.

The wave is fitted twice: with harmonics (IEEE 1057), which tells what is in it, and with a clipped sine, which tells
whether a flat top explains it. Nothing is decided by a harmonic figure alone: stair-steps, hum, fuzz and soft rounding
all have one.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import format_value
from upper_rook.core.judge.wave_report import Harmonic, Judgement, Verdict, WaveReport, without_figures
from upper_rook.core.signal import clip_fit as clipfit
from upper_rook.core.signal import clipped_sine
from upper_rook.core.signal import tone_fit as tonefit
from upper_rook.core.signal.clip_fit import ClipFit
from upper_rook.core.signal.tone_fit import Interferer
from upper_rook.core.signal.trace import Trace

Array = NDArray[np.float64]

FEWEST_SAMPLES = 40
FEWEST_CYCLES = 2.25
FEWEST_PER_CYCLE = 4.0
JUDGED_SAMPLES = 20_000
"""More than this adds no certainty worth its time: of a longer capture the loudest part is judged."""
TONE_TOLERANCE = 0.02
"""How far a tone may lie from the one expected, as a ratio."""
DISTORTED = 0.01
"""THD from which a wave without a flat top is called distorted."""
_UNEXPLAINED = 0.3
"""Share of the harmonics that a flat top may leave unexplained; beyond it the rounding is of another kind."""
_NOT_A_TONE = 0.25
"""Share of the power that may belong neither to the tone nor to a steady interferer."""
_SILENT_V = 1e-3
_COVER = 2.1
"""Coverage factor: a little above 2, since near the threshold only the likelier half of the errors is reported."""
_PLAIN_DB = 3.0
_LEAST_DOUBT_DB = 0.001
_SQUARE_THD = float(np.sqrt(np.pi**2 / 8 - 1))
"""Of an ideal square wave: 48.343 %."""
_STEPS_DOUBT = 2.5
_LEAST_OVER_DB = 0.02
"""An overdrive (0.03 % THD) below which a flat is put down to the instrument's own drawing of the peaks."""
_CERTAIN = 4.0
"""Standard uncertainties by which clipping must stand out: a clean wave passes for clipped once in some 10,000."""


def judge(trace: Trace, expect_hz: float | None = None) -> Judgement:
    """
    Judges a capture; `expect_hz` is the tone that should be playing.

    Raises:
        BadInput: for samples that aren't finite.
    """
    volts = np.asarray(trace.volts)
    if not np.all(np.isfinite(volts)):
        raise BadInput("The capture holds values that aren't numbers: export it again.")
    if volts.size < FEWEST_SAMPLES:
        return without_figures(volts, Verdict.TOO_SHORT, f"{volts.size} samples; at least {FEWEST_SAMPLES} are needed.")
    step = tonefit.code_step(volts)
    spread = float(volts.max() - volts.min())
    # A mean of equal values is off by rounding.
    if spread <= max(2.5 * step, 1e-9 * float(np.abs(volts).max())):
        return without_figures(volts, Verdict.SILENT, "Nothing moves: is the tone playing, and the probe on?")
    return _Judge(trace, volts, step, expect_hz).judgement()


class _Judge:
    """The judgement of one capture, in steps."""

    def __init__(self, trace: Trace, volts: NDArray[np.floating[Any]], step: float, expect_hz: float | None) -> None:
        self.trace, self.expect_hz, self.step = trace, expect_hz, step
        self.whole = volts
        self.reasons: list[str] = []
        self.hum: tuple[Interferer, ...] = ()

    def judgement(self) -> Judgement:
        early = self._choose_part()
        if early:
            return early
        self._fit()
        if self._is_unsteady():
            self._keep_steadier_half()
        if self._foreign_share() > _NOT_A_TONE or self._is_chord():
            return self._no_tone()
        self._tell_interferers()
        return self._decide()

    def _choose_part(self) -> Judgement | None:
        """Narrows the capture to what is judged; a judgement when nothing there can be."""
        part = _loudest(self.whole, JUDGED_SAMPLES)
        frequency = tonefit.coarse_frequency(self._in(part))
        if frequency * (part.stop - part.start) < 8 < frequency * self.whole.size:
            part = _loudest(self.whole, int(8 / frequency))
            frequency = tonefit.coarse_frequency(self._in(part))
        if part.stop - part.start < self.whole.size:
            shown = (part.stop - part.start) / self.trace.rate_hz
            self.reasons.append(
                f"Judged: the loudest {_seconds(shown)} of {_seconds(self.whole.size / self.trace.rate_hz)}."
            )
        steady, gap = tonefit.steady_part(self._in(part), frequency)
        if gap and frequency * (steady.stop - steady.start) >= FEWEST_CYCLES:
            part = slice(part.start + steady.start, part.start + steady.stop)
            frequency = tonefit.coarse_frequency(self._in(part))
            self.reasons.append(
                "The tone stops or changes its level in this capture, as where a track restarts; "
                "only its longest steady part is judged."
            )
        self.part, self.frequency = part, frequency
        self.volts = self._in(part)
        cycles = frequency * self.volts.size
        if cycles < FEWEST_CYCLES:
            told = f"About {cycles:.1f} cycles; at least 2.5 are needed: choose a slower time base."
        elif frequency * FEWEST_PER_CYCLE > 1:
            told = (
                f"{1 / frequency:.1f} samples in a cycle; at least {FEWEST_PER_CYCLE:g} are needed: "
                "choose a faster time base."
            )
        else:
            return None
        (line,) = tonefit.ToneBasis(frequency, self.volts.size, 1).fit(self.volts)
        if line.noise_v**2 > _NOT_A_TONE * float(self.volts.var()) or self.volts.std() < _SILENT_V:
            return self._no_tone()
        return without_figures(self.whole, Verdict.TOO_SHORT, told)

    def _in(self, part: slice) -> Array:
        return np.asarray(self.whole[part], dtype=np.float64)

    def _fit(self) -> None:
        """Fits the clipped sine and the harmonics, after taking off what is steady and isn't the tone."""
        steps = np.arange(self.volts.size) - (self.volts.size - 1) / 2
        raw, off = self.volts, tonefit.slow_drift(self.volts, self.frequency)
        self.hum = ()
        for turn in range(3):
            self.volts = raw - off
            self.clip = clipfit.fit(self.volts, np.asarray(self.frequency * steps))
            self.frequency *= 1 + self.clip.frequency_shift
            left = raw - self.clip.fitted
            basis = tonefit.ToneBasis(self.frequency, left.size)
            self.left_harmonics, self.harmonics = basis.fit(left - off, self.volts)
            self.hum, total = tonefit.interferers(left - self.left_harmonics.fitted)
            changed = float(np.std(total - off))
            if turn == 2 or changed <= 0.1 * self.left_harmonics.noise_v:
                break
            off = total
        (self.plain,) = basis.fit(self.volts, most=1)
        self.raw = raw

    def _is_near(self, one: Interferer, multiple_too: bool = False) -> bool:
        """Whether a line is so near the tone (or a multiple of it) that it is the tone's own unsteadiness."""
        nearest = max(1, round(one.frequency / self.frequency)) if multiple_too else 1
        return abs(one.frequency - nearest * self.frequency) * self.raw.size < 2.5

    def _is_unsteady(self) -> bool:
        least = 0.01 * float(self.harmonics.amplitudes[0])
        return any(self._is_near(one) and one.amplitude_v > least for one in self.hum)

    def _keep_steadier_half(self) -> None:
        """A jump of phase or level somewhere leaves one half of the capture whole."""
        half = self.raw.size // 2
        if self.frequency * half < FEWEST_CYCLES:
            return
        left = {start: self._left_over(self.raw[start : start + half]) for start in (0, half)}
        start = min(left, key=lambda place: left[place])
        if left[start] > 0.5 * self._left_over(self.raw):
            return
        self.part = slice(self.part.start + start, self.part.start + start + half)
        self.volts = self._in(self.part)
        self.frequency = tonefit.coarse_frequency(self.volts)
        self.reasons.append(
            "The tone jumps in this capture, as where a track restarts or a knob is turned; "
            "only its steadier half is judged."
        )
        self._fit()

    @staticmethod
    def _left_over(volts: Array) -> float:
        """RMS of what a tone and its harmonics leave."""
        frequency = tonefit.coarse_frequency(volts)
        return tonefit.ToneBasis(frequency, volts.size).fit(volts)[0].noise_v

    def _others(self) -> list[Interferer]:
        return [one for one in self.hum if one.frequency > 0 and not self._is_near(one, multiple_too=True)]

    def _is_chord(self) -> bool:
        """Two or more other lines of a tenth of the tone: music rather than a tone with something on it."""
        least = 0.1 * float(self.harmonics.amplitudes[0])
        return sum(one.amplitude_v > least for one in self._others()) > 1

    def _foreign_share(self) -> float:
        """Share of the power that is neither the tone nor slow drift: noise, music, another tone."""
        others = sum(one.amplitude_v**2 / 2 for one in self._others())
        return (self.harmonics.noise_v**2 + others) / max(float(self.volts.var()) + others, 1e-300)

    def _no_tone(self) -> Judgement:
        rms = float(self.whole.std())
        if rms < _SILENT_V or rms < 3 * self.step:
            return without_figures(self.whole, Verdict.SILENT, "Only noise: is the tone playing, and the probe on?")
        return without_figures(
            self.whole,
            Verdict.NOT_A_TONE,
            "No steady tone: music, a sweep or noise. Play the test tone and capture again.",
        )

    def _tell_interferers(self) -> None:
        drift = [one for one in self.hum if one.frequency == 0]
        for one in drift + self._others():
            share = one.amplitude_v / self.harmonics.amplitudes[0]
            if share < 0.003:
                continue
            if one.frequency == 0:
                told = "Slow drift or hum under the tone"
            else:
                hertz = one.frequency * self.trace.rate_hz
                kind = "Hum or another tone" if one.frequency < self.frequency else "Whine or switching residue"
                told = f"{kind} at {format_value(hertz, 'Hz', 3)}"
            self.reasons.append(f"{told}, {100 * share:.1f} % of the tone: taken off before judging.")

    def _noise(self) -> float:
        """Variance of the noise around the clipped sine, raised where neighbouring samples share theirs."""
        left = self.volts - self.clip.fitted
        variance = self.clip.square_sum / max(1, left.size - 6)
        alike = float(left[1:] @ left[:-1]) / max(float(left @ left), 1e-300)
        return variance * min(25.0, (1 + alike) / (1 - alike)) if 0.1 < alike < 1 else variance

    def _decide(self) -> Judgement:
        noise = self._noise()
        sides = [side for side in (1, -1) if self._is_clipped(side, noise)]
        unexplained = self._unexplained()
        explained = bool(sides) and unexplained <= _UNEXPLAINED
        if explained and self._is_over_range(sides):
            # What the wave does beyond the screen is not known, so neither are its figures.
            known = {"frequency_hz": self.frequency * self.trace.rate_hz, "v_dc": self.harmonics.constant}
            judged = without_figures(
                self.whole,
                Verdict.OVER_RANGE,
                "The trace is larger than the screen or the converter, so its top says nothing of the wave: "
                "choose a larger range.",
                *self.reasons,
            )
            return Judgement(judged.report.model_copy(update=known), part=self.part)
        if explained:
            return self._clipped(sides, noise, unexplained)
        return self._unclipped(bool(sides))

    def _is_clipped(self, side: int, noise: float) -> bool:
        """Whether a flat on this side is beyond what noise could feign."""
        over = self.clip.over_db(side)
        if over <= 0.0 or np.count_nonzero(self.clip.flat(side)) < 3:
            return False
        of_amplitude, of_level = self.clip.gradients(side)
        doubt = self._spread(of_amplitude - of_level, noise)
        # The last step of a quiet converter is a flat of its own, half a code below the top.
        step_db = 8.686 * _STEPS_DOUBT * self._code_doubt_v() / self.clip.level_v(side)
        gained = float(np.sum((self.volts - self.plain.fitted) ** 2)) - self.clip.square_sum
        # Past some decibels the amplitude rests on a few samples of the slopes, but the flat is beyond doubt.
        return bool(
            over > max(step_db, _LEAST_OVER_DB, min(_CERTAIN * doubt, _PLAIN_DB)) and gained > _CERTAIN**2 * noise
        )

    def _spread(self, gradient: Array, noise: float) -> float:
        """Standard uncertainty in dB of something with this gradient after the fit's parameters."""
        variance = self.clip.square_sum / max(1, self.volts.size - 6)
        return float(
            np.sqrt(max(0.0, float(gradient @ self.clip.covariance @ gradient)) * noise / max(variance, 1e-300))
        )

    def _unexplained(self) -> float:
        """Harmonics that the clipped sine leaves, over all harmonics."""
        found = self.harmonics.power_above_noise(1)
        return float(np.sqrt(self.left_harmonics.power_above_noise() / found)) if found > 0 else 0.0

    def _is_over_range(self, sides: list[int]) -> bool:
        """
        Whether the flats are the converter's own limits.

        A real flat top is as noisy as the rest of the wave; a converter at its limit gives one code again and again.
        Without noise a span of all codes but one (2ⁿ − 1) gives it away.
        """
        flats = {side: self.raw[self.clip.flat(side)] for side in sides}
        extremes = {side: float(flat.max() if side > 0 else flat.min()) for side, flat in flats.items()}
        if self.trace.limits_v:
            low, high = self.trace.limits_v
            near = max(1.5 * self.step, 2e-4 * (high - low))
            if any(value >= high - near if side > 0 else value <= low + near for side, value in extremes.items()):
                return True
        if self.step <= 0:
            return False
        alike = {side: float(np.mean(np.abs(flats[side] - extremes[side]) < 0.5 * self.step)) for side in sides}
        own_noise = max(0.0, self._noise_on_slopes() - self.step**2 / 12)
        noisy = own_noise > (0.3 * self.step) ** 2
        if noisy and all(alike[side] > 0.97 and flats[side].size >= 8 for side in sides):
            return True
        codes = round((self.raw.max() - self.raw.min()) / self.step)
        full = codes in {2**bits - less for bits in range(6, 17) for less in (1, 2)}
        return not noisy and full and all(share > 0.97 for share in alike.values())

    def _noise_on_slopes(self) -> float:
        """Variance of what the fit leaves where the wave is on neither flat."""
        slopes = self._slopes()
        return float(np.var((self.volts - self.clip.fitted)[slopes])) if slopes.any() else 0.0

    def _slopes(self) -> NDArray[np.bool_]:
        return ~(self.clip.flat(1) | self.clip.flat(-1))

    def _code_doubt_v(self) -> float:
        """
        How far quantisation can shift a flat, as a standard uncertainty.

        Noise of σ shrinks a quantiser's mean error to (q/π)·exp(−2π²σ²/q²) at the most; without noise it is q/√12.
        """
        if self.step <= 0:
            return 0.0
        ratio = max(0.0, self._noise_on_slopes() / self.step**2 - 1 / 12)
        return float(self.step * min(1 / np.sqrt(12), np.exp(-2 * np.pi**2 * ratio) / (np.pi * np.sqrt(2))))

    def _clipped(self, sides: list[int], noise: float, unexplained: float) -> Judgement:
        clip = self.clip
        of_amplitude, of_level, level = self._ceiling(sides, noise)
        over = 20 * float(np.log10(clip.amplitude_v / level))
        code = 8.686 * self._code_doubt_v() / level
        level_doubt = float(np.hypot(self._spread(of_level, noise), code))
        # A rounded corner hides part of the overdrive: some half of what it leaves unexplained.
        over_doubt = float(
            np.sqrt(
                self._spread(of_amplitude - of_level, noise) ** 2
                + code**2
                + (0.5 * unexplained * over) ** 2
                + _LEAST_DOUBT_DB**2
            )
        )
        clean = level / np.sqrt(2)
        verdict = (
            Verdict.SQUARE
            if over >= clipped_sine.SQUARE_DB
            else Verdict.CLIPPED
            if over > clipped_sine.EDGE_DB
            else Verdict.EDGE
        )
        # With hardly a sample on the slopes, or an edge as steep as the noise, how far can't be told.
        slopes = np.count_nonzero(self._slopes())
        known = verdict is not Verdict.SQUARE or (slopes >= 6 and over_doubt < _PLAIN_DB / 2)
        amount = f"{over:.2f} dB ± {max(0.01, _COVER * over_doubt):.2f}" if known else "more than 20 dB"
        told = f"driven {amount} past a ceiling of {format_value(clean, 'V', 4)} RMS"
        where = {2: "both sides", 1: "the positive side" if 1 in sides else "the negative side"}[len(sides)]
        self.reasons.insert(0, f"Flat on {where}: {told}.")
        if len(sides) == 1:
            self.reasons.append(
                "One side clips first: look for a DC offset, a weak rail or a single-ended stage running out."
            )
        if unexplained > 0.1:
            self.reasons.append("The corners of the flat are rounded; the overdrive is counted as if they were sharp.")
        ideal = _model_thd(clip) if known else _SQUARE_THD
        thd = float(np.hypot(ideal, unexplained * self.harmonics.thd()))
        return self._judgement(
            verdict,
            peaks=(
                min(clip.values[4], clip.centre_v + clip.amplitude_v),
                max(clip.values[5], clip.centre_v - clip.amplitude_v),
            ),
            thd=thd,
            fitted=clip.fitted,
            clean_doubt=_COVER * clean * level_doubt / 8.686,
            over_db=over if known else None,
            over_db_uncertainty=_COVER * over_doubt if known else None,
            clean_v_rms=clean,
            clipped_side="both" if len(sides) == 2 else "positive" if 1 in sides else "negative",
        )

    def _ceiling(self, sides: list[int], noise: float) -> tuple[Array, Array, float]:
        """(gradient of the amplitude in dB, gradient of the ceiling in dB, the ceiling in volts from the centre)."""
        rows = {side: self.clip.gradients(side) for side in sides}
        if len(sides) == 2:
            apart = 20 * np.log10(self.clip.level_v(1) / self.clip.level_v(-1))
            square = self.clip.over_db(1) > clipped_sine.SQUARE_DB / 2
            if square or abs(apart) < 3 * self._spread(rows[1][1] - rows[-1][1], noise) + 0.02:
                # The same ceiling on both sides: half of what lies between is surer than the lower of the two.
                # Nor does it need the centre, which hangs on the slopes alone once they are steep.
                level = (self.clip.level_v(1) + self.clip.level_v(-1)) / 2
                return rows[1][0], self.clip.half_gradient(), level
        lower = min(sides, key=self.clip.level_v)
        return *rows[lower], self.clip.level_v(lower)

    def _unclipped(self, flat_too: bool) -> Judgement:
        thd = self._thd_beyond_steps()
        # Either side could still hide this much below what would have stood out.
        most = max(self.clip.over_db(side) for side in (1, -1))
        if thd > DISTORTED:
            self.reasons.insert(0, f"{100 * thd:.1f} % of harmonics that no flat top explains: {self._which()}.")
            self.reasons.append(self._where_distorted(flat_too))
            fitted = self.harmonics.fitted
            peaks = (float(fitted.max()), float(fitted.min()))
            return self._judgement(Verdict.DISTORTED, peaks, thd, fitted)
        told = f"{100 * thd:.2f} % of harmonics" if thd >= 5e-5 else "harmonics too small to see"
        self.reasons.insert(0, f"A sine: {told}, no flat top.")
        if most > 0.05 and not flat_too:
            self.reasons.append(f"Too noisy to see clipping of less than about {2 * most:.1f} dB.")
        constant, top = self.harmonics.constant, float(self.harmonics.amplitudes[0])
        return self._judgement(Verdict.CLEAN, (constant + top, constant - top), thd, self.plain.fitted)

    def _thd_beyond_steps(self) -> float:
        """THD less what a quiet converter's stair-steps may make: all of their q²/12, where no noise spreads it."""
        quiet = self._noise_on_slopes() < 1.5 * self.step**2 / 12
        stairs = self.step**2 / 6 if quiet else 0.0
        return float(max(0.0, self.harmonics.power_above_noise(1) - stairs) ** 0.5 / self.harmonics.amplitudes[0])

    def _which(self) -> str:
        rows = self.harmonics.significant()[:3]
        return ", ".join(f"{_ordinal(number)} {100 * ratio:.1f} %" for number, ratio in rows)

    def _where_distorted(self, flat_too: bool) -> str:
        """What kind of bend it is, from where in the cycle the wave leaves the sine."""
        sine = self.plain.fitted
        height = (sine - sine.mean()) / (np.sqrt(2) * sine.std())
        left = (self.harmonics.fitted - sine) ** 2
        middle, ends = float(left[np.abs(height) < 0.25].mean()), float(left[np.abs(height) > 0.75].mean())
        if middle > 2 * ends:
            return "It bends where the wave crosses zero, as an output stage with a dead zone does."
        if flat_too:
            return "The tops are rounded off softly: it is being limited, but not cut."
        return "The bend is spread over the wave: a soft limiter, a transformer or another tone's harmonics."

    def _judgement(
        self,
        verdict: Verdict,
        peaks: tuple[float, float],
        thd: float,
        fitted: Array,
        clean_doubt: float | None = None,
        **figures: float | str | None,
    ) -> Judgement:
        frequency = self.frequency * self.trace.rate_hz
        wrong = self.expect_hz is not None and abs(frequency / self.expect_hz - 1) > TONE_TOLERANCE
        if wrong and self.expect_hz is not None:
            self.reasons.insert(
                0,
                f"{format_value(frequency, 'Hz')} is playing, not {format_value(self.expect_hz, 'Hz')}: "
                f"the wrong track? Apart from that the wave is {verdict.value}.",
            )
            verdict = Verdict.WRONG_TONE
        rest = self.raw - self.harmonics.fitted
        rms = float(np.sqrt(np.sum(self.harmonics.amplitudes**2) / 2 + rest.var()))
        constant = self.harmonics.constant
        report = WaveReport.model_validate(
            {
                "verdict": verdict,
                "frequency_hz": frequency,
                "v_rms": rms,
                "v_peak_positive": float(peaks[0]),
                "v_peak_negative": float(peaks[1]),
                "v_dc": constant,
                "crest_factor": max(peaks[0] - constant, constant - peaks[1]) / rms,
                "thd_percent": 100 * thd,
                "reasons": tuple(self.reasons),
            }
            | figures
        )
        first = self.harmonics.amplitudes[0]
        return Judgement(
            report,
            clean_v_uncertainty=clean_doubt,
            harmonics=tuple(
                Harmonic(number=number, percent=float(100 * one / first))
                for number, one in enumerate(self.harmonics.amplitudes[1:12], 2)
            ),
            part=self.part,
            fitted=fitted,
            sine=self.clip.sine,
        )


def _loudest(volts: NDArray[np.floating[Any]], most: int) -> slice:
    """The loudest stretch of `most` samples, in steps of a quarter of it."""
    if volts.size <= most:
        return slice(0, volts.size)
    hop = max(1, most // 4)
    rows = volts[: volts.size // hop * hop].reshape(-1, hop)
    sums, squares = rows.sum(axis=1, dtype=np.float64), np.einsum("ij,ij->i", rows, rows, dtype=np.float64)
    sums, squares = (np.convolve(one, np.ones(4), "valid") for one in (sums, squares))
    power = squares - sums**2 / (4 * hop)
    start = hop * int(np.argmax(power)) if power.size else 0
    return slice(start, min(volts.size, start + most))


def _model_thd(clip: ClipFit) -> float:
    """THD of the clipped sine itself, all harmonics counted; its two sides may differ."""
    phase = 2 * np.pi * (np.arange(1024) + 0.5) / 1024
    wave = np.clip(clip.amplitude_v * np.sin(phase), clip.values[5] - clip.centre_v, clip.values[4] - clip.centre_v)
    fundamental = float(2 * np.mean(wave * np.sin(phase)))
    return float(np.sqrt(max(0.0, 2 * wave.var() / fundamental**2 - 1)))


def _seconds(value: float) -> str:
    return format_value(value, "s", 3) if value >= 1 else format_value(1000 * value, "ms", 3)


def _ordinal(number: int) -> str:
    teens = 10 < number % 100 < 14
    return f"{number}{'th' if teens else {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10, 'th')}"
