"""What an amplifier is counted on for."""

import pytest

from upper_rook.core.stages.power import amplifier_power
from upper_rook.core.system.amplifier import Amplifier, Mode, Rating


def amplifier(*ratings: Rating) -> Amplifier:
    return Amplifier(id="a", ratings=ratings, lowest_load_ohm=1)


TWO = amplifier(Rating(power_w=75, load_ohm=4), Rating(power_w=120, load_ohm=2))


def test_the_makers_own_figure_is_taken_as_it_is() -> None:
    power = amplifier_power(TWO, Mode.PER_CHANNEL, 2)
    assert (power.power_w, power.estimated) == (120, False)


def test_above_a_rated_load_the_voltage_is_counted_on_from_the_nearest_lower_one() -> None:
    assert amplifier_power(TWO, Mode.PER_CHANNEL, 8).power_w == pytest.approx(75 * 4 / 8)
    # Between two ratings: the volts of the 2 ohm one, which has sagged more, so no more is promised than is there.
    assert amplifier_power(TWO, Mode.PER_CHANNEL, 3).power_w == pytest.approx(120 * 2 / 3)


def test_below_every_rated_load_no_more_than_the_same_watts() -> None:
    power = amplifier_power(TWO, Mode.PER_CHANNEL, 1)
    assert (power.power_w, power.estimated) == (120, True)


def test_bridged_without_a_bridged_rating_is_two_channels_at_half_the_load() -> None:
    power = amplifier_power(TWO, Mode.BRIDGED, 4)
    assert (power.power_w, power.estimated) == (240, True)
    assert "each channel sees the same load" in power.because


def test_a_bridged_rating_wins_over_a_derived_one() -> None:
    both = amplifier(Rating(power_w=120, load_ohm=2), Rating(power_w=220, load_ohm=4, mode=Mode.BRIDGED))
    assert amplifier_power(both, Mode.BRIDGED, 4).power_w == 220
    assert amplifier_power(both, Mode.PER_CHANNEL, 2).power_w == 120
