"""Volts that a load takes from the rails, from ratings that follow from a rail and a resistance behind it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.stages.loaded import USUAL_DB, load_takes_db, rail_ohm
from upper_rook.core.system.amplifier import Amplifier, Driven, Mode, Rating


def amplifier(*ratings: tuple[float, float], mode: Mode = Mode.PER_CHANNEL) -> Amplifier:
    return Amplifier(id="a", ratings=tuple(Rating(power_w=watts, load_ohm=ohms, mode=mode) for watts, ohms in ratings))


def test_two_ratings_tell_what_is_behind_the_rails() -> None:
    # √(75·4) = 17.32 V and √(120·2) = 15.49 V: E·R/(R + r) at both gives r = 0.535 Ω, 1.09 dB at 4 Ω and 2.06 at 2.
    made = amplifier((75, 4), (120, 2))
    assert rail_ohm(made, Mode.PER_CHANNEL) == pytest.approx(0.5353, abs=1e-4)
    assert load_takes_db(made, Mode.PER_CHANNEL, 4) == pytest.approx(1.091, abs=1e-3)
    assert load_takes_db(made, Mode.PER_CHANNEL, 2) == pytest.approx(2.060, abs=1e-3)


def test_one_rating_tells_nothing_and_the_usual_is_taken() -> None:
    assert rail_ohm(amplifier((75, 4)), Mode.PER_CHANNEL) is None
    assert load_takes_db(amplifier((75, 4)), Mode.PER_CHANNEL, 4) == USUAL_DB
    # Regulated rails give the same volts into both; twice the watts at half the load.
    assert load_takes_db(amplifier((75, 4), (150, 2)), Mode.PER_CHANNEL, 2) == pytest.approx(0.0, abs=1e-9)


@given(rail_v=st.floats(10, 60), behind=st.floats(0.01, 0.9), bridged=st.booleans())
def test_any_rail_and_resistance_come_back(rail_v: float, behind: float, bridged: bool) -> None:
    channels = 2 if bridged else 1
    mode = Mode.BRIDGED if bridged else Mode.PER_CHANNEL

    def watts(ohms: float) -> float:
        return channels * (rail_v * ohms / (ohms + behind)) ** 2 / ohms

    made = amplifier(*((watts(ohms), ohms * channels) for ohms in (4.0, 2.0)), mode=mode)
    assert rail_ohm(made, mode) == pytest.approx(behind, rel=1e-6)


@given(rail_v=st.floats(10, 60), shared=st.floats(0.01, 0.3), channels=st.sampled_from((1, 2)), loads=st.booleans())
def test_one_channel_alone_tells_what_all_of_them_share(
    rail_v: float, shared: float, channels: int, *, loads: bool
) -> None:
    def rating(ohms: float, driven: Driven) -> Rating:
        together = channels if driven is Driven.ALL else 1
        return Rating(power_w=(rail_v * ohms / (ohms + together * shared)) ** 2 / ohms, load_ohm=ohms, driven=driven)

    second = rating(2.0, Driven.ONE) if loads else rating(4.0, Driven.ALL)
    made = Amplifier(id="a", channels=channels, ratings=(rating(4.0, Driven.ONE), second))
    if channels == 1 and not loads:
        assert rail_ohm(made, Mode.PER_CHANNEL) is None
    else:
        assert rail_ohm(made, Mode.PER_CHANNEL) == pytest.approx(channels * shared, rel=1e-6)
