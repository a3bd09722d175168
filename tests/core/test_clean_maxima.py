"""Clean maxima of several source points, and what they come to for a path, a source and a customer."""

import pytest

from tests.core.helpers import LAYOUTS
from upper_rook.core.system.clean_maxima import UNMEASURED, CleanMaxima, PointCleanMaximum, SourcePoint
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum, GainPoint
from upper_rook.core.system.playing import InputKind

CHAIN = LAYOUTS["front-rear"]
FRONT, REAR = CHAIN.paths


def point(output: str = "front", **more: object) -> SourcePoint:
    return SourcePoint.model_validate({"source": "source", "output": output} | more)


def taken(where: SourcePoint, volume: int, volts: float, *volume_readings: tuple[int, float]) -> PointCleanMaximum:
    clean_maximum = CleanMaximum(volume=volume, voltage_v=volts, uncertainty_v=0.01 * volts, basis=Basis.MARKED)
    steps = tuple(GainPoint(volume=number, voltage_v=value) for number, value in (*volume_readings, (volume, volts)))
    return PointCleanMaximum(point=where, clean_maximum=clean_maximum, volume_readings=steps)


def test_volts_between_readings_lie_on_a_line_in_decibels_and_beyond_them_a_decibel_a_number() -> None:
    clean_maximum = taken(point(), 32, 4.0, (28, 2.0), (30, 2.5))
    # Half way in decibels between 2 V and 2.5 V is their geometric mean.
    assert clean_maximum.volts_at(29) == pytest.approx((2.0 * 2.5) ** 0.5)
    assert clean_maximum.volts_at(30) == 2.5
    # A decibel a number is common practice, no source: 10^(1/20) = 1.122.
    assert clean_maximum.volts_at(34) == pytest.approx(4.0 * 1.122**2, rel=1e-3)
    assert clean_maximum.volts_at(27) == pytest.approx(2.0 / 1.122, rel=1e-3)
    bare = PointCleanMaximum(point=point(), clean_maximum=clean_maximum.clean_maximum)
    assert bare.volts_at(31) == pytest.approx(4.0 / 1.122, rel=1e-3)


def test_the_lowest_clean_number_governs_and_each_way_has_its_own_never_to_pass() -> None:
    measured = CleanMaxima(
        (
            taken(point(way=InputKind.USB), 33, 4.4),
            taken(point(way=InputKind.RADIO), 36, 4.0),
            taken(point("rear", way=InputKind.USB), 31, 3.9),
        )
    )
    governing = measured.governing("source")
    assert governing is not None
    assert (governing.point.output, governing.clean_maximum.volume) == ("rear", 31)
    assert measured.never_pass("source") == {InputKind.USB: 31, InputKind.RADIO: 36}
    assert measured.gain_volume("source") == 31
    assert measured.governing("another") is None
    assert measured.never_pass("another") == {}
    assert UNMEASURED.gain_volume("source") is None


def test_each_path_gets_its_own_outputs_volts_at_the_number_that_governs() -> None:
    measured = CleanMaxima((taken(point(), 34, 4.4, (30, 3.0), (32, 3.7)), taken(point("rear"), 32, 3.0)))
    front, rear = (measured.of_path(CHAIN, path) for path in (FRONT, REAR))
    assert front is not None
    assert rear is not None
    assert (front.volume, front.voltage_v, front.scaled_from) == (32, 3.7, None)
    assert (rear.volume, rear.voltage_v, rear.scaled_from) == (32, 3.0, None)


def test_numbers_in_hand_lower_the_volts_by_what_was_read() -> None:
    measured = CleanMaxima((taken(point(), 32, 4.0, (30, 3.0)),), clicks_in_hand=2)
    front = measured.of_path(CHAIN, FRONT)
    assert front is not None
    assert (front.volume, front.gain_volume) == (32, 30)
    # 20·log10(4/3)
    assert front.in_hand_db == pytest.approx(2.4988, abs=1e-4)


def test_an_output_that_was_not_measured_is_scaled_by_the_ratings_and_says_so() -> None:
    source = CHAIN.sources[0]
    half = source.outputs[1].model_copy(update={"rated": source.outputs[1].rated.model_copy(update={"volts": 2.0})})
    chain = CHAIN.model_copy(update={"sources": (source.model_copy(update={"outputs": (source.outputs[0], half)}),)})
    rear = CleanMaxima((taken(point(), 31, 3.0),)).of_path(chain, REAR)
    assert rear is not None
    # Rated 2 V against 4 V: half of what the other gave.
    assert (rear.voltage_v, rear.uncertainty_v) == (1.5, None)
    assert rear.scaled_from == point()


def test_which_combination_gives_most() -> None:
    measured = CleanMaxima(
        (
            taken(point(trim_db=0.0), 34, 3.6),
            taken(point(trim_db=6.0), 30, 4.1),
            taken(point(trim_db=12.0), 24, 3.9),
            taken(point(), 34, 3.6),
        )
    )
    most = measured.most_volts("source", "front")
    assert most is not None
    assert (most.point.trim_db, most.clean_maximum.volume) == (6.0, 30)
    assert measured.most_volts("source", "sub") is None
    assert measured.at(point(trim_db=12.0)) is not None
