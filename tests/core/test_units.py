"""Typed numbers: the same cases that the front end must pass."""

import json
from datetime import UTC
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.moments import Moment
from upper_rook.core.common.units import (
    QUANTITIES,
    format_signed,
    format_value,
    from_db,
    parse_quantity,
    ratio_db,
    volts_for,
    watts_for,
)

CASES = json.loads((Path(__file__).parents[1] / "shared" / "typed_numbers.json").read_text("utf-8"))


@pytest.mark.parametrize(("text", "kind", "value"), CASES["accepted"])
def test_reads_what_people_type(text: str, kind: str, value: float) -> None:
    assert parse_quantity(text, kind) == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(("text", "kind", "reason"), CASES["refused"])
def test_refuses_the_rest_with_a_reason(text: str, kind: str, reason: str) -> None:
    with pytest.raises(BadInput, match=reason):
        parse_quantity(text, kind)


@given(st.text(max_size=40), st.sampled_from(sorted(QUANTITIES)))
def test_any_text_is_a_bounded_number_or_is_refused(text: str, kind: str) -> None:
    try:
        value = parse_quantity(text, kind)
    except BadInput:
        return
    assert QUANTITIES[kind].lowest <= value <= QUANTITIES[kind].highest


@given(st.floats(min_value=1e-4, max_value=999))
def test_what_is_shown_can_be_typed_back(value: float) -> None:
    assert parse_quantity(format_value(value, "V", 7), "volts") == pytest.approx(value, rel=1e-5)


@given(st.floats(min_value=0.1, max_value=20000), st.floats(min_value=0.1, max_value=1000))
def test_volts_and_watts_invert(watts: float, ohms: float) -> None:
    assert watts_for(volts_for(watts, ohms), ohms) == pytest.approx(watts)
    # Twice the ohms at the same watts: 3.01 dB more volts.
    assert ratio_db(volts_for(watts, 2 * ohms), volts_for(watts, ohms)) == pytest.approx(3.0103, abs=1e-4)


@given(st.floats(min_value=-120, max_value=120))
def test_decibels_invert(level_db: float) -> None:
    assert ratio_db(from_db(level_db), 1.0) == pytest.approx(level_db, abs=1e-9)


@pytest.mark.parametrize(
    ("value", "decimals", "text"),
    [(3, None, "+3"), (-0.5, None, "−0.5"), (0, None, "0"), (-0.04, 1, "0.0"), (-2.96, 1, "−3.0"), (6.02, 0, "+6")],
)
def test_signed_figures_have_a_true_minus_and_no_negative_nothing(
    value: float, decimals: int | None, text: str
) -> None:
    assert format_signed(value, decimals) == text


@pytest.mark.parametrize(
    ("text", "kept"),
    [
        # A clock may be decades off.
        ("1970-01-01T00:00:00Z", True),
        ("1969-12-31T23:59:59Z", False),
        ("2199-12-31T23:59:59Z", True),
        # In UTC that is already the next year.
        ("2199-12-31T23:59:59-14:00", False),
        ("9999-12-31T23:59:59-14:00", False),
        ("0001-01-01T00:00:00+14:00", False),
        ("2026-05-01T09:00:00", False),
    ],
)
def test_a_moment_lies_within_reason_where_it_is_kept(text: str, kept: bool) -> None:
    try:
        moment = TypeAdapter(Moment).validate_python(text)
    except ValidationError:
        assert not kept
    else:
        assert kept
        assert moment.tzinfo is UTC
