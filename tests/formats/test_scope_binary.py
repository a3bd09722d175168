"""Oscilloscopes' own binary files: read where their packages are, refused with what to do where not."""

import io
from contextlib import suppress
from importlib.util import find_spec

import numpy as np
import pytest
from nptdms import ChannelObject, TdmsWriter

from upper_rook.core.common.errors import BadInput
from upper_rook.core.run.readings.kept_captures import CaptureKind
from upper_rook.core.signal.trace import Trace
from upper_rook.formats.capture_reader import HEAD_BYTES, kind_of, read_capture
from upper_rook.formats.scope_binary import INSTEAD

VOLTS = 2.5 * np.sin(2 * np.pi * np.arange(2000) / 97)


def tdms(**properties: object) -> bytes:
    out = io.BytesIO()
    with TdmsWriter(out) as writer:
        writer.write_segment([ChannelObject("bench", "amplifier", VOLTS, properties=properties)])
    return out.getvalue()


def read(data: bytes) -> list[Trace]:
    return read_capture(io.BytesIO(data))


def test_a_binary_file_gives_channels_volts_and_rate() -> None:
    data = tdms(wf_increment=2e-5, unit_string="V")
    assert kind_of(data[:HEAD_BYTES]) is CaptureKind.BINARY
    (trace,) = read(data)
    assert (trace.name, trace.rate_hz) == ("amplifier", pytest.approx(50_000))
    assert trace.volts == pytest.approx(VOLTS)


@pytest.mark.parametrize("properties", [{"unit_string": "V"}, {"wf_increment": 2e-5, "unit_string": "A"}])
def test_without_volts_or_an_interval_it_says_so(properties: dict[str, object]) -> None:
    with pytest.raises(BadInput, match="no channel in volts"):
        read(tdms(**properties))


@pytest.mark.parametrize("data", [b"\x89PNG\0\0\0" * 50, b"\0" * 4000, b"RG03\0\0" + bytes(range(256)) * 9])
def test_what_no_reader_knows_says_what_to_export_instead(data: bytes) -> None:
    with pytest.raises(BadInput) as refused:
        read(data)
    assert INSTEAD in refused.value.sentence
    if find_spec("RigolWFM") is None:
        assert "./rook setup scopes" in refused.value.sentence


def test_a_broken_binary_file_is_refused_or_read_and_never_a_fault() -> None:
    dice, whole = np.random.default_rng(2), bytearray(tdms(wf_increment=2e-5, unit_string="V"))
    for turn in range(12):
        broken = bytearray(whole[: len(whole) // 2] if turn == 0 else whole)
        for place in dice.integers(4, min(300, len(broken)), size=turn):
            broken[place] = dice.integers(0, 256)
        with suppress(BadInput):
            assert all(trace.volts.size and trace.rate_hz > 0 for trace in read(bytes(broken)))
