"""When a meter's display counts as settled."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.signal.tones import Tone
from upper_rook.instruments.meter import Sample
from upper_rook.instruments.meter_settling import Steadiness


def sample(volts: float, **more: object) -> Sample:
    return Sample.model_validate({"value_v": volts, "uncertainty_v": 0.01 * volts} | more)


def test_it_needs_its_time_after_every_change_and_its_own_noise_is_none() -> None:
    watch = Steadiness(settles_s=0.6)
    rng = np.random.default_rng(1)
    steady = [watch.is_steady(sample(4 * (1 + rng.normal(0, 0.0006))), at) for at in np.arange(0, 3, 0.3)]
    assert steady == [False, False] + [True] * 8
    # The volume, the tone or the probe moved: what shows may be of before, whatever it shows.
    for moved in ({"volume": 31}, {"tone": Tone(frequency_hz=40)}, {"point": {"kind": "supply"}}):
        assert not watch.is_steady(sample(4.0, **moved), 10)
        assert watch.is_steady(sample(4.0, **moved), 10.7)


@given(st.lists(st.floats(0.1, 30), min_size=2, max_size=12))
def test_a_value_that_goes_on_moving_is_never_steady(volts: list[float]) -> None:
    watch, at = Steadiness(settles_s=1.0), 0.0
    last = None
    for value in volts:
        at += 0.9
        steady = watch.is_steady(sample(value), at)
        if last is None or abs(value - last) > 0.006 * max(value, last):
            assert not steady
            last = value
