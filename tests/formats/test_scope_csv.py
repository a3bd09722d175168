"""Scope exports in every common dialect, and what isn't one."""

import io
import math
from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.common.errors import BadInput
from upper_rook.core.signal.trace import Trace
from upper_rook.formats.capture_reader import read_capture
from upper_rook.formats.scope_csv import HEAD_BYTES

RATE = 100_000.0
VOLTS = [2 * math.sin(2 * math.pi * 1000 * place / RATE) for place in range(400)]


def table(row: Callable[[int, float, float], str], head: str = "", end: str = "\n", tail: str = "") -> bytes:
    """A file whose lines are `row(place, seconds, volts)`."""
    lines = [row(place, place / RATE - 1e-3, volts) for place, volts in enumerate(VOLTS)]
    return (head + end.join(lines) + end + tail).encode()


def comma(text: str) -> str:
    return text.replace(".", ",")


DIALECTS = {
    "plain": table(lambda n, t, v: f"{t:.6f},{v:.5f}"),
    "heading with units": table(lambda n, t, v: f"{t:.6f},{v:.5f}", "Time (s),CH1 (V)\n"),
    "second row of units": table(lambda n, t, v: f"{t:.6f},{v:.5f}", "x-axis,1\nsecond,Volt\n"),
    "milliseconds and millivolts": table(
        lambda n, t, v: f"{1e3 * t:.4f};{1e3 * v:.2f}", "Time;Channel A\n(ms);(mV)\n\n"
    ),
    "microseconds": table(lambda n, t, v: f"{1e6 * t:.1f}\t{v:.5f}", "t [µs]\tCH1 [V]\n"),
    "decimal comma": table(lambda n, t, v: comma(f"{t:.6f};{v:.5f}"), "Zeit (s);Kanal 1 (V)\n"),
    "decimal comma and tabs": table(lambda n, t, v: comma(f"{t:.6f}\t{v:.5f}")),
    "exponents": table(lambda n, t, v: f"{t:.8E}, {v:+.6E}", "Time, Volts\n"),
    "carriage returns": table(lambda n, t, v: f"{t:.6f},{v:.5f}", "Time(s),Volt(V)\r\n", "\r\n"),
    "byte order mark": b"\xef\xbb\xbf" + table(lambda n, t, v: f"{t:.6f},{v:.5f}", "Time(s),Volt(V)\n"),
    "sixteen bit text": table(lambda n, t, v: f"{t:.6f}\t{v:.5f}", "Time(s)\tVolt(V)\n").decode().encode("utf-16"),
    "old code page": table(lambda n, t, v: f"{1e6 * t:.1f},{v:.5f}", "Time(us),A (V)\n").replace(b"us", b"\xb5s"),
    "blanks": table(lambda n, t, v: f"  {t:.6f}   {v:9.5f}  ", "time/s volts\n"),
    "quotes": table(lambda n, t, v: f'"{t:.6f}","{v:.5f}"', '"Time (s)","CH1 (V)"\n'),
    "trailing delimiters": table(lambda n, t, v: f"{t:.6f},{v:.5f},", "Time(s),CH1(V),\n"),
    "trailing blank lines": table(lambda n, t, v: f"{t:.6f},{v:.5f}", tail="\n \n,\n,\n"),
    "a last line cut off": table(lambda n, t, v: f"{t:.6f},{v:.5f}", tail="0.0"),
    "long preamble": table(
        lambda n, t, v: f"{t:.6f},{v:.5f}",
        "Model,A7\nSerial,0012\nRecord length,400\nVertical scale,1.0,V\nProbe,10X\n\nTIME,CH1\n",
    ),
    "no time but an interval": table(lambda n, t, v: f"{v:.5f}", "Source,CH1\nSample Interval,1.0E-5,s\nVolts\n"),
    "an interval with a prefix": table(lambda n, t, v: f"{v:.5f}", "Sampling Period: 10us\nCH1(V)\n"),
    "a sample rate": table(lambda n, t, v: f"{1e3 * v:.2f}", "Sample Rate;100 kSa/s\nVertical unit;mV\nCH1 (mV)\n"),
    "an index and an interval": table(lambda n, t, v: f"{n},{v:.5f}", "#,CH1 (V)\nInterval (us),10\nIndex,CH1 (V)\n"),
    "interval below its key": table(
        lambda n, t, v: f"{n},{v:.5f},,", "X,CH1,Start,Increment\nSequence,Volt,-1e-3,1e-5\n"
    ),
    "an index beside the time": table(lambda n, t, v: f"{n},{t:.6f},{v:.5f}", "No,Time(s),CH1(V)\n"),
    "preamble beside the numbers": table(
        lambda n, t, v: f"{['Record Length,400', 'Interval,1e-5', 'Probe,10'][n] if n < 3 else ','},{t:.6f},{v:.5f}"
    ),
    "times of few digits": table(lambda n, t, v: f"{t:.4f},{v:.5f}", "Time(s),Volt(V)\n"),
}


def read(data: bytes) -> list[Trace]:
    return read_capture(io.BytesIO(data))


@pytest.mark.parametrize("name", DIALECTS)
def test_a_dialect(name: str) -> None:
    (trace,) = read(DIALECTS[name])
    assert trace.rate_hz == pytest.approx(RATE, rel=2e-3 if name == "times of few digits" else 1e-6)
    assert trace.volts == pytest.approx(np.array(VOLTS), abs=2e-5)


def test_channels_keep_their_names_and_units() -> None:
    rows = table(lambda n, t, v: f"{t:.6f};{v:.5f};{1000 * v:.3f};7.5", "Zeit;Front left;B;C\n(s);(V);(mV);(V)\n")
    traces = read(rows)
    assert [trace.name for trace in traces] == ["Front left", "B", "C"]
    assert traces[1].volts == pytest.approx(np.array(VOLTS), abs=1e-5)
    assert set(traces[2].volts) == {7.5}


@pytest.mark.parametrize(
    "head",
    [
        "Time (s),CH1 (V),CH2 (A)\n",
        "Time,CH1,CH2\ns,V,A\n",
        "Time (s),CH1 (V),CH2 (dB)\n",
        "AUTO,NO\nTime,CH1,M1 [W]\n",
    ],
)
def test_what_is_not_in_volts_is_no_channel_and_a_setting_no_name(head: str) -> None:
    (trace,) = read(table(lambda n, t, v: f"{t:.6f},{v:.5f},{v / 2:.5f}", head))
    assert trace.name == "CH1"
    assert trace.volts == pytest.approx(np.array(VOLTS), abs=1e-5)
    with pytest.raises(BadInput, match="aren’t volts"):
        read(table(lambda n, t, v: f"{t:.6f},{v:.5f}", "Time (s),CH2 (A)\n"))


def test_numbers_of_samples_are_no_times_wherever_they_begin() -> None:
    numbered = table(lambda n, t, v: f"{n + 22},{v:.5f}", "Sampling period,0.00001\nNo.,CH1 (V)\n")
    assert read(numbered)[0].rate_hz == pytest.approx(RATE)
    with pytest.raises(BadInput, match="no sample interval"):
        read(table(lambda n, t, v: f"{n + 22},{v:.5f}", "No.,CH1 (V)\n"))


def test_times_with_three_digits_stand_still_and_are_even_all_the_same() -> None:
    count = 30_000
    rows = "".join(f"{n / 1e6:.3g},{math.sin(n / 500):.4f}\n" for n in range(count))
    assert read(("time,volt\n" + rows).encode())[0].rate_hz == pytest.approx(1e6, rel=1e-4)
    gap = "".join(f"{(n + 4000 * (n > 15_000)) / 1e6:.3g},{math.sin(n / 500):.4f}\n" for n in range(count))
    with pytest.raises(BadInput, match="uneven"):
        read(("time,volt\n" + gap).encode())


def test_times_with_three_digits_change_their_step_with_each_decade() -> None:
    # From −5.11e-03 to 2.11e-02 the last digit is worth ten times as much past a hundredth of a second.
    rows = "".join(f"{-5.11e-3 + n * 5e-8:.2e},{math.sin(n / 5000):.4f}\n" for n in range(524_288))
    (trace,) = read(("X,CH1\nSecond,Volt,\n" + rows).encode())
    assert trace.rate_hz == pytest.approx(2e7, rel=1e-4)


@pytest.mark.parametrize("place", [1, 5, 200])
def test_a_gap_is_told_wherever_it_is(place: int) -> None:
    rows = "".join(f"{(n + 5000 * (n >= place)) / RATE:.6f},{math.sin(n / 9):.4f}\n" for n in range(400))
    with pytest.raises(BadInput, match="uneven"):
        read(("time,volt\n" + rows).encode())


def test_a_setting_above_a_heading_hides_no_channel() -> None:
    head = "Sampling Frequency (Hz)=,100000,\nInverted =,NO,NO\nTime (s),Voltage (V),Voltage (V)\n"
    trace, other = read(table(lambda n, t, v: f"{t:.6f},{v:.5f},{2 * v:.5f}", head))
    assert (trace.name, other.name) == ("Voltage 1", "Voltage 2")
    assert other.volts == pytest.approx(2 * np.array(VOLTS), abs=1e-4)


def test_a_file_longer_than_its_head_is_read_to_the_end() -> None:
    count = 20_000
    rows = "".join(f"{n / RATE:.6f},{n % 97}\n" for n in range(count))
    assert len(rows) > 3 * HEAD_BYTES
    told: list[int] = []
    (trace,) = read_capture(io.BytesIO(b"Time(s),V\n" + rows.encode()), progress=told.append)
    assert trace.volts.tolist() == [n % 97 for n in range(count)]
    assert told == sorted(told)
    assert told[-1] == len(rows) + len("Time(s),V\n")


LINES = [f"{place / RATE:.6f},{volts:.5f}" for place, volts in enumerate(VOLTS)]


def spoiled(place: int, line: str) -> bytes:
    return "\n".join(["Time(s),CH1(V)", *LINES[:place], line, *LINES[place + 1 :]]).encode()


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"),
        (b"\n\n  \n", "empty"),
        (bytes(range(256)) * 20, "not text"),
        (b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR", "not text"),
        (b"Dear customer,\nthe wave was fine.\n", "No table of numbers"),
        (b"Time,V\n0,1\n0.1,2\n", "2 samples are too few"),
        (spoiled(100, "0.001000,NaN"), "not a number"),
        (spoiled(100, "0.001000,inf"), "not a number"),
        (b"1e999,1\n" * 40, "No table|not a number|interval"),
        (spoiled(100, "0.001000,"), "empty or not a number"),
        (spoiled(100, "0.001000,overload"), "“overload”"),
        (spoiled(100, "0.000001,1.0"), "backwards"),
        (spoiled(100, "0.001000,1,2,3"), "columns differ"),
        ("\n".join(LINES[::-1]).encode(), "backwards"),
        ("\n".join(LINES[:200] + LINES[300:]).encode(), "uneven"),
        ("\n".join(f"0.5,{n}" for n in range(50)).encode(), "sample interval"),
        ("\n".join(f"{n}" for n in range(50)).encode(), "sample interval"),
        (b"Time(s)\n" + "\n".join(f"{n}" for n in range(50)).encode(), "no volts"),
        (b"volume,voltage_v\n20,1.2\n21,1.4\n", "volume-steps"),
        (b"RIFF\x10\0\0\0WAVEfmt ", "WAV file can’t be read"),
    ],
)
def test_what_is_no_capture_gets_one_sentence(data: bytes, said: str) -> None:
    with pytest.raises(BadInput, match=said) as caught:
        read(data)
    assert "\n" not in caught.value.sentence
    assert len(caught.value.sentence) < 200


@given(st.binary(max_size=400))
def test_any_bytes_are_read_or_refused(data: bytes) -> None:
    try:
        traces = read(data)
    except BadInput:
        return
    assert all(np.all(np.isfinite(trace.volts)) and trace.rate_hz > 0 for trace in traces)


CELLS = st.sampled_from(["1", "0.5", "-2,5", "1e-6", "", "NaN", "x", "Time (ms)", '"', "1e999", "#", "µs", " "])


@given(st.lists(st.lists(CELLS, min_size=1, max_size=4), max_size=40), st.sampled_from([",", ";", "\t", " ", "|"]))
def test_any_table_is_read_or_refused(rows: list[list[str]], delimiter: str) -> None:
    try:
        traces = read("\n".join(delimiter.join(row) for row in rows).encode())
    except BadInput:
        return
    assert all(np.all(np.isfinite(trace.volts)) for trace in traces)
