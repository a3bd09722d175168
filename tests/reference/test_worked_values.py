"""Worked values of the trade (common practice, no source), by Joule's and Ohm's laws."""

import pytest

from tests.core.helpers import with_parts
from upper_rook.core.common.units import volts_for, watts_for
from upper_rook.core.plan.plan import plan
from upper_rook.core.signal.filters import Crossover, Pass
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.loads import Load


@pytest.mark.parametrize(("watts", "ohms", "volts"), [(85, 4, 18.44), (50, 4, 14.14), (225, 4, 30.0)])
def test_target_volts(watts: float, ohms: float, volts: float) -> None:
    assert volts_for(watts, ohms) == pytest.approx(volts, abs=0.005)


def test_power_of_a_reading() -> None:
    assert watts_for(15.7, 4) == pytest.approx(61.6, abs=0.05)


@pytest.mark.parametrize(("watts", "volts"), [(85, 18.44), (50, 14.14)])
def test_the_plan_gives_the_same(sheet: JobSheet, watts: float, volts: float) -> None:
    wide = with_parts(sheet, amplifier={"ratings": [{"power_w": 500, "load_ohm": 4}]}, load={"power_w": watts})
    assert plan(wide).paths[0].target.value == pytest.approx(volts, abs=0.005)


def test_two_strapped_or_bridged_channels_each_see_half(sheet: JobSheet) -> None:
    path = plan(with_parts(sheet, path={"mode": "bridged"})).paths[0]
    assert path.channel_ohm * 2 == path.load_ohm


def test_two_eight_ohm_speakers_in_parallel_are_four_ohms() -> None:
    assert Load(id="l", impedance_ohm=8, power_w=1, count=2).total_ohm == 4


def test_a_pair_of_93_db_speakers_with_a_watt_each_gives_99_db(sheet: JobSheet) -> None:
    # A watt each, left and right.
    watt = {"sensitivity_db": 93, "power_w": 1}
    assert plan(with_parts(sheet, load=watt)).paths[0].loudness.highest_db == pytest.approx(99, abs=0.05)
    # The same speaker stated with 2.83 V into its 4 ohm has 2 W and 3.01 dB less with one.
    stated = watt | {"sensitivity_at": "2.83v"}
    assert plan(with_parts(sheet, load=stated)).paths[0].loudness.highest_db == pytest.approx(96, abs=0.05)


@pytest.mark.parametrize(("wanted", "watts", "room"), [(99, 1, 17.78), (109, 10, 7.78), (119.0, 100, -2.22)])
def test_a_wanted_loudness_needs_ten_times_the_watts_for_ten_decibels(
    sheet: JobSheet, wanted: float, watts: float, room: float
) -> None:
    # 60 W are aimed at: 10·log10(60) = 17.78 dB above a watt.
    asked = with_parts(sheet, load={"sensitivity_db": 93}, choices={"wanted_db": wanted})
    loud = plan(asked).paths[0].loudness
    assert loud is not None
    assert loud.needed_w == pytest.approx(watts, rel=0.01)
    assert loud.room_db == pytest.approx(room, abs=0.05)


def test_6_2_volts_fall_to_4_38_at_the_corner() -> None:
    assert 6.2 * Crossover(kind=Pass.HIGH, corner_hz=80, order=4).ratio == pytest.approx(4.38, abs=0.005)
