"""The sheet's models: words for every field, bounds that agree with what may be typed, layouts that hold together."""

from collections.abc import Iterator
from typing import Any, get_args

import annotated_types
import pytest
from pydantic import BaseModel, ValidationError

from tests.core.helpers import LAYOUTS
from upper_rook.core.common.changes import changes
from upper_rook.core.common.finding import Severity
from upper_rook.core.common.labels import label_at, labels_of, stored_fields
from upper_rook.core.common.units import QUANTITIES, BadInput, parse_quantity
from upper_rook.core.plan.plan import plan
from upper_rook.core.signal.filters import EqualiserBand
from upper_rook.core.system.amplifier import Rating
from upper_rook.core.system.chain import Chain, line_output_pair
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.loads import Load
from upper_rook.core.system.new_parts import NEW, new_parts
from upper_rook.core.system.processor import Processor
from upper_rook.core.system.source import ToneSettings


def models_within(model: type[BaseModel], seen: set[type[BaseModel]]) -> Iterator[type[BaseModel]]:
    """`model` and every model that its fields hold."""
    if model in seen:
        return
    seen.add(model)
    yield model
    for field in model.model_fields.values():
        for inner in parts_of(field.annotation):
            yield from models_within(inner, seen)


def parts_of(annotation: Any) -> Iterator[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for inner in get_args(annotation):
        yield from parts_of(inner)


SHEET_MODELS = list(models_within(JobSheet, set()))
FIELDS = [(model, name) for model in SHEET_MODELS for name in stored_fields(model)]


@pytest.mark.parametrize(("model", "name"), FIELDS, ids=[f"{model.__name__}.{name}" for model, name in FIELDS])
def test_every_field_of_a_sheet_has_its_words_in_its_model_and_schema(model: type[BaseModel], name: str) -> None:
    labels = labels_of(model)
    assert labels is not None
    assert labels.fields.get(name)
    assert set(labels.fields) == set(stored_fields(model))
    assert model.model_json_schema()["properties"][name]["label"] == labels.fields[name]


def test_every_change_is_told_in_those_words() -> None:
    before = JobSheet(chain=LAYOUTS["active-three"])
    after = JobSheet(vehicle="x", note="y", chain=LAYOUTS["converter"], choices=Choices(tone_level_dbfs=-3))
    told = changes(before, after)
    assert len(told) > 10
    assert not [change for change in told if change.label == change.place or not change.label]
    assert label_at(JobSheet, "chain.loads.front.power_w") == "Speakers, watts"
    assert label_at(JobSheet, "chain.loads.3.power_w") == "Speakers, watts"
    assert label_at(JobSheet, "chain.amplifiers.rear") == "Amplifier"
    assert label_at(JobSheet, "nowhere") == "nowhere"


@pytest.mark.parametrize(
    ("kind", "model", "field"),
    [
        ("watts", Rating, "power_w"),
        ("ohms", Rating, "load_ohm"),
        ("volts", Processor, "highest_output_v"),
        ("hertz", EqualiserBand, "frequency_hz"),
        ("width", EqualiserBand, "q"),
        ("steps", ToneSettings, "bass"),
        ("percent", Choices, "allowance_percent"),
    ],
)
def test_what_may_be_typed_is_what_the_sheet_takes(kind: str, model: type[BaseModel], field: str) -> None:
    bounds = list(model.model_fields[field].metadata)
    low = next(bound.ge for bound in bounds if isinstance(bound, annotated_types.Ge))
    high = next(bound.le for bound in bounds if isinstance(bound, annotated_types.Le))
    quantity = QUANTITIES[kind]
    assert (quantity.lowest, quantity.highest) == (low, high)
    for edge in (low, high):
        assert parse_quantity(f"{edge:f}", kind) == pytest.approx(edge)
    with pytest.raises(BadInput):
        parse_quantity(f"{high * 1.01:f}", kind)


def test_decibels_and_counts_reach_as_far_as_any_field_of_theirs() -> None:
    # Channel gains go down to −60 dB, sensitivities up to 120 dB; a scale has at most 500 numbers.
    assert (QUANTITIES["decibels"].lowest, QUANTITIES["decibels"].highest) == (-60, 120)
    assert (QUANTITIES["count"].lowest, QUANTITIES["count"].highest) == (1, 500)
    with pytest.raises(ValidationError):
        Load.model_validate({"id": "x", "sensitivity_db": 121})


@pytest.mark.parametrize("layout", LAYOUTS)
def test_a_layout_is_a_system_that_could_be_set_as_it_is(layout: str) -> None:
    planned = plan(JobSheet(chain=LAYOUTS[layout]))
    assert not planned.lacking
    stops = [finding for path in planned.paths for finding in path.findings if finding.severity is Severity.STOP]
    assert not stops
    # Neighbours meet: nobody's band is missing, nobody's is played twice over, nothing fights a passive crossover.
    assert not [finding.key for finding in planned.crossovers.findings if finding.severity is not Severity.NOTE]
    assert all(corner.travel is None or 0 <= corner.travel <= 1 for corner in planned.crossovers.corners)


def test_new_parts_are_middling_and_whole() -> None:
    parts = new_parts()
    assert (parts.source.id, parts.converter.id, parts.source.top_volume) == (NEW, NEW, 40)
    assert (parts.converter.highest_input.v, parts.processor.highest_input.v) == (20, 4)
    assert (parts.converter.highest_output_v, parts.rating.power_w) == (4, 75)
    assert (parts.gain_range.down_v, parts.gain_range.up_v) == (6.0, 0.2)
    assert (parts.high_level_range.down_v, parts.high_level_range.up_v) == (20.0, 1.0)
    assert (parts.dial.lowest_hz, parts.dial.highest_hz) == (30, 250)
    assert (parts.boost.frequency_hz, parts.boost.gain_db, parts.band.gain_db) == (45, 6, 0)
    assert (parts.band.frequency_hz, parts.band.q) == (1000, 1.4)
    # A system of new parts can be planned at once.
    chain = line_output_pair().model_dump(mode="json")
    chain["sources"] = [parts.source.model_dump(mode="json") | {"id": "source"}]
    chain["processors"] = [parts.converter.model_dump(mode="json")]
    chain["paths"][0]["through"] = [NEW]
    chain["amplifiers"][0] |= {"gain_range": parts.gain_range.model_dump(), "ratings": [parts.rating.model_dump()]}
    assert plan(JobSheet(chain=Chain.model_validate(chain))).paths[0].target.value == pytest.approx(15.49, abs=0.01)
