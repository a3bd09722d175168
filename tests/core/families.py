"""
Families of simulated captures, each with its truth beside it: waves as they really arrive.

Nothing here is the judge's own: a cycle is shaped and filtered in 8,192 samples, and only then sampled.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import scipy.signal
import scipy.special
from numpy.typing import NDArray

Array = NDArray[np.float64]
Dice = np.random.Generator
FINE = 8192
"""Samples of a cycle at which a wave is shaped; what repeats is filtered exactly, harmonic by harmonic."""


@dataclass
class Wave:
    """One cycle, and what is true of it."""

    cycle: Array
    over_db: float
    """Past the lower clean maximum; below 0 it is clean."""
    clean_v: float | None
    """The highest clean sine at the probe, RMS; None where nobody could say."""
    soft: bool = False
    screen: bool = False
    """Whether the instrument itself is over its range."""


@dataclass
class Shot:
    """How it is captured."""

    bits: int
    noise_lsb: float
    cycles: float
    count: int
    fill: float
    phase: float
    bend: float = 0.0
    """How many cycles the tone is ahead at both ends of the capture: its frequency drifts."""
    spoil: Callable[[Array, Dice], Array] = field(default=lambda volts, _dice: volts)


def sine(dice: Dice, over_db: float, level: float) -> Array:
    return level * 10 ** (over_db / 20) * np.sin(2 * np.pi * np.arange(FINE) / FINE)


def filtered(cycle: Array, response: Callable[[Array], NDArray[np.complex128]]) -> tuple[Array, float]:
    """A cycle through a filter given over multiples of the tone, and what it leaves of the tone."""
    orders = np.arange(FINE // 2 + 1, dtype=float)
    through = response(orders)
    through[0] = 0 if abs(through[0]) < 1e-9 else through[0]
    return np.fft.irfft(np.fft.rfft(cycle) * through, FINE), float(abs(through[1]))


def hard(dice: Dice, over_db: float, level: float, asym_db: float = 0.0) -> Wave:
    upper = level * 10 ** (abs(asym_db) / 20)
    high, low = (upper, level) if asym_db >= 0 else (level, upper)
    return Wave(np.clip(sine(dice, over_db, level), -low, high), over_db, level / np.sqrt(2))


def through(wave: Wave, response: Callable[[Array], NDArray[np.complex128]]) -> Wave:
    cycle, left = filtered(wave.cycle, response)
    return Wave(cycle, wave.over_db, wave.clean_v * left if wave.clean_v else None, wave.soft)


def high_pass(corner: float, order: int = 1) -> Callable[[Array], NDArray[np.complex128]]:
    def response(orders: Array) -> NDArray[np.complex128]:
        s = 1j * orders / corner
        return s / (1 + s) if order == 1 else s**2 / (1 + np.sqrt(2) * s + s**2)

    return response


def low_pass(corner: float) -> Callable[[Array], NDArray[np.complex128]]:
    return lambda orders: 1 / (1 + 1j * orders / corner)


def all_pass(corner: float) -> Callable[[Array], NDArray[np.complex128]]:
    return lambda orders: (1 - 1j * orders / corner) / (1 + 1j * orders / corner)


def peaking(centre: float, gain_db: float, q: float) -> Callable[[Array], NDArray[np.complex128]]:
    a = 10 ** (gain_db / 40)

    def response(orders: Array) -> NDArray[np.complex128]:
        s = 1j * orders / centre
        return (s**2 + s * a / q + 1) / (s**2 + s / (a * q) + 1)

    return response


def knee(dice: Dice, over_db: float, level: float, power: float) -> Wave:
    """x/(1 + |x|ᵖ)^(1/p)."""
    return soft(over_db, level, lambda drive: drive / (1 + np.abs(drive) ** power) ** (1 / power))


def soft(over_db: float, level: float, shape: Callable[[Array], Array]) -> Wave:
    """Through a limiter whose clean maximum is where its THD reaches 1 %."""
    unit = np.sin(2 * np.pi * np.arange(FINE) / FINE)
    drives = 10 ** (np.linspace(-40, 20, 241) / 20)
    at = next(drive for drive in drives if thd(shape(drive * unit)) >= 0.01)
    driven = at * 10 ** (over_db / 20)
    there = level * shape(at * unit)
    return Wave(level * shape(driven * unit), over_db, float(np.sqrt(np.mean(there**2))), soft=True)


def thd(cycle: Array) -> float:
    bins = np.abs(np.fft.rfft(cycle))
    return float(np.sqrt(np.sum(bins[2:] ** 2)) / bins[1])


def taken(wave: Wave, shot: Shot, dice: Dice) -> Array:
    """Samples as an instrument gives them."""
    along = np.arange(shot.count) / shot.count
    turns = shot.phase + along * shot.cycles + shot.bend * (2 * along - 1) ** 2
    volts = np.interp(turns % 1, np.arange(FINE + 1) / FINE, np.append(wave.cycle, wave.cycle[0]))
    half = 2 ** (shot.bits - 1)
    step = float(np.max(np.abs(wave.cycle))) / (shot.fill * half)
    noisy = volts + shot.noise_lsb * step * dice.normal(size=volts.size)
    noisy = shot.spoil(noisy, dice)
    return np.clip(np.round(noisy / step), -half, half - 1) * step


def plain(dice: Dice, **more: object) -> Shot:
    shot = {
        "bits": int(dice.choice([6, 8, 8, 8, 10, 12])),
        "noise_lsb": float(dice.uniform(0.4, 2)),
        "cycles": float(dice.uniform(3, 30)),
        "count": round(float(np.exp(dice.uniform(np.log(500), np.log(4000))))),
        "fill": float(dice.uniform(0.4, 0.95)),
        "phase": float(dice.random()),
    }
    return Shot(**(shot | more))  # type: ignore[arg-type]


def glitches(volts: Array, dice: Dice) -> Array:
    out, size = volts.copy(), float(np.max(np.abs(volts)))
    places = dice.integers(0, volts.size, size=int(dice.integers(1, max(2, volts.size // 150))))
    out[places] += dice.choice([-1, 1], size=places.size) * dice.uniform(0.3, 1.2, size=places.size) * size
    return out


def dropouts(volts: Array, dice: Dice) -> Array:
    out = volts.copy()
    for _ in range(int(dice.integers(1, 4))):
        start = int(dice.integers(0, volts.size))
        out[start : start + max(2, volts.size // 100)] = 0
    return out


def linear(volts: Array, dice: Dice) -> Array:
    by = int(dice.choice([3, 4, 5, 10]))
    knots = volts[::by]
    return np.interp(np.arange(volts.size) / by, np.arange(knots.size), knots)


def curves(volts: Array, dice: Dice) -> Array:
    """Curves (sin x/x) drawn between every few samples."""
    by = int(dice.choice([3, 4, 5]))
    knots = volts[: volts.size // by * by : by]
    whole = np.concatenate((knots, knots[::-1]))
    return np.asarray(scipy.signal.resample(whole, whole.size * by)[: knots.size * by])


def rippled(volts: Array, dice: Dice) -> Array:
    """A clean maximum that moves up and down by some per cent, about the one that clips already."""
    top, share = float(np.max(np.abs(volts))), float(dice.uniform(0.005, 0.03))
    moves = 1 + share * np.sin(2 * np.pi * (dice.uniform(1.3, 9) * np.arange(volts.size) / volts.size + dice.random()))
    return np.where(np.abs(volts) > 0.9 * top, volts * moves, volts)


def humming(times: float) -> Callable[[Array, Dice], Array]:
    """Hum of 0.5 to 3 %, `times` the tone's frequency in captures of 10 cycles."""

    def spoilt(volts: Array, dice: Dice) -> Array:
        turns = 10 * times * np.arange(volts.size) / volts.size + dice.random()
        return volts + float(dice.uniform(0.005, 0.03)) * np.max(np.abs(volts)) * np.sin(2 * np.pi * turns)

    return spoilt


def _music(dice: Dice) -> tuple[Wave, Shot]:
    """Some notes with partials and decay: no cycle of it repeats."""

    def played(volts: Array, _dice: Dice) -> Array:
        times, sound = np.arange(volts.size) / volts.size, np.zeros(volts.size)
        for _ in range(int(dice.integers(3, 7))):
            start, pitch = float(dice.uniform(0, 0.7)), float(dice.uniform(8, 60))
            decay = np.where(times >= start, np.exp(-(times - start) * dice.uniform(1, 6)), 0)
            for partial in range(1, 7):
                turns = pitch * partial * times + dice.random()
                sound += decay * np.sin(2 * np.pi * turns) / partial ** float(dice.uniform(1, 2))
        return np.asarray(sound / np.max(np.abs(sound)))

    return _unknown(), plain(dice, spoil=played, bits=16, count=8000)


def _speech(dice: Dice) -> tuple[Wave, Shot]:
    """A gliding pitch through two resonances, in syllables, and hiss."""

    def spoken(volts: Array, _dice: Dice) -> Array:
        times = np.arange(volts.size) / volts.size
        glide = 40 * times + float(dice.uniform(2, 8)) * np.sin(2 * np.pi * (1.3 * times + dice.random()))
        buzz = (glide % 1) ** 4 - 0.2 + 0.05 * dice.normal(size=volts.size)
        for centre in dice.uniform(0.02, 0.3, 2):
            buzz = scipy.signal.lfilter(*scipy.signal.iirpeak(centre, 6), buzz)
        syllables = np.abs(np.sin(2 * np.pi * (2.5 * times + dice.random()))) ** 1.5
        sound = buzz * syllables
        return np.asarray(sound / np.max(np.abs(sound)))

    return _unknown(), plain(dice, spoil=spoken, bits=16, count=8000)


def _unknown() -> Wave:
    return Wave(np.sin(2 * np.pi * np.arange(FINE) / FINE), float("nan"), None)


def pairs(volts: Array, dice: Dice) -> Array:
    """The lowest and the highest of each few samples, in turn."""
    by = 8
    rows = volts[: volts.size // by * by].reshape(-1, by)
    return np.column_stack((rows.min(axis=1), rows.max(axis=1))).ravel()


def over(dice: Dice) -> float:
    return float(np.exp(dice.uniform(np.log(0.5), np.log(12))))


def level(dice: Dice) -> float:
    return float(np.exp(dice.uniform(np.log(0.3), np.log(40))))


Family = Callable[[Dice], tuple[Wave, Shot]]


def _clipped(**shot: object) -> Family:
    return lambda dice: (hard(dice, over(dice), level(dice)), plain(dice, **shot))


def _clean(**shot: object) -> Family:
    return lambda dice: (hard(dice, -float(dice.uniform(0.2, 3)), level(dice)), plain(dice, **shot))


def _filtered(make: Callable[[Dice], Callable[[Array], NDArray[np.complex128]]], **shot: object) -> Family:
    return lambda dice: (through(hard(dice, over(dice), level(dice)), make(dice)), plain(dice, **shot))


def _screen(bits: int, **shot: object) -> Family:
    def made(dice: Dice) -> tuple[Wave, Shot]:
        wave = hard(dice, -1.0, level(dice))
        wave.screen = True
        wave.clean_v = None
        return wave, plain(dice, **({"bits": bits, "fill": 1.0 * 10 ** (float(dice.uniform(0.4, 4)) / 20)} | shot))

    return made


def _two_tones(dice: Dice) -> tuple[Wave, Shot]:
    wave = hard(dice, -1.0, 1.0)
    wave.cycle = wave.cycle + 0.8 * np.sin(2 * np.pi * np.arange(FINE) / FINE * int(dice.choice([2, 3, 7])) + 1)
    wave.over_db, wave.clean_v = float("nan"), None
    return wave, plain(dice)


def _fast(*, clean: bool) -> Family:
    """A tone whose third harmonic lies beyond the band of the recorder, which has a steep filter."""

    def made(dice: Dice) -> tuple[Wave, Shot]:
        frequency, count = float(dice.uniform(0.16, 0.245)), int(dice.integers(2000, 6000))
        past = -float(dice.uniform(0.2, 3)) if clean else over(dice)
        wave = hard(dice, past, level(dice))
        if not clean:
            wave = through(wave, lambda orders: (orders * frequency < 0.47).astype(complex))
        return wave, plain(dice, bits=16, count=count, cycles=frequency * count, fill=0.6)

    return made


def _few_harmonics(dice: Dice) -> tuple[Wave, Shot]:
    """A recorder's steep filter leaves the third harmonic, and the fifth no more."""
    frequency, count = float(dice.uniform(0.1, 0.145)), int(dice.integers(2000, 6000))
    wave = through(hard(dice, over(dice), level(dice)), lambda orders: (orders * frequency < 0.47).astype(complex))
    return wave, plain(dice, bits=16, count=count, cycles=frequency * count, fill=0.6)


def _limited_after(dice: Dice) -> tuple[Wave, Shot]:
    """Clipped first, until a limiter turns it down for the rest."""
    share, past, cycles = float(dice.uniform(0.1, 0.4)), over(dice), float(dice.uniform(12, 30))

    def limited(volts: Array, dice: Dice) -> Array:
        turns = phase + np.arange(volts.size) / volts.size * cycles
        down = 10 ** (-(past + float(dice.uniform(0.3, 2))) / 20)
        later = np.arange(volts.size) > share * volts.size
        tone = made * np.sin(2 * np.pi * turns) * 10 ** (past / 20)
        return np.where(later, down * tone, np.clip(tone, -made, made)) + noise * dice.normal(size=volts.size)

    made = level(dice)
    shot = plain(dice, bits=8, cycles=cycles, spoil=limited)
    phase, noise = shot.phase, 0.7 * made / 100
    return hard(dice, past, made), shot


def _now_and_then(dice: Dice) -> tuple[Wave, Shot]:
    """One half wave in some clips, the others don't."""
    past, cycles, share = float(dice.uniform(0.7, 6)), float(dice.uniform(8, 30)), float(dice.uniform(0.1, 0.5))

    def sometimes(volts: Array, dice: Dice) -> Array:
        turns = phase + np.arange(volts.size) / volts.size * cycles
        tone = made * np.sin(2 * np.pi * turns) * 10 ** (past / 20)
        which = np.floor(turns).astype(int)
        clips = dice.random(which.max() + 1) < share
        clips[dice.integers(1, which.max())] = True
        clips[dice.integers(1, which.max())] = False
        return np.where(clips[which] & (tone > made), made, tone) + noise * dice.normal(size=volts.size)

    made = level(dice)
    shot = plain(dice, bits=8, cycles=cycles, spoil=sometimes, count=int(dice.integers(1000, 4000)), fill=0.7)
    phase, noise = shot.phase, 0.5 * made * 10 ** (past / 20) / 100
    wave = Wave(sine(dice, past, made), past, made / np.sqrt(2))
    return wave, shot


def _strong_second(dice: Dice) -> tuple[Wave, Shot]:
    """A second tone of 30 to 87 %, within a few cycles of the first or of a multiple of it."""
    cycles, second = float(dice.uniform(3, 12)), float(dice.uniform(0.3, 0.87))
    apart = float(dice.choice([-1, 1]) * dice.uniform(0.8, 2.3))

    def both(volts: Array, dice: Dice) -> Array:
        turns = np.arange(volts.size) / volts.size * max(1.2, cycles + apart) + dice.random()
        return volts + second * np.sin(2 * np.pi * turns)

    return Wave(sine(dice, 0.0, 1.0), float("nan"), None), plain(dice, cycles=cycles, spoil=both, fill=0.5)


def _averaged(dice: Dice) -> tuple[Wave, Shot]:
    """Every sample the mean of a wide stretch, as a scope's high resolution gives it."""
    width = float(dice.uniform(0.04, 0.12))
    wave = through(hard(dice, over(dice), level(dice)), lambda orders: np.sinc(orders * width).astype(complex))
    return wave, plain(dice, bits=12, noise_lsb=0.3)


def _burst(dice: Dice) -> tuple[Wave, Shot]:
    """A clean tone in bursts, with silence between them."""

    def bursts(volts: Array, dice: Dice) -> Array:
        along = (np.arange(volts.size) / volts.size * float(dice.uniform(1, 2)) + dice.random()) % 1
        return np.where(along < float(dice.uniform(0.4, 0.7)), volts, 0.0)

    return hard(dice, -1.0, level(dice)), plain(dice, bits=8, cycles=float(dice.uniform(12, 30)), spoil=bursts)


FAMILIES: dict[str, Family] = {
    "plain, clean": _clean(),
    "plain, clipped": _clipped(),
    "6 bit, clean": _clean(bits=6),
    "6 bit, clipped": _clipped(bits=6),
    "8 bit, small picture, clean": _clean(bits=8, fill=0.2),
    "8 bit, small picture, clipped": _clipped(bits=8, fill=0.2),
    "12 bit, clipped": _clipped(bits=12),
    "16 bit, clipped": _clipped(bits=16),
    "quiet, clean": _clean(noise_lsb=0.1),
    "quiet, clipped": _clipped(noise_lsb=0.1),
    "no noise at all, clean": _clean(noise_lsb=0.0),
    "no noise at all, clipped": _clipped(noise_lsb=0.0),
    "long memory, clean": _clean(count=400_000, cycles=11.3, fill=0.75),
    "long memory, clipped": _clipped(count=400_000, cycles=11.3, fill=0.75),
    "AC coupled (first-order high-pass), clipped": _filtered(lambda dice: high_pass(float(dice.uniform(0.02, 0.5)))),
    "high-pass near the tone, clipped": _filtered(lambda dice: high_pass(float(dice.uniform(0.5, 1.5)))),
    "second-order high-pass, clipped": _filtered(lambda dice: high_pass(float(dice.uniform(0.1, 0.8)), 2)),
    "low-pass, clipped": _filtered(lambda dice: low_pass(float(dice.uniform(4, 20)))),
    "all-pass, clipped": _filtered(lambda dice: all_pass(float(dice.uniform(0.3, 3)))),
    "equaliser, clipped": _filtered(
        lambda dice: peaking(float(dice.uniform(1, 5)), float(dice.choice([-5, -3, 3, 5])), float(dice.uniform(0.7, 2)))
    ),
    "AC coupled, clean": lambda dice: (
        through(hard(dice, -float(dice.uniform(0.2, 3)), level(dice)), high_pass(float(dice.uniform(0.02, 0.5)))),
        plain(dice),
    ),
    "one side clips": lambda dice: (hard(dice, over(dice), level(dice), float(dice.choice([-30, 30]))), plain(dice)),
    "sides clip apart": lambda dice: (
        hard(dice, over(dice), level(dice), float(dice.choice([-1, 1]) * dice.uniform(0.5, 3))),
        plain(dice),
    ),
    "sides clip apart, far over": lambda dice: (
        hard(dice, float(dice.uniform(8, 15)), level(dice), float(dice.choice([-1, 1]) * dice.uniform(0.5, 3))),
        plain(dice),
    ),
    "soft knee, p 4 to 20": lambda dice: (
        knee(dice, over(dice), level(dice), float(dice.uniform(4, 20))),
        plain(dice),
    ),
    "soft knee, p 2 to 4": lambda dice: (
        knee(dice, over(dice), level(dice), float(dice.uniform(2, 4))),
        plain(dice),
    ),
    # Laws that the judge has no model of.
    "soft, error function": lambda dice: (soft(over(dice), level(dice), scipy.special.erf), plain(dice)),
    "soft, hyperbolic tangent": lambda dice: (soft(over(dice), level(dice), np.tanh), plain(dice)),
    "soft, folded sine": lambda dice: (
        soft(over(dice), level(dice), lambda drive: np.sin(np.clip(drive, -np.pi / 2, np.pi / 2))),
        plain(dice),
    ),
    "larger than the screen, 8 bit": _screen(8),
    "larger than the converter, 12 bit": _screen(12),
    "larger than the screen, hardly": lambda dice: _screen(8, fill=10 ** (float(dice.uniform(0.1, 0.5)) / 20))(dice),
    "glitches, clean": _clean(spoil=glitches, bits=8),
    "glitches, clipped": _clipped(spoil=glitches, bits=8),
    "drop-outs, clean": _clean(spoil=dropouts),
    "drop-outs, clipped": _clipped(spoil=dropouts),
    "drawn with straight lines, clean": _clean(spoil=linear, bits=8, count=2000, cycles=5.3),
    "drawn with straight lines, clipped": _clipped(spoil=linear, bits=8, count=2000, cycles=5.3),
    "drawn with curves, clean": _clean(spoil=curves, bits=8, count=2000, cycles=5.3),
    "drawn with curves, clipped": _clipped(spoil=curves, bits=8, count=2000, cycles=5.3),
    "lowest and highest in turn, clean": _clean(spoil=pairs, bits=8, count=16_000, cycles=5.3),
    "lowest and highest in turn, clipped": _clipped(spoil=pairs, bits=8, count=16_000, cycles=5.3),
    "exactly 8 samples a cycle, clean": _clean(count=800, cycles=100.0),
    "exactly 8 samples a cycle, clipped": _clipped(count=800, cycles=100.0),
    "few samples a cycle, clipped": lambda dice: (
        hard(dice, over(dice), level(dice)),
        plain(dice, count=900, cycles=float(dice.uniform(80, 130))),
    ),
    "two and a half cycles, clipped": _clipped(cycles=2.6),
    "frequency drifts, clean": lambda dice: _clean(bend=float(dice.uniform(-0.3, 0.3)))(dice),
    "frequency drifts, clipped": lambda dice: _clipped(bend=float(dice.uniform(-0.3, 0.3)))(dice),
    "a clean maximum with ripple": _clipped(spoil=rippled, cycles=25.0),
    "hum, clean": lambda dice: _clean(spoil=humming(float(dice.uniform(0.3, 3))), cycles=10.0)(dice),
    "hum, clipped": lambda dice: _clipped(spoil=humming(float(dice.uniform(0.3, 3))), cycles=10.0)(dice),
    "hum on a harmonic, clipped": lambda dice: _clipped(spoil=humming(float(dice.choice([2, 3, 4]))), cycles=10.0)(
        dice
    ),
    "two tones": _two_tones,
    "third harmonic beyond the band, clean": _fast(clean=True),
    "third harmonic beyond the band, clipped": _fast(clean=False),
    "only the third harmonic in the band, clipped": _few_harmonics,
    "five to nine samples a cycle, scope, clean": lambda dice: _clean(
        bits=8, count=(count := int(dice.integers(300, 1500))), cycles=count / float(dice.uniform(5, 9))
    )(dice),
    "five to nine samples a cycle, scope, clipped": lambda dice: _clipped(
        bits=8, count=(count := int(dice.integers(300, 1500))), cycles=count / float(dice.uniform(5, 9))
    )(dice),
    "clipped until a limiter acts": _limited_after,
    "a half wave clipped now and then": _now_and_then,
    "a strong second tone near by": _strong_second,
    "nearly fills the screen, clean": lambda dice: _clean(bits=8, fill=float(dice.uniform(0.996, 1.003)))(dice),
    "wide averaging, clipped": _averaged,
    "bursts, clean": _burst,
    "music": _music,
    "speech": _speech,
}
