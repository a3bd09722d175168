"""Recordings: any PCM or float width, with a full-scale voltage."""

import io

import numpy as np
import pytest
import soundfile

from tests.core.waves import sine
from upper_rook.core.common.errors import BadInput
from upper_rook.formats.capture_reader import read_capture


def wav(subtype: str, channels: int = 1, container: str = "WAV") -> bytes:
    wave = sine(count=4800, peak=0.8)[0]
    file = io.BytesIO()
    soundfile.write(file, np.column_stack([wave] * channels), 48_000, subtype=subtype, format=container)
    return file.getvalue()


@pytest.mark.parametrize("subtype", ["PCM_U8", "PCM_16", "PCM_24", "PCM_32", "FLOAT", "DOUBLE"])
@pytest.mark.parametrize("container", ["WAV", "WAVEX", "RF64"])
def test_every_width_means_the_same_volts(subtype: str, container: str) -> None:
    told: list[int] = []
    (trace,) = read_capture(io.BytesIO(wav(subtype, container=container)), 12.0, told.append)
    assert trace.rate_hz == 48_000
    assert trace.volts == pytest.approx(
        12 * sine(count=4800, peak=0.8)[0], abs=12 / 120 if subtype == "PCM_U8" else 1e-3
    )
    assert (trace.limits_v is None) is (subtype in ("FLOAT", "DOUBLE"))
    assert told[-1] == 4800


def test_channels_are_named() -> None:
    assert [trace.name for trace in read_capture(io.BytesIO(wav("PCM_16", 2)))] == ["left", "right"]
    assert [trace.name for trace in read_capture(io.BytesIO(wav("PCM_16", 3)))] == ["CH1", "CH2", "CH3"]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (wav("PCM_16")[:30], "can’t be read"),
        (wav("PCM_16")[:44], "no samples"),
        (wav("PCM_16", 17), "at most 16"),
        (b"RIFF" + b"\xff" * 200, "can’t be read"),
    ],
)
def test_a_broken_recording_gets_one_sentence(data: bytes, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        read_capture(io.BytesIO(data))


def test_what_is_not_a_number_in_a_float_file() -> None:
    file = io.BytesIO()
    soundfile.write(file, np.array([0.0, np.nan, 0.5] * 40), 48_000, subtype="FLOAT", format="WAV")
    with pytest.raises(BadInput, match="aren’t numbers"):
        read_capture(io.BytesIO(file.getvalue()))
