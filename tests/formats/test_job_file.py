"""The job file."""

import json

import pytest

from upper_rook.core.chain import JobSheet
from upper_rook.core.errors import BadInput
from upper_rook.formats.job_file import LARGEST_BYTES, read_job, write_job


def test_round_trip_loses_nothing(sheet: JobSheet) -> None:
    assert read_job(write_job(sheet).encode()) == sheet


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (b"", "Not a job file"),
        (b"[]", "Not a job file"),
        (b"\xff\xfe", "Not a job file"),
        (b"{" * 5000, "Not a job file"),
        (b" " * (LARGEST_BYTES + 1), "at most"),
    ],
)
def test_other_files_get_one_sentence(text: bytes, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        read_job(text)


@pytest.mark.parametrize(
    ("change", "place"),
    [
        ({"colour": "red"}, "colour"),
        ({"format": 3}, "format"),
        ({"choices": {"allowance_percent": 1e308}}, "choices.allowance_percent"),
        ({"chain": {"paths": []}}, "chain"),
    ],
)
def test_what_is_not_known_is_named(sheet: JobSheet, change: dict[str, object], place: str) -> None:
    document = json.loads(write_job(sheet)) | change
    with pytest.raises(BadInput) as refusal:
        read_job(json.dumps(document).encode())
    assert refusal.value.field is not None
    assert refusal.value.field.startswith(place)


def test_a_path_to_nothing_is_named(sheet: JobSheet) -> None:
    document = json.loads(write_job(sheet))
    document["chain"]["paths"][0]["amplifier"] = "elsewhere"
    with pytest.raises(BadInput, match="names “elsewhere”"):
        read_job(json.dumps(document).encode())
