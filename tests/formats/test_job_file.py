"""The job file."""

import json
from pathlib import Path
from typing import Any

import jsonschema_rs
import pytest
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.common.errors import BadInput
from upper_rook.core.plan.plan import plan
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.formats.document import LARGEST_BYTES
from upper_rook.formats.job_file import job_schema, plan_schema, read_job, write_job

EXAMPLES = Path(__file__).parents[2] / "examples"
FIRST = Path(__file__).parents[1] / "shared" / "sheet-format-1.json"


def test_round_trip_loses_nothing(sheet: JobSheet) -> None:
    assert read_job(write_job(sheet).encode()) == sheet


def test_a_file_of_the_first_format_is_brought_up_and_loses_nothing() -> None:
    old = json.loads(FIRST.read_bytes())
    sheet = read_job(FIRST.read_bytes())
    assert sheet.format == 4
    source = sheet.chain.sources[0]
    assert source.outputs[0].rated.v == old["chain"]["sources"][0]["rated_output_v"]
    assert {path.output for path in sheet.chain.paths} == {source.outputs[0].id}
    assert (sheet.vehicle, sheet.note) == (old["vehicle"], old["note"])
    # Everything that both formats have stands unchanged.
    new = json.loads(write_job(sheet))
    assert all(kept(old["chain"][kind], new["chain"][kind]) for kind in ("amplifiers", "loads", "paths"))
    assert kept(old["choices"], new["choices"])
    assert read_job(write_job(sheet).encode()) == sheet


def kept(old: Any, new: Any) -> bool:
    """Whether everything in `old` stands in `new`, which may have more fields."""
    if isinstance(old, dict):
        return all(key in new and kept(value, new[key]) for key, value in old.items())
    if isinstance(old, list):
        return len(old) == len(new) and all(kept(*pair) for pair in zip(old, new, strict=True))
    return bool(old == new)


def test_processors_of_the_first_format_keep_their_volts(sheet: JobSheet) -> None:
    document = json.loads(FIRST.read_bytes())
    document["chain"]["processors"] = [{"id": "p", "highest_input_v": 5, "highest_output_v": 8}]
    document["chain"]["paths"][0]["through"] = ["p"]
    assert read_job(json.dumps(document).encode()).chain.processors[0].highest_input.v == 5


@pytest.mark.parametrize(
    "chain", [None, [], {"sources": None}, {"sources": [3]}, {"sources": {}, "paths": "x"}, {"processors": [[]]}]
)
def test_a_broken_file_of_the_first_format_is_told_and_does_no_harm(chain: object) -> None:
    with pytest.raises(BadInput, match="Not a job file"):
        read_job(json.dumps({"format": 1, "chain": chain}).encode())


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=5),
        lambda inner: (
            st.lists(inner, max_size=3)
            | st.dictionaries(
                st.sampled_from(["format", "chain", "sources", "paths", "id", "outputs"]), inner, max_size=4
            )
        ),
        max_leaves=12,
    )
)
def test_no_document_does_harm(document: object) -> None:
    with pytest.raises(BadInput, match="ob file"):
        read_job(json.dumps(document).encode())


def test_the_schema_is_one_that_accepts_what_is_written(sheet: JobSheet) -> None:
    jsonschema_rs.meta.validate(job_schema())
    validator = jsonschema_rs.validator_for(job_schema())
    document = json.loads(write_job(sheet))
    validator.validate(document)
    assert not validator.is_valid(document | {"colour": "red"})


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
        ({"format": 5}, "format"),
        ({"choices": {"allowance_percent": 1e308}}, "choices.allowance_percent"),
        ({"chain": {"paths": []}}, "chain"),
        ({"choices": {"gain": "by ear"}}, "choices.gain"),
        ({"vehicle": ["a"]}, "vehicle"),
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


def _document() -> dict[str, Any]:
    return json.loads((EXAMPLES / "front-rear-and-sub.json").read_text("utf-8"))


def _refused(text: bytes) -> str:
    with pytest.raises(BadInput) as refusal:
        read_job(text)
    return refusal.value.sentence


def test_everything_that_is_wrong_is_told_at_once_by_its_part() -> None:
    document = _document()
    document["chain"]["amplifiers"][1]["ratings"][0]["power_w"] = -3
    document["chain"]["loads"][0]["impedance_ohm"] = 0
    document["chain"]["paths"][2]["mode"] = "sideways"
    said = _refused(json.dumps(document).encode())
    assert "Rear, amplifier’s rating, watts must be at least 0.1 (it is -3)" in said
    assert "Front, speakers, ohms must be at least 0.1" in said
    assert "Sub, path, channels used must be" in said
    # None of the library's own words.
    assert not any(word in said for word in ("Input should", "Value error", "validation", "pattern"))


@pytest.mark.parametrize(
    ("value", "said"), [(True, "it is true"), ("75", "without quotes"), (None, "must be a number")]
)
def test_what_is_no_number_is_not_taken_for_one(value: object, said: str) -> None:
    document = _document()
    document["chain"]["amplifiers"][0]["ratings"][0]["power_w"] = value
    assert said in _refused(json.dumps(document).encode())


def test_what_other_programs_do_to_a_file_is_understood_or_explained() -> None:
    text = json.dumps(_document())
    for encoded in (text.encode("utf-8-sig"), text.encode("utf-16")):
        assert read_job(encoded) == read_job(text.encode())
    assert "75,5 has a decimal comma; in this file write 75.5" in _refused(
        text.replace('"power_w": 75.0', '"power_w": 75,5').encode()
    )
    assert "“note” appears twice" in _refused(text.replace('"note"', '"note": "x", "note"', 1).encode())
    many = "9" * 5000
    assert "a number in it has 5,000 digits" in _refused(text.replace('"power_w": 75.0', f'"power_w": {many}').encode())
    assert "nested too deeply" in _refused(b"[" * 100_000)
    assert "NaN isn’t a number" in _refused(text.replace('"power_w": 75.0', '"power_w": NaN').encode())
    named = json.dumps({"$schema": "job.schema.json"} | _document())
    assert read_job(named.encode()) == read_job(text.encode())


def test_what_plan_prints_follows_its_schema() -> None:
    for example in EXAMPLES.glob("*.json"):
        found = plan(read_job(example.read_bytes()))
        document = json.loads(found.model_dump_json())
        jsonschema_rs.validate(plan_schema(), document)
        keys = [cause["key"] for cause in document["causes"]]
        assert len(set(keys)) == len(keys)
        paths = {path["path"] for path in document["paths"]}
        assert all(set(cause["paths"]) <= paths for cause in document["causes"])


@pytest.mark.parametrize("schema", [job_schema(), plan_schema()], ids=["job", "plan"])
def test_a_published_schema_describes_every_field(schema: dict[str, Any]) -> None:
    models = (schema, *schema["$defs"].values())
    assert [
        (model.get("title"), name)
        for model in models
        for name, field in model.get("properties", {}).items()
        if not field.get("description")
    ] == []
