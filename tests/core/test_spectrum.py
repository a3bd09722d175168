"""What a signal carries, in third octaves."""

import numpy as np
import pytest
import scipy.signal

from tests.core.waves import Array
from upper_rook.core.judge.spectrum import BAND_NUMBERS, NOMINAL_HZ, SpectrumReport, judge_spectrum, third_octaves
from upper_rook.core.signal.trace import Trace

RATE = 48_000.0


def pink(seconds: float = 12.0, seed: int = 2) -> Array:
    """Noise of 1 V RMS with equal power in every octave."""
    count = round(seconds * RATE)
    spectrum = np.fft.rfft(np.random.default_rng(seed).normal(size=count))
    frequency = np.fft.rfftfreq(count, 1 / RATE)
    spectrum[1:] /= np.sqrt(frequency[1:])
    spectrum[frequency < 15] = 0
    noise = np.fft.irfft(spectrum, count)
    return np.asarray(noise / noise.std())


def judged(*filters: tuple[int, float | tuple[float, float], str]) -> SpectrumReport:
    noise = pink()
    for order, corner, kind in filters:
        noise = scipy.signal.sosfilt(scipy.signal.butter(order, corner, kind, fs=RATE, output="sos"), noise)
    return judge_spectrum(Trace(noise, RATE))


def test_bands_are_those_of_the_standard() -> None:
    # IEC 61260-1, base ten: exact centres 1000·10^(n/10), called by these rounded names.
    centres = [1000 * 10 ** (number / 10) for number in BAND_NUMBERS]
    assert len(centres) == len(NOMINAL_HZ) == 31
    assert all(abs(exact / nominal - 1) < 0.02 for exact, nominal in zip(centres, NOMINAL_HZ, strict=True))
    assert NOMINAL_HZ[17] == 1000


def test_pink_noise_is_level_and_its_bands_hold_its_power() -> None:
    bands = third_octaves(Trace(pink(), RATE))
    level = 20 * np.log10([band.v_rms for band in bands])
    inside = [abs(one - np.median(level)) <= band.uncertainty_db for one, band in zip(level, bands, strict=True)]
    assert sum(inside) >= 28
    # From 17.8 Hz to 22.4 kHz lie all but the ends of it.
    assert sum(band.v_rms**2 for band in bands) == pytest.approx(1.0, rel=0.06)


def test_a_tone_is_in_its_band_alone() -> None:
    tone = np.sin(2 * np.pi * 1000 * np.arange(5 * 48_000) / RATE)
    levels = {third.nominal_hz: third.v_rms for third in third_octaves(Trace(tone, RATE))}
    assert levels.pop(1000) == pytest.approx(1 / np.sqrt(2), rel=1e-3)
    assert max(levels.values()) < 0.01


def test_full_range() -> None:
    found = judged()
    assert (found.carries, found.low_corner_hz, found.high_corner_hz) == ("full_range", None, None)


@pytest.mark.parametrize(("order", "corner"), [(2, 80.0), (4, 120.0), (3, 150.0)])
def test_a_tap_that_carries_only_bass(order: int, corner: float) -> None:
    found = judged((order, corner, "lowpass"))
    assert found.carries == "bass"
    assert found.high_corner_hz == pytest.approx(corner, rel=0.05)
    assert found.high_slope_db_octave == pytest.approx(6.02 * order, abs=1.5)
    assert "bass" in found.reasons[0]


def test_no_bass_and_a_band() -> None:
    found = judged((3, 100.0, "highpass"))
    assert (found.carries, found.high_corner_hz) == ("no_bass", None)
    assert found.low_corner_hz == pytest.approx(100, rel=0.06)
    assert found.low_slope_db_octave == pytest.approx(18, abs=2)
    assert judged((2, 300.0, "highpass"), (2, 3000.0, "lowpass")).carries == "band"


def test_silent_and_too_short() -> None:
    assert judge_spectrum(Trace(np.zeros(100_000), RATE)).carries == "silent"
    assert judge_spectrum(Trace(pink()[:20_000], RATE)).carries == "too_short"


def test_the_doubt_of_a_band_is_that_of_noise_seen_for_so_long() -> None:
    report = judge_spectrum(Trace(pink(2.0), RATE))
    band = next(band for band in report.bands if band.nominal_hz == 1000)
    # Noise of bandwidth B in T seconds has 2·B·T degrees of freedom: 4.343·√(2/(B·T)) dB, expanded (k = 2).
    bandwidth = 1000 * (10**0.05 - 10**-0.05)
    assert band.uncertainty_db == pytest.approx(2 * 4.343 / np.sqrt(bandwidth * 2.0), rel=0.01)


@pytest.mark.parametrize("floor_db", [None, -30.0])
@pytest.mark.parametrize(("corner", "kind"), [(80.0, "lowpass"), (80.0, "highpass"), (2500.0, "lowpass")])
def test_corners_are_where_it_is_three_decibels_down(corner: float, kind: str, floor_db: float | None) -> None:
    sections = scipy.signal.butter(2, corner, kind, fs=RATE, output="sos")
    noise = scipy.signal.sosfilt(sections, scipy.signal.sosfilt(sections, pink()))
    if floor_db is not None:
        noise = noise + 10 ** (floor_db / 20) * noise.std() * np.random.default_rng(9).normal(size=noise.size)
    found = judge_spectrum(Trace(noise, RATE))
    # A Linkwitz–Riley of fourth order is 6 dB down at its corner; 3 dB by scipy.
    hertz = np.geomspace(corner / 4, corner * 4, 4000)
    _, left = scipy.signal.freqz_sos(sections, worN=hertz, fs=RATE)
    there = hertz[np.argmin(np.abs(np.abs(left) ** 2 - np.sqrt(0.5)))]
    where = found.high_corner_hz if kind == "lowpass" else found.low_corner_hz
    assert where == pytest.approx(there, rel=0.06)
