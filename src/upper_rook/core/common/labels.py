"""Labels of fields, written once, in the model that has the field."""

from collections.abc import Iterator
from typing import Any, get_args

from pydantic import BaseModel, ConfigDict
from pydantic.fields import FieldInfo


class Labels:
    """The trade's words for a part and for each of its fields; they stand in its JSON schema as `label`."""

    def __init__(self, noun: str, fields: dict[str, str]) -> None:
        self.noun = noun
        self.fields = fields

    def __call__(self, schema: dict[str, Any]) -> None:
        """Puts the words into a JSON schema."""
        schema["label"] = self.noun
        for name, words in self.fields.items():
            if name in schema.get("properties", {}):
                schema["properties"][name]["label"] = words


def labelled(noun: str, **fields: str) -> ConfigDict:
    """The part of a model's configuration that carries its words."""
    return ConfigDict(json_schema_extra=Labels(noun, fields))


def labels_of(model: type[BaseModel]) -> Labels | None:
    """A model's words, where it has any."""
    told = model.model_config.get("json_schema_extra")
    return told if isinstance(told, Labels) else None


def stored_fields(model: type[BaseModel]) -> dict[str, FieldInfo]:
    """A model's fields by the names that documents have."""
    return {field.alias or name: field for name, field in model.model_fields.items()}


def label_at(model: type[BaseModel], place: str) -> str:
    """
    The words for a dotted place in a document of `model`: what it belongs to, then its own.

    Parts in a list may be named by their number or by their id.
    """
    words: list[str] = []
    for step in _walk(model, place.split(".")):
        words = step
    return ", ".join(words) if words else place


def _walk(model: type[BaseModel], steps: list[str]) -> Iterator[list[str]]:
    """The words after each step into a document: the innermost part's noun, and the field's own label."""
    nouns: list[str] = []
    current: type[BaseModel] | None = model
    for step in steps:
        field = stored_fields(current).get(step) if current else None
        if current is None or field is None:
            # A number or an id within a list: the part itself.
            yield nouns[-1:]
            continue
        labels = labels_of(current)
        own = labels.fields.get(step, "") if labels else ""
        inner = next(_models_in(field.annotation), None)
        yield [*nouns[-1:], own] if own else nouns[-1:]
        if inner is not None:
            told = labels_of(inner)
            nouns = [*nouns, told.noun] if told and told.noun else nouns
        current = inner


def _models_in(annotation: Any) -> Iterator[type[BaseModel]]:
    """The models that an annotation holds, through optional and list."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for inner in get_args(annotation):
        yield from _models_in(inner)
