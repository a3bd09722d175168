"""Filter and equaliser responses against scipy.signal, the cookbook and the worked values; corners from readings."""

import numpy as np
import pytest
import scipy.signal
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.signal.filters import (
    EQUALISER_RATE_HZ,
    BandKind,
    Crossover,
    EqualiserBand,
    Pass,
    Shape,
    equaliser_db,
    equaliser_response,
    level_db,
)
from upper_rook.core.signal.measured_corner import FilterReading, measured_corner

FREQUENCY = np.geomspace(10, 20_000, 200)


@pytest.mark.parametrize("kind", Pass)
@pytest.mark.parametrize("order", range(1, 9))
def test_butterworth_as_scipy_makes_it(kind: Pass, order: int) -> None:
    ours = Crossover(kind=kind, corner_hz=80, order=order).response(FREQUENCY)
    b, a = scipy.signal.butter(order, 2 * np.pi * 80, kind.value + "pass", analog=True)
    _, theirs = scipy.signal.freqs(b, a, 2 * np.pi * FREQUENCY)
    loud = np.abs(theirs) > 1e-5
    assert np.max(np.abs(level_db(ours)[loud] - level_db(theirs)[loud])) < 0.01
    assert np.max(np.abs(np.angle(ours[loud] / theirs[loud]))) < 1e-4
    for shape in (Shape.BUTTERWORTH, *((Shape.LINKWITZ_RILEY,) if order % 2 == 0 else ())):
        crossover = Crossover(kind=kind, corner_hz=80, order=order, shape=shape)
        assert crossover.level_db(FREQUENCY)[loud] == pytest.approx(
            level_db(crossover.response(FREQUENCY))[loud], abs=1e-6
        )


@pytest.mark.parametrize("kind", Pass)
@pytest.mark.parametrize("order", range(1, 9))
def test_bessel_as_scipy_makes_it(kind: Pass, order: int) -> None:
    crossover = Crossover(kind=kind, corner_hz=80, order=order, shape=Shape.BESSEL)
    b, a = scipy.signal.bessel(order, 2 * np.pi * 80, kind.value + "pass", analog=True, norm="mag")
    _, theirs = scipy.signal.freqs(b, a, 2 * np.pi * FREQUENCY)
    loud = np.abs(theirs) > 1e-4
    assert crossover.response(FREQUENCY)[loud] == pytest.approx(theirs[loud], rel=1e-4)
    assert crossover.level_db(FREQUENCY)[loud] == pytest.approx(level_db(theirs)[loud], abs=1e-3)


@pytest.mark.parametrize("q", [0.5, 0.707, 1.2])
def test_a_chosen_q_as_scipy_makes_it(q: float) -> None:
    crossover = Crossover(kind=Pass.LOW, corner_hz=80, order=2, shape=Shape.CHOSEN_Q, q=q)
    omega = 2 * np.pi * 80
    _, theirs = scipy.signal.freqs([omega**2], [1, omega / q, omega**2], 2 * np.pi * FREQUENCY)
    assert crossover.response(FREQUENCY) == pytest.approx(theirs, rel=1e-9)
    # At its corner a second-order filter is at its Q.
    assert crossover.ratio == pytest.approx(q)
    for wrong in ({"q": None}, {"order": 4}, {"depth_db": -6.0}, {"shape": Shape.BESSEL}):
        with pytest.raises(ValidationError):
            Crossover.model_validate(dict(crossover) | wrong)


@pytest.mark.parametrize("order", [2, 4, 8])
def test_linkwitz_riley_sums_flat(order: int) -> None:
    # Two in phase (of even half order) or turned by half a cycle add up to an all-pass: Linkwitz 1976, memory.
    riley = Shape.LINKWITZ_RILEY
    low, high = (Crossover(kind=kind, corner_hz=300, order=order, shape=riley).response(FREQUENCY) for kind in Pass)
    turned = -1 if order % 4 else 1
    assert np.max(np.abs(level_db(low + turned * high))) < 1e-6


@pytest.mark.parametrize(
    ("order", "shape", "levels"),
    [
        (2, Shape.BUTTERWORTH, (-12.30, -3.01, -0.26)),
        (4, Shape.BUTTERWORTH, (-24.10, -3.01, -0.02)),
        (4, Shape.LINKWITZ_RILEY, (-24.61, -6.02, -0.53)),
    ],
)
def test_the_reference_values_of_an_80_hz_high_pass(order: int, shape: Shape, levels: tuple[float, ...]) -> None:
    found = Crossover(kind=Pass.HIGH, corner_hz=80, order=order, shape=shape).response([40, 80, 160])
    assert level_db(found) == pytest.approx(levels, abs=0.006)


@given(
    st.sampled_from(list(Pass)),
    st.sampled_from([Shape.BUTTERWORTH, Shape.LINKWITZ_RILEY, Shape.BESSEL]),
    st.sampled_from([2, 4, 6, 8]),
    st.floats(20, 5000),
    st.floats(-10, -1),
)
def test_the_marked_corner_has_the_makers_depth(
    kind: Pass, shape: Shape, order: int, corner: float, depth: float
) -> None:
    crossover = Crossover(kind=kind, shape=shape, order=order, corner_hz=corner, depth_db=depth)
    assert level_db(crossover.response([corner]))[0] == pytest.approx(depth, abs=1e-6)
    assert crossover.ratio == pytest.approx(10 ** (depth / 20))


def test_the_ratios_of_the_trade() -> None:
    # ×0.707 at −3 dB, ×0.5 at −6 dB, ×0.577 at −4.8 dB.
    for depth, ratio in ((None, 0.7071), (-6.02, 0.5), (-4.77, 0.577)):
        assert Crossover(kind=Pass.LOW, corner_hz=80, depth_db=depth).ratio == pytest.approx(ratio, abs=5e-4)


def test_an_odd_linkwitz_riley_is_refused() -> None:
    with pytest.raises(ValidationError, match="even order"):
        Crossover(kind=Pass.LOW, corner_hz=80, order=3, shape=Shape.LINKWITZ_RILEY)


@pytest.mark.parametrize("kind", BandKind)
@pytest.mark.parametrize("gain", [-12.0, 6.0])
def test_equaliser_bands_are_the_cookbooks(kind: BandKind, gain: float) -> None:
    band = EqualiserBand(kind=kind, frequency_hz=1000, gain_db=gain, q=0.9)
    b, a = band.biquad()
    _, theirs = scipy.signal.freqz(b, a, worN=FREQUENCY, fs=EQUALISER_RATE_HZ)
    assert np.max(np.abs(level_db(band.response(FREQUENCY)) - level_db(theirs))) < 0.01
    assert equaliser_db((band, band), FREQUENCY) == pytest.approx(2 * level_db(theirs), abs=0.01)
    # W3C Audio EQ Cookbook: a peak has its gain at its frequency, a shelf half of it, and all of it far out.
    low, middle, high = level_db(band.response([2, 1000, 23_990]))
    assert middle == pytest.approx(gain if kind is BandKind.PEAK else gain / 2, abs=1e-6)
    assert low == pytest.approx(gain if kind is BandKind.LOW_SHELF else 0, abs=0.01)
    assert high == pytest.approx(gain if kind is BandKind.HIGH_SHELF else 0, abs=0.01)


@given(st.lists(st.tuples(st.floats(20, 20_000), st.floats(-12, 12)), min_size=1, max_size=6), st.integers(0, 6))
def test_splitting_a_row_of_stages_never_changes_its_total(bands: list[tuple[float, float]], cut: int) -> None:
    stages = [EqualiserBand(frequency_hz=hertz, gain_db=gain) for hertz, gain in bands]
    whole = equaliser_response(tuple(stages), FREQUENCY)
    parts = (equaliser_response(tuple(some), FREQUENCY) for some in (stages[:cut], stages[cut:]))
    assert whole == pytest.approx(np.prod(list(parts), axis=0))


@given(
    st.sampled_from(list(Pass)),
    st.integers(1, 4),
    st.floats(40, 400),
    st.lists(st.floats(0.6, 2.5), min_size=2, max_size=4, unique=True),
)
def test_corner_and_slope_come_back_from_readings(kind: Pass, order: int, corner: float, places: list[float]) -> None:
    # Within the filter's working range and not all at one place.
    places = [*places, 1.0, 0.5 if kind is Pass.HIGH else 2.0]
    crossover = Crossover(kind=kind, corner_hz=corner, order=order)
    rows = [
        FilterReading(
            frequency_hz=min(40_000.0, max(5.0, corner * place)),
            filtered_v=float(8 * np.abs(crossover.response([min(40_000.0, max(5.0, corner * place))])[0])),
            open_v=8,
        )
        for place in places
    ]
    found = measured_corner(kind, rows)
    assert found.corner_hz == pytest.approx(corner, rel=0.01)
    assert found.order == order
    assert found.worst_db < 0.05
    (single,) = rows[-1:]
    assert measured_corner(kind, [single], order).corner_hz == pytest.approx(corner, rel=0.01)


def test_readings_that_cannot_tell_a_corner() -> None:
    row = FilterReading(frequency_hz=80, filtered_v=5, open_v=7)
    flat = FilterReading(frequency_hz=500, filtered_v=7, open_v=7)
    with pytest.raises(BadInput, match="second reading"):
        measured_corner(Pass.HIGH, [row])
    with pytest.raises(BadInput, match="hardly fall"):
        measured_corner(Pass.HIGH, [flat, flat])
    with pytest.raises(BadInput, match="too close"):
        measured_corner(Pass.HIGH, [row, row])
    pairs = ((80, 5.6), (40, 2.0), (20, 4.0))
    odd = [FilterReading(frequency_hz=hertz, filtered_v=volts, open_v=8) for hertz, volts in pairs]
    assert "another filter" in measured_corner(Pass.HIGH, odd).reasons[0]


VOLTS = st.floats(1e-5, 1000)
READING = st.builds(FilterReading, frequency_hz=st.floats(5, 40_000), filtered_v=VOLTS, open_v=VOLTS)


@given(st.sampled_from(list(Pass)), st.lists(READING, min_size=1, max_size=8), st.none() | st.integers(1, 8))
def test_any_readings_give_a_corner_or_a_word(kind: Pass, readings: list[FilterReading], order: int | None) -> None:
    try:
        found = measured_corner(kind, readings, order)
    except BadInput:
        return
    assert np.isfinite([found.corner_hz, found.slope_db_octave, found.worst_db]).all()
    assert found.corner_hz > 0
