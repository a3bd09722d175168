"""Volume steps as they are typed, pasted and filed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.common.errors import BadInput
from upper_rook.core.judge.volume_steps_report import VolumeReading
from upper_rook.formats.capture_reader import is_volume_steps
from upper_rook.formats.volume_steps_csv import read_volume_steps

PAIRS = [(20, 1.41), (21, 1.58), (22, 0.95)]
WRITTEN = {
    "as the command line wants it": "volume,voltage_v\n20,1.41\n21,1.58\n22,0.95\n",
    "without a heading": "20,1.41\n21,1.58\n22,0.95",
    "from a spreadsheet": "Volume\tVolts\n20\t1,41\n21\t1,58\n22\t0,95\n",
    "semicolons": "vol;V\n20;1,41\n21;1,58\n22;0,95\n",
    "decimal commas between commas": "20,1,41\n21,1,58\n22,0,95",
    "blanks and units": "20 1.41 V\n21 1.58 V\n22 950 mV",
    "blanks and decimal commas": "20  1,41\n21  1,58\n22  0,95\n",
    "columns the other way": "voltage_v,volume\n1.41,20\n1.58,21\n0.95,22\n",
    "more columns": "note;volume;volts\na;20;1.41\nb;21;1.58\n;22;0.95\n",
    "carriage returns, quotes, a mark": '\ufeff"volume","volts"\r\n"20","1.41"\r\n"21","1.58"\r\n\r\n"22","0.95"\r\n',
}


@pytest.mark.parametrize("name", WRITTEN)
def test_one_volume_steps_in_many_hands(name: str) -> None:
    found = read_volume_steps(WRITTEN[name].encode())
    assert [(reading.volume, reading.voltage_v) for reading in found] == [
        (number, pytest.approx(volts)) for number, volts in PAIRS
    ]
    assert all(reading.average_v is None for reading in found)


@pytest.mark.parametrize("text", ["volume,voltage_v,average_v\n20,1.41,1.43\n", "20;1,41;1,43\n", "20,1,41,1,43"])
def test_a_second_meter(text: str) -> None:
    assert read_volume_steps(text.encode()) == [VolumeReading(volume=20, voltage_v=1.41, average_v=1.43)]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "nothing in it"),
        ("volume,voltage_v\n", "nothing below it"),
        ("hello,world\n1,2\n", "first line is"),
        ("20,1.4\n21,abc\n", "Line 2: “abc”"),
        ("20,1.4\n21\n", "Line 2 has no pair"),
        ("20,1.4\nx21,1.5\n", "Line 2: “x21” isn’t a volume"),
        ("20,-1.4\n", "Line 1"),
        ("20,0\n", "Line 1"),
        ("20,1e999\n", "Line 1"),
        ("9000,1.4\n", "Line 1"),
        ("20,1.4\n21,nan\n", "Line 2"),
        ("\0\1\2\3" * 50, "not text"),
    ],
)
def test_what_is_no_volume_steps_names_the_line(text: str, said: str) -> None:
    with pytest.raises(BadInput, match=said) as caught:
        read_volume_steps(text.encode())
    assert "\n" not in caught.value.sentence


def test_a_volume_steps_is_told_from_a_wave() -> None:
    assert all(is_volume_steps(text.encode()) for name, text in WRITTEN.items() if name != "columns the other way")
    wave = "".join(f"{n / 1000:.3f},{n % 7}\n" for n in range(100))
    for text in (wave, "Time (s),CH1 (V)\n" + wave, "0,1\n1,2\n", "", "x"):
        assert not is_volume_steps(text.encode())


@given(st.binary(max_size=300) | st.text(max_size=200).map(str.encode))
def test_anything_is_read_or_refused(data: bytes) -> None:
    try:
        found = read_volume_steps(data)
    except BadInput:
        return
    assert all(0 <= reading.volume <= 500 and reading.voltage_v > 0 for reading in found)
