"""Two tones: intermodulation against what a square and a cubic law make of them in closed form."""

import numpy as np
import pytest

from upper_rook.core.judge.wave import judge
from upper_rook.core.judge.wave_report import Verdict
from upper_rook.core.signal.trace import Trace

RATE = 48_000


def captured(low: float, high: float, *, share: float, bent: tuple[float, float], count: int = 6000) -> Trace:
    """Tones of 1/(1 + share) and share/(1 + share), peak, through x + square·x² + cube·x³, `bent` by both."""
    square, cube = bent
    times = np.arange(count) / RATE
    wave = (np.sin(2 * np.pi * low * times) + share * np.sin(2 * np.pi * high * times + 0.3)) / (1 + share)
    noise = 1e-4 * np.random.default_rng(5).normal(size=count)
    return Trace(wave + square * wave**2 + cube * wave**3 + noise, RATE)


@pytest.mark.parametrize(("low", "high", "share"), [(60, 7000, 0.25), (400, 1000, 1.0), (250, 8000, 0.25)])
@pytest.mark.parametrize(("square", "cube"), [(0.01, 0.0), (0.0, 0.01), (0.002, 0.0)])
def test_sidebands_are_what_the_law_makes(low: float, high: float, share: float, square: float, cube: float) -> None:
    report = judge(captured(low, high, share=share, bent=(square, cube))).report
    lower = 1 / (1 + share)
    # sin a · sin b: the square makes square·lower·upper of each sideband, the cube ¾·cube·lower²·upper.
    expected = 200 * np.hypot(square * lower, 0.75 * cube * lower**2)
    assert report.verdict is Verdict.NOT_A_TONE
    assert report.intermodulation_percent == pytest.approx(expected, rel=0.03)
    assert f"{low} Hz and {high} Hz" in report.reasons[0]


@pytest.mark.parametrize(("low", "high"), [(19_000, 20_000), (50, 55)])
def test_close_tones_tell_by_their_difference(low: float, high: float) -> None:
    report = judge(captured(low, high, share=1.0, bent=(0.01, 0.0), count=24_000)).report
    assert report.intermodulation_percent == pytest.approx(0.25, rel=0.03)


def test_two_tones_through_something_straight_have_none() -> None:
    report = judge(captured(60, 7000, share=0.25, bent=(0.0, 0.0))).report
    assert report.intermodulation_percent is None
    assert "no intermodulation above" in report.reasons[0]


def test_music_is_no_pair() -> None:
    times = np.arange(6000) / RATE
    chord = sum(np.sin(2 * np.pi * tone * times) / number for number, tone in enumerate((220, 277.2, 329.6, 415.3), 1))
    report = judge(Trace(np.asarray(chord), RATE)).report
    assert (report.verdict, report.intermodulation_percent) == (Verdict.NOT_A_TONE, None)
