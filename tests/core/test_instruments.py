"""What a meter promises, and what that does to a comparison."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.errors import NotFound
from upper_rook.core.instruments import PROFILES, Fit, Limits, MeterProfile, compare, profile
from upper_rook.core.physics.meter import MeterModel

TRUE_RMS = profile("true-rms")


def test_uncertainty_is_the_bound_over_root_three_doubled() -> None:
    # 1 % of 14.14 V + 3 digits of 10 mV on the 60 V range (JCGM 100, rectangular bound).
    bound = 0.01 * 14.14 + 3 * 0.01
    assert TRUE_RMS.uncertainty_v(14.14, 1000) == pytest.approx(2 * bound / math.sqrt(3))


def test_outside_its_frequencies_nothing_is_promised() -> None:
    assert profile("average").uncertainty_v(14, 1000) is None
    assert profile("average").uncertainty_v(14, 50) is not None


@pytest.mark.parametrize(("volts", "step"), [(0.5, 0.0001), (0.7, 0.001), (5.9, 0.001), (14, 0.01), (400, 0.1)])
def test_ranges_follow_the_value(volts: float, step: float) -> None:
    assert TRUE_RMS.resolution_v(volts) == pytest.approx(step)


@pytest.mark.parametrize(
    ("value", "doubt", "fit", "word"),
    [
        (14.14, 0.1, Fit.INSIDE, "In the band"),
        (14.45, 0.1, Fit.UNSURE, "edge"),
        (14.14, None, Fit.UNSURE, "says nothing"),
        (12.0, 0.1, Fit.BELOW, "turn up"),
        (15.0, 0.1, Fit.ABOVE, "turn down"),
    ],
)
def test_fits(value: float, doubt: float | None, fit: Fit, word: str) -> None:
    comparison = compare(value, doubt, 14.14, Limits(low=13.35, high=14.47))
    assert comparison.fit is fit
    assert word in comparison.sentence


@given(st.floats(1, 50), st.floats(1, 50))
def test_percent_and_decibels_agree(value: float, target: float) -> None:
    comparison = compare(value, 0.1, target, Limits(low=target * 0.9, high=target * 1.1))
    assert 20 * math.log10(1 + comparison.percent / 100) == pytest.approx(comparison.db, abs=1e-9)


def test_an_unknown_instrument_is_named() -> None:
    with pytest.raises(NotFound, match="“abacus”"):
        profile("abacus")


@pytest.mark.parametrize("known", PROFILES, ids=lambda known: known.id)
def test_simulated_specimens_keep_their_data_sheet(known: MeterProfile) -> None:
    wave = 10 * math.sqrt(2) * np.sin(2 * np.pi * np.arange(1000) / 1000)
    bound = known.percent / 100 * 10 + known.digits * known.resolution_v(10)
    for seed in range(60):
        assert abs(MeterModel(profile=known, seed=seed).read(wave, tick=seed) - 10) <= bound


def test_an_average_responding_meter_reads_a_square_wave_eleven_percent_high() -> None:
    square = np.where(np.arange(1000) < 500, 10.0, -10.0)
    ideal = profile("average").model_copy(update={"percent": 0.0})
    # π/(2√2) = 1.1107 (its calibration for sines; derived).
    assert MeterModel(profile=ideal, seed=1).read(square, 0) == pytest.approx(11.107, rel=0.004)
