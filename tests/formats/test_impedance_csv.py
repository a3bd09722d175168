"""Impedance curves from measuring programs' exports."""

import pytest

from upper_rook.core.common.errors import BadInput
from upper_rook.formats.impedance_csv import MOST_POINTS, read_impedance


@pytest.mark.parametrize(
    "text",
    [
        "20,7.1\n40,5.8\n80,4.2\n",
        "Frequency (Hz);Impedance (Ohm);Phase\n80;4,2;-3,5\n20;7,1;10,2\n40;5,8;4,0\n",
        "\ufeff* export\n* of a box\n20\t7.1\n40\t5.8\n80\t4.2",
        "20 7.1 12\n40 5.8 3\n80 4.2 -2\n",
    ],
)
def test_hertz_and_ohms_however_they_are_written(text: str) -> None:
    curve = read_impedance(text.encode())
    assert [(point.frequency_hz, point.ohm) for point in curve] == [(20, 7.1), (40, 5.8), (80, 4.2)]


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("20,7.1\n40,5.8\n80,\n" + "160,4.4\n" * 9, "Line 3 has no pair of hertz and ohms"),
        ("20,7.1\n40,5.8\n80,-4\n" + "160,4.4\n" * 9, "Line 3: 80 Hz and -4 Ω"),
        ("20\n40\n80\n", "one column of numbers"),
        ("nothing here", "No table of numbers"),
    ],
)
def test_what_is_no_curve_is_said_with_its_line(text: str, told: str) -> None:
    with pytest.raises(BadInput, match=told):
        read_impedance(text.encode())


def test_of_a_long_curve_the_lowest_point_stays() -> None:
    rows = [(20 + number / 10, 3.1 if number == 7777 else 8.0) for number in range(20_000)]
    curve = read_impedance("\n".join(f"{hertz},{ohm}" for hertz, ohm in rows).encode())
    assert len(curve) <= MOST_POINTS
    assert min(point.ohm for point in curve) == 3.1
