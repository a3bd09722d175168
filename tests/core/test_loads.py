"""What a channel sees."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from upper_rook.core.loads import Load, Wiring


def load(count: int, wiring: Wiring, ohms: float = 4.0, watts: float = 50.0) -> Load:
    return Load(id="load", impedance_ohm=ohms, power_w=watts, count=count, wiring=wiring)


@pytest.mark.parametrize(
    ("count", "wiring", "ohms"),
    [
        (1, Wiring.PARALLEL, 4.0),
        (2, Wiring.PARALLEL, 2.0),
        (2, Wiring.SERIES, 8.0),
        (3, Wiring.PARALLEL, 4 / 3),
        (4, Wiring.SERIES_PARALLEL, 4.0),
        (8, Wiring.SERIES_PARALLEL, 2.0),
    ],
)
def test_wirings(count: int, wiring: Wiring, ohms: float) -> None:
    assert load(count, wiring).total_ohm == pytest.approx(ohms)


@given(st.integers(1, 8), st.floats(0.5, 100))
def test_series_times_parallel_is_the_square(count: int, ohms: float) -> None:
    product = load(count, Wiring.SERIES, ohms).total_ohm * load(count, Wiring.PARALLEL, ohms).total_ohm
    assert product == pytest.approx(ohms**2)


@pytest.mark.parametrize("count", [1, 2, 3, 5, 7])
def test_series_parallel_needs_pairs(count: int) -> None:
    with pytest.raises(ValidationError, match="4, 6 or 8"):
        load(count, Wiring.SERIES_PARALLEL)


@pytest.mark.parametrize("ohms", [0, -4, float("inf"), float("nan"), 1e9])
def test_absurd_ohms_are_refused(ohms: float) -> None:
    with pytest.raises(ValidationError):
        load(1, Wiring.SERIES, ohms)
