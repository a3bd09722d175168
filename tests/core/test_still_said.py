"""Volume steps look at few of many readings of a number: all others may be left out and nothing is said otherwise."""

from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.run.clean_maxima import volume_step_state as module
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Evidence, Eye, Quantity, Reading

ONE = st.tuples(
    st.integers(10, 14),
    st.sampled_from([1.0, 1.3, 1.31, 2.0, 2.6]),
    st.sampled_from(list(Eye)),
    st.sampled_from([None, Evidence.EYE, Evidence.EAR, Evidence.LAMP]),
    st.integers(1, 2),
)


def reading(place: int, told: tuple[int, float, Eye, Evidence | None, int]) -> Reading:
    volume, volts, seen, evidence, version = told
    return Reading.model_validate(
        {
            "id": UUID(int=place + 1),
            "step": "ceiling.source.line",
            "value": volts,
            "uncertainty": 0.01,
            "instrument": "true-rms",
            "point": OutputPoint(source="source", output="line"),
            "circumstances": Circumstances(volume=volume),
            "quantity": Quantity.AC_VOLTS,
            "seen": seen,
            "evidence": evidence,
            "sheet_version": version,
            "taken_at": "2026-05-01T09:00:00Z",
            "arrival": place + 1,
        }
    )


@given(st.lists(ONE, max_size=40))
def test_what_is_left_out_changes_nothing(told: list[tuple[int, float, Eye, Evidence | None, int]]) -> None:
    readings = [reading(place, one) for place, one in enumerate(told)]
    found = module.volume_step_state(readings, 40)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(module, "_still_said", lambda every: every)
        assert module.volume_step_state(readings, 40) == found


def test_of_thousands_a_few_are_looked_at() -> None:
    readings = [reading(place, (10 + place % 5, 1.0, Eye.CLEAN, Evidence.EYE, 1)) for place in range(3000)]
    assert len(module._still_said(readings)) <= 20
