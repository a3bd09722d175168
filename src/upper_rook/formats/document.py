"""
A document of ours: JSON of one model, in a format with a version and a published schema.

Unknown content is reported, never dropped: an unknown field is an error at its place, and so is a newer
version. Everything that is wrong is reported at once, by the part that it belongs to.
"""

import codecs
import json
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from pydantic import BaseModel, ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import label_at
from upper_rook.core.common.refusals import Refused, refusals

LARGEST_BYTES = 1_000_000
_LONGEST_NUMBER = 40
"""Digits of a whole number; Python itself refuses some thousands by an error that isn't a sentence."""
_MOST_TOLD = 12

Document = dict[str, Any]
ModelT = TypeVar("ModelT", bound=BaseModel)


class Unreadable(BadInput):
    """A file with things wrong in it; `refusals` has all of them."""

    def __init__(self, sentence: str, refused: list[Refused]) -> None:
        super().__init__(sentence, refused[0].place)
        self.refusals = tuple(refused)


@dataclass(frozen=True)
class Kind(Generic[ModelT]):
    """A kind of file."""

    model: type[ModelT]
    noun: str
    """Kind of the file: "job"."""
    format: int
    """The newest version."""
    brought_up: Callable[[Document], Document] = dict
    """A document of an earlier version in the present one."""
    whose: Callable[[Document, str], str] = lambda _document, _place: ""
    """The name of the part that a place belongs to, with a comma behind it, where it has one."""

    def refuse(self, why: str, place: str | None = None) -> BadInput:
        """The error that says why a text is no such file."""
        return BadInput(f"Not a {self.noun} file that this version reads: {why}", place)

    def read(self, text: bytes) -> ModelT:
        """Document in `text`. Raises BadInput with a sentence and the field."""
        if len(text) > LARGEST_BYTES:
            raise BadInput(f"A {self.noun} file has at most {LARGEST_BYTES:,} bytes; this one has {len(text):,}.")
        document = self._parsed(self._decoded(text))
        if not isinstance(document, dict):
            raise self.refuse(f"it is a list or a single value, not a {self.noun}.")
        self._refuse_newer(document)
        # The schema that a file names for its editor is no part of it.
        document = self.brought_up({key: value for key, value in document.items() if key != "$schema"})
        try:
            found = self.model.model_validate(document)
        except ValidationError as error:
            raise self._unreadable(document, refusals(error.errors(include_url=False))) from None
        mistaken = list(_mistaken(document, found.model_dump(mode="json"), ""))
        if mistaken:
            raise self._unreadable(document, mistaken)
        return found

    def schema(self) -> Document:
        """The JSON Schema of such a file; every field has a description, its label where it needs no more."""
        schema = described(self.model.model_json_schema())
        schema |= {"title": f"Upper Rook {self.noun} file", "$id": f"upper-rook-{self.noun}-{self.format}"}
        # An editor is told by the file itself which schema it follows.
        own = {"$schema": {"type": "string", "description": "Where the schema of this file is, for an editor."}}
        schema["properties"] = own | schema["properties"]
        return schema

    def _decoded(self, text: bytes) -> str:
        """UTF-8 with or without a byte-order mark, or UTF-16 with one."""
        wide = text.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE))
        try:
            return text.decode("utf-16" if wide else "utf-8-sig")
        except UnicodeDecodeError:
            raise self.refuse("it isn’t text in UTF-8.") from None

    def _parsed(self, text: str) -> Any:
        try:
            return json.loads(
                text, object_pairs_hook=self._each_once, parse_constant=self._no_constant, parse_int=self._whole
            )
        except json.JSONDecodeError as error:
            where = f"line {error.lineno}, column {error.colno}"
            number = re.search(r"(\d+),\s*$", text[: error.pos])
            rest = re.match(r"\d+", text[error.pos :])
            if number and rest:
                written, meant = f"{number[1]},{rest[0]}", f"{number[1]}.{rest[0]}"
                raise self.refuse(f"{where}: {written} has a decimal comma; in this file write {meant}.") from None
            raise self.refuse(f"it isn’t JSON at {where}.") from None
        except RecursionError:
            raise self.refuse("it is nested too deeply.") from None

    def _each_once(self, pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for key, value in pairs:
            if key in found:
                raise self.refuse(f"“{key[:40]}” appears twice in one group: remove one.", key[:40])
            found[key] = value
        return found

    def _whole(self, digits: str) -> int:
        if len(digits) > _LONGEST_NUMBER:
            raise self.refuse(f"a number in it has {len(digits):,} digits: shorten {digits[:12]}….")
        return int(digits)

    def _no_constant(self, word: str) -> Any:
        raise self.refuse(f"{word} isn’t a number.")

    def _refuse_newer(self, document: dict[str, Any]) -> None:
        """A file of a later version is reported as that, not by the first field that is new."""
        version = document.get("format")
        if isinstance(version, int) and not isinstance(version, bool) and version > self.format:
            raise BadInput(
                f"This {self.noun} file has format {version}; this Upper Rook reads format {self.format}: "
                "bring it up to date.",
                "format",
            )

    def _unreadable(self, document: Document, refused: list[Refused]) -> Unreadable:
        told = [self._in_words(document, refusal) for refusal in refused]
        more = f"; and {len(told) - _MOST_TOLD} more" if len(told) > _MOST_TOLD else ""
        return Unreadable(self.refuse(f"{'; '.join(told[:_MOST_TOLD])}{more}.").sentence, refused)

    def _in_words(self, document: Document, refusal: Refused) -> str:
        """A refusal by the part's name and the field's label: "Rear, its rating, watts must be at least 0.1"."""
        label = label_at(self.model, refusal.place) if refusal.place else "the file"
        who = self.whose(document, refusal.place)
        if refusal.sentence.startswith("isn’t known"):
            return f"{who}this version doesn’t know “{refusal.place.rpartition('.')[2]}”"
        words = f"“{refusal.place}”" if label == refusal.place else label[0].lower() + label[1:]
        # A rule of the whole value is a sentence of its own; the rest goes on from its name.
        goes_on = re.match(r"(must|has|have|needs|is|may|can’t|holds) ", refusal.sentence)
        return f"{who}{words}{' ' if goes_on else ': '}{refusal.sentence}"


def _mistaken(given: Any, taken: Any, place: str) -> Iterator[Refused]:
    """Values that pass for a number in the model and aren't one in the file: true, or a number in quotes."""
    if isinstance(given, dict) and isinstance(taken, dict):
        for key, value in given.items():
            yield from _mistaken(value, taken.get(key), f"{place}.{key}" if place else key)
    elif isinstance(given, list) and isinstance(taken, list):
        for number, (sent, other) in enumerate(zip(given, taken, strict=False)):
            yield from _mistaken(sent, other, f"{place}.{number}")
    elif isinstance(given, bool) and not isinstance(taken, bool):
        yield Refused(place, f"must be a number (it is {str(given).lower()})")
    elif isinstance(given, str) and isinstance(taken, int | float):
        yield Refused(place, f"must be a number without quotes (it is “{given[:20]}”)")
    elif isinstance(taken, bool) and not isinstance(given, bool):
        yield Refused(place, "must be true or false")


def described(schema: Document) -> Document:
    """A schema in which every field has a description."""
    for model in (schema, *schema.get("$defs", {}).values()):
        for name, field in model.get("properties", {}).items():
            words = str(field.get("label") or name.replace("_", " "))
            field.setdefault("description", f"{words[0].upper()}{words[1:]}.")
    return schema
