"""Recorded sweeps: level against frequency, and where they clip."""

import numpy as np
import pytest
import scipy.signal

from tests.core.waves import Array
from upper_rook.core.judge.sweep import judge_sweep
from upper_rook.core.judge.sweep_report import SweepReport
from upper_rook.core.signal.trace import Trace

RATE = 48_000.0


def sweep(seconds: float = 20.0, rate_hz: float = RATE, lead: float = 0.8, tail: float = 0.5) -> Array:
    """A 20 Hz to 20 kHz exponential sweep (Farina's formula, in REFERENCE) of 1 V peak with silence around it."""
    times = np.arange(round(seconds * rate_hz)) / rate_hz
    growth = np.log(1000) / seconds
    wave = np.sin(2 * np.pi * 20 / growth * np.expm1(growth * times))
    return np.concatenate((np.zeros(round(lead * rate_hz)), wave, np.zeros(round(tail * rate_hz))))


def judged(volts: Array, rate_hz: float = RATE, limits_v: tuple[float, float] | None = None) -> SweepReport:
    noise = 3e-4 * np.random.default_rng(1).normal(size=volts.size)
    return judge_sweep(Trace(volts + noise, rate_hz, "", limits_v))


@pytest.mark.parametrize("seconds", [6.0, 30.0])
@pytest.mark.parametrize("backwards", [False, True])
def test_start_and_speed_need_not_be_known(seconds: float, backwards: bool) -> None:
    volts = sweep(seconds)
    found = judged(volts[::-1] if backwards else volts)
    assert found.verdict == "clean"
    assert found.seconds_an_octave == pytest.approx(seconds / np.log2(1000), rel=0.002)
    assert found.low_hz is not None
    assert found.low_hz < 26
    assert found.high_hz is not None
    assert found.high_hz > 17_500
    assert found.pass_band_v == pytest.approx(1 / np.sqrt(2), rel=0.01)
    assert found.flatness_db == pytest.approx(0, abs=0.2)
    assert found.low_corner_hz is found.high_corner_hz is None


@pytest.mark.parametrize(("kind", "corner"), [("lowpass", 80.0), ("highpass", 120.0), ("lowpass", 3000.0)])
def test_corners_of_filters_as_scipy_makes_them(kind: str, corner: float) -> None:
    volts = scipy.signal.sosfilt(scipy.signal.butter(4, corner, kind, fs=RATE, output="sos"), sweep())
    found = judged(volts)
    # Behind a low-pass at 80 Hz most of the band's third harmonics are gone.
    assert found.verdict == ("unseen" if (kind, corner) == ("lowpass", 80.0) else "clean")
    where = found.high_corner_hz if kind == "lowpass" else found.low_corner_hz
    assert where == pytest.approx(corner, rel=0.02)
    response = np.array([(point.frequency_hz, point.v_rms) for point in found.points])
    _, theirs = scipy.signal.freqz_sos(
        scipy.signal.butter(4, corner, kind, fs=RATE, output="sos"), worN=response[:, 0], fs=RATE
    )
    loud = np.abs(theirs) > 0.1
    off_db = 20 * np.log10(response[loud, 1] * np.sqrt(2) / np.abs(theirs[loud]))
    assert np.max(np.abs(off_db)) < 0.5


def test_it_names_the_only_range_that_clips() -> None:
    volts = sweep(30.0)
    b, a = scipy.signal.iirpeak(2200, 2, fs=RATE)
    boosted = volts + 0.6 * scipy.signal.lfilter(b, a, volts)
    found = judged(np.clip(boosted, -1.3, 1.3))
    assert found.verdict == "clipped"
    (only,) = found.clipped
    # Where the boosted response passes 1.3 by scipy.
    frequency, response = scipy.signal.freqz(b, a, worN=1 << 15, fs=RATE)
    above = frequency[np.abs(1 + 0.6 * response) > 1.3]
    assert only.low_hz == pytest.approx(above[0], rel=0.08)
    assert only.high_hz == pytest.approx(above[-1], rel=0.08)
    assert only.over_db == pytest.approx(20 * np.log10(1.6 / 1.3), abs=0.06)
    assert only.clean_v_rms == pytest.approx(1.3 / np.sqrt(2), rel=0.01)
    assert "kHz" in found.reasons[0]


def test_everything_clips_and_the_blind_part_is_told() -> None:
    found = judged(np.clip(sweep(), -0.8, 0.8))
    assert found.verdict == "clipped"
    (only,) = found.clipped
    assert only.low_hz < 30
    assert only.over_db == pytest.approx(20 * np.log10(1 / 0.8), abs=0.1)
    assert found.blind_above_hz == 8000
    assert "can’t be seen" in found.reasons[-1]


def test_the_recorders_own_limits() -> None:
    top = 1 - 2.0**-15
    volts = np.clip(1.3 * sweep(), -1, top)
    found = judge_sweep(Trace(volts, RATE, "", (-1.0, top)))
    assert found.verdict == "over_range"
    assert "larger range" in found.reasons[0]


DICE = np.random.default_rng(3)


@pytest.mark.parametrize(
    "volts",
    [
        DICE.normal(size=300_000),
        np.sin(np.arange(300_000) * 0.13),
        np.zeros(300_000),
        np.sin(np.arange(900) * 0.13),
        np.repeat(DICE.normal(size=300), 1000),
        np.sin(np.arange(300_000) * 0.13 * (1 + 0.2 * np.sin(np.arange(300_000) * 3e-5))),
    ],
)
def test_what_is_no_sweep(volts: Array) -> None:
    found = judge_sweep(Trace(volts, RATE))
    assert found.verdict == "not_a_sweep"
    assert found.points == found.clipped == ()


def linkwitz_riley(corner: float, kind: str, volts: Array) -> Array:
    sections = scipy.signal.butter(2, corner, kind, fs=RATE, output="sos")
    return scipy.signal.sosfilt(sections, scipy.signal.sosfilt(sections, volts))


@pytest.mark.parametrize(("boost_hz", "q", "corner"), [(2500.0, 2.0, 4000.0), (46.0, 1.2, 80.0), (46.0, 1.2, 120.0)])
def test_clipping_before_a_filter_is_found_by_its_harmonics(boost_hz: float, q: float, corner: float) -> None:
    volts = sweep()
    b, a = scipy.signal.iirpeak(boost_hz, q, fs=RATE)
    cut = np.clip(volts + 0.585 * scipy.signal.lfilter(b, a, volts), -1.1, 1.1)
    found = judged(linkwitz_riley(corner, "lowpass", cut))
    assert found.verdict == "clipped"
    (only,) = found.clipped
    # 1.585 V of boosted sweep against 1.1 V: 3.17 dB; the filter's own loss is scipy's.
    assert only.low_hz < boost_hz < only.high_hz
    assert abs(only.over_db - 3.17) <= only.over_db_uncertainty
    assert only.over_db_uncertainty < 1.5
    _, left = scipy.signal.freqz_sos(
        scipy.signal.butter(2, corner, "lowpass", fs=RATE, output="sos"), worN=[only.worst_hz], fs=RATE
    )
    assert only.clean_v_rms == pytest.approx(1.1 / np.sqrt(2) * float(np.abs(left[0]) ** 2), rel=0.06)


@pytest.mark.parametrize("kind", ["lowpass", "highpass"])
@pytest.mark.parametrize("corner", [60.0, 80.0, 300.0, 2500.0])
def test_a_filter_alone_is_no_clipping_and_hides_what_it_hides(kind: str, corner: float) -> None:
    found = judged(linkwitz_riley(corner, kind, sweep()))
    assert found.verdict == ("unseen" if kind == "lowpass" and corner < 100 else "clean")
    if kind == "lowpass" and corner < 100:
        # Where the third harmonic is deep in the slope half a decibel would not show; well below it would.
        assert any(hidden_range.low_hz < corner < hidden_range.high_hz for hidden_range in found.hidden)
        assert all(hidden_range.low_hz > corner / 4 for hidden_range in found.hidden)
        assert not any("nothing clips" in line.lower() and "would show" not in line.lower() for line in found.reasons)
