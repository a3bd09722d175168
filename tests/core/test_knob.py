"""The predicted gain position, against the simulated amplifier that knows nothing of the prediction."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.physics.amplifier import AmplifierModel
from upper_rook.core.stages.knob import KnobState, o_clock, predict
from upper_rook.core.system.amplifier import GainRange

RANGE = GainRange(down_v=6.0, up_v=0.2)


@given(input_v=st.floats(0.25, 5.5), target_fraction=st.floats(0.3, 1.0))
def test_the_predicted_travel_gives_the_target_on_the_simulated_amplifier(
    input_v: float, target_fraction: float
) -> None:
    rated_v = 17.32
    knob = predict(RANGE, input_v, rated_v, rated_v * target_fraction)
    amplifier = AmplifierModel(
        rated_v=rated_v,
        sensitivity_down_v=RANGE.down_v,
        sensitivity_up_v=RANGE.up_v,
        rail_peak_v=100,
        output_ohm=0,
        regulated=True,
    )
    if knob.state is KnobState.WITHIN and knob.travel is not None:
        assert amplifier.gain(knob.travel) * input_v == pytest.approx(rated_v * target_fraction, rel=1e-6)
    else:
        # Only fully down can be missed here: the printed number lies above the scale.
        assert knob.state is KnobState.FULLY_DOWN
        assert amplifier.gain(0) * input_v > rated_v * target_fraction


def test_set_at_the_sources_clean_voltage_for_rated_output() -> None:
    knob = predict(RANGE, 4.0, 17.32, 17.32)
    assert knob.printed_v == pytest.approx(4.0)


def test_short_of_its_stop_says_by_how_much() -> None:
    knob = predict(RANGE, 0.1, 17.32, 17.32)
    assert knob.state is KnobState.SHORT
    assert knob.miss_db == pytest.approx(6.02, abs=0.01)
    assert "8.66 V" in knob.sentence
    # 20·log10(17.32 / 0.1) needed; 17.32 / 6 and 17.32 / 0.2 are there.
    assert "44.8 dB" in knob.because[0]
    assert "9.2 dB fully down to 38.8 dB fully up" in knob.because[1]


def test_a_bare_knob_gets_no_position() -> None:
    knob = predict(None, 4.0, 17.32, 17.32)
    assert (knob.state, knob.travel, knob.printed_v) == (KnobState.UNMARKED, None, None)


@pytest.mark.parametrize(
    ("travel", "said"), [(0, "7 o’clock"), (0.5, "12 o’clock"), (1, "5 o’clock"), (0.35, "half past 10")]
)
def test_clock_hands(travel: float, said: str) -> None:
    assert o_clock(travel) == said
