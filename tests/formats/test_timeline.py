"""Times that stream by: even, rounded, backwards, standing still, with a hole."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.common.errors import BadInput
from upper_rook.formats.timeline import Timeline


def interval(times: np.ndarray, pieces: int = 3, unit: float = 1.0) -> float:
    line = Timeline(unit, 2)
    for part in np.array_split(times, pieces):
        line.add(part)
    return line.interval_s()


@given(
    st.floats(1e-9, 1e-2),
    st.floats(-1, 1),
    st.integers(10, 3000),
    st.integers(1, 9),
)
def test_even_times_give_their_interval_however_they_are_cut(
    step: float, start: float, count: int, pieces: int
) -> None:
    times = start + step * np.arange(count)
    assert interval(times, pieces) == pytest.approx(step, rel=1e-4)


@pytest.mark.parametrize("digits", [4, 5, 6])
def test_times_printed_with_few_digits_are_still_even(digits: int) -> None:
    times = np.round(np.arange(5000) / 44_100, digits)
    assert interval(times) == pytest.approx(1 / 44_100, rel=1e-3)


def test_units_are_applied() -> None:
    assert interval(np.arange(100.0), unit=1e-6) == pytest.approx(1e-6)


def test_backwards_names_the_line() -> None:
    times = np.arange(300) / 1000
    times[210] = 0.1
    # Two lines above, counted from one.
    with pytest.raises(BadInput, match="line 213"):
        interval(times)


def test_backwards_from_one_piece_to_the_next_is_seen() -> None:
    line = Timeline(1.0, 0)
    line.add(np.array([0.0, 1.0, 2.0]))
    with pytest.raises(BadInput, match="backwards at about line 4"):
        line.add(np.array([1.5, 2.5]))


@pytest.mark.parametrize("hole", [3, 10, 1000])
def test_a_hole_is_uneven(hole: int) -> None:
    places = np.concatenate((np.arange(500), np.arange(500 + hole, 1000 + hole)))
    with pytest.raises(BadInput, match=r"uneven, by most at about line 50[0-9]"):
        interval(places / 1e5)


def test_a_rate_that_changes_is_uneven() -> None:
    times = np.concatenate((np.arange(500) * 1.0, 499 + np.arange(1, 500) * 1.4))
    with pytest.raises(BadInput, match="uneven"):
        interval(times)


def test_standing_still() -> None:
    with pytest.raises(BadInput, match="doesn’t advance"):
        interval(np.full(50, 0.25))
