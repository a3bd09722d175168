"""The quick calculator against worked values of the trade and against numpy."""

import numpy as np
import pytest

from upper_rook.core.common.errors import BadInput
from upper_rook.core.stages.calculator import corner_of, impedance_from, in_words, level_of, output_of
from upper_rook.core.system.amplifier import Mode


@pytest.mark.parametrize(
    ("watts", "ohms", "volts"), [(85, 4, 18.44), (50, 4, 14.14), (61.6, 4, 15.7), (225, 4, 30.0), (300, 2, 24.49)]
)
def test_worked_values_any_two_give_the_third(watts: float, ohms: float, volts: float) -> None:
    """Common practice, no source; P = V²/R."""
    assert output_of(watts, ohms, None).voltage_v == pytest.approx(volts, abs=0.01)
    assert output_of(None, ohms, volts).power_w == pytest.approx(watts, rel=0.002)
    assert output_of(watts, None, volts).load_ohm == pytest.approx(ohms, rel=0.002)


def test_bridged_and_strapped_split_the_load() -> None:
    bridged, strapped = (output_of(1000, 4, None, mode) for mode in (Mode.BRIDGED, Mode.STRAPPED))
    assert (bridged.channel_ohm, strapped.channel_ohm) == (2, 2)
    assert bridged.measured_v == pytest.approx(63.25, abs=0.01)
    assert strapped.measured_v == pytest.approx(31.62, abs=0.01)


def test_decibels_and_ratios_are_numpys() -> None:
    for db in np.linspace(-60, 60, 25):
        found = level_of(db=float(db))
        assert found.voltage_ratio == pytest.approx(np.power(10, db / 20))
        assert found.power_ratio == pytest.approx(np.power(10, db / 10))
        assert level_of(voltage_ratio=found.voltage_ratio).db == pytest.approx(db, abs=1e-9)


def test_a_corner_and_a_speakers_resistance() -> None:
    """6.2 V × 0.707 → 4.38 V; 3 to 4 Ω reads as 4, 1.5 to 2 as 2 (common practice, no source)."""
    assert corner_of(6.2, 3.0103).voltage_v == pytest.approx(4.38, abs=0.005)
    assert corner_of(6.2, 6.0206).ratio == pytest.approx(0.5, abs=1e-5)
    assert [impedance_from(one).nominal_ohm for one in (1.6, 1.9, 3.1, 3.9, 6.5, 0.3, 4.7, 90)] == [
        2,
        2,
        4,
        4,
        8,
        None,
        None,
        None,
    ]
    assert "touch" in in_words(impedance_from(0.3))


def test_too_little_and_too_much_is_refused() -> None:
    for asked in ((None, 4, None), (50, 4, 14)):
        with pytest.raises(BadInput, match="Type two of watts, ohms and volts"):
            output_of(*asked)
    with pytest.raises(BadInput, match="decibels or a ratio"):
        level_of()
