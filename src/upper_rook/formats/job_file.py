"""
The job file: a job's sheet as JSON, in a format with a version and a published schema.

What this version doesn't know is told, never dropped: an unknown field is an error at its place, and so is a newer
version. Everything that is wrong is told at once, by the part that it belongs to.
"""

import codecs
import json
import re
from collections.abc import Iterator
from typing import Any

from pydantic import ValidationError

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.labels import label_at
from upper_rook.core.common.refusals import Refused, refusals
from upper_rook.core.plan.plan import Plan
from upper_rook.core.system.job_sheet import FORMAT, JobSheet
from upper_rook.core.system.older_formats import brought_up

LARGEST_BYTES = 1_000_000
_MOST_TOLD = 12
_NOT_A_JOB = "Not a job file that this version reads"


class UnreadableJob(BadInput):
    """A file with things wrong in it; `each` has all of them."""

    def __init__(self, each: list[Refused], words: list[str]) -> None:
        told = words[:_MOST_TOLD]
        more = f"; and {len(words) - len(told)} more" if len(words) > len(told) else ""
        super().__init__(f"{_NOT_A_JOB}: {'; '.join(told)}{more}.", each[0].place)
        self.each = tuple(each)


def read_job(text: bytes) -> JobSheet:
    """The sheet in `text`. Raises BadInput with a sentence and the field."""
    if len(text) > LARGEST_BYTES:
        raise BadInput(f"A job file has at most {LARGEST_BYTES:,} bytes; this one has {len(text):,}.")
    document = _parsed(_decoded(text))
    if not isinstance(document, dict):
        raise BadInput(f"{_NOT_A_JOB}: it is a list or a single value, not a job.")
    _refuse_newer(document)
    # The schema that a file names for its editor is no part of the job.
    document = brought_up({key: value for key, value in document.items() if key != "$schema"})
    try:
        sheet = JobSheet.model_validate(document)
    except ValidationError as error:
        raise _unreadable(document, refusals(error.errors(include_url=False))) from None
    mistaken = list(_mistaken(document, sheet.model_dump(mode="json"), ""))
    if mistaken:
        raise _unreadable(document, mistaken)
    return sheet


def _decoded(text: bytes) -> str:
    """UTF-8 with or without a byte-order mark, or UTF-16 with one."""
    wide = text.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE))
    try:
        return text.decode("utf-16" if wide else "utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput(f"{_NOT_A_JOB}: it isn't text in UTF-8.") from None


def _parsed(text: str) -> Any:
    try:
        return json.loads(text, object_pairs_hook=_each_once, parse_constant=_no_constant)
    except json.JSONDecodeError as error:
        where = f"line {error.lineno}, column {error.colno}"
        number = re.search(r"(\d+),\s*$", text[: error.pos])
        rest = re.match(r"\d+", text[error.pos :])
        if number and rest:
            written, meant = f"{number[1]},{rest[0]}", f"{number[1]}.{rest[0]}"
            raise BadInput(
                f"{_NOT_A_JOB}: {where}: {written} has a decimal comma; in this file write {meant}."
            ) from None
        raise BadInput(f"{_NOT_A_JOB}: it isn't JSON at {where}.") from None
    except RecursionError:
        raise BadInput(f"{_NOT_A_JOB}: it is nested too deeply.") from None


def _each_once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key in found:
            raise BadInput(f"{_NOT_A_JOB}: “{key[:40]}” stands there twice in one group: take one out.", key[:40])
        found[key] = value
    return found


def _no_constant(word: str) -> Any:
    raise BadInput(f"{_NOT_A_JOB}: {word} isn't a number.")


def _refuse_newer(document: dict[str, Any]) -> None:
    """A file of a later version is told as that, not by the first field that is new."""
    version = document.get("format")
    if isinstance(version, int) and not isinstance(version, bool) and version > FORMAT:
        raise BadInput(
            f"This job file has format {version}; this Upper Rook reads format {FORMAT}: bring it up to date.",
            "format",
        )


def _mistaken(given: Any, taken: Any, place: str) -> Iterator[Refused]:
    """What passes for a number in the model and isn't one in the file: true, or a number in quotes."""
    if isinstance(given, dict) and isinstance(taken, dict):
        for key, value in given.items():
            yield from _mistaken(value, taken.get(key), f"{place}.{key}" if place else key)
    elif isinstance(given, list) and isinstance(taken, list):
        for number, (one, other) in enumerate(zip(given, taken, strict=False)):
            yield from _mistaken(one, other, f"{place}.{number}")
    elif isinstance(given, bool) and not isinstance(taken, bool):
        yield Refused(place, f"must be a number (it is {str(given).lower()})")
    elif isinstance(given, str) and isinstance(taken, int | float):
        yield Refused(place, f"must be a number without quotes (it is “{given[:20]}”)")
    elif isinstance(taken, bool) and not isinstance(given, bool):
        yield Refused(place, "must be true or false")


def _unreadable(document: dict[str, Any], each: list[Refused]) -> UnreadableJob:
    return UnreadableJob(each, [_in_words(document, one) for one in each])


def _in_words(document: dict[str, Any], one: Refused) -> str:
    """A refusal by the part's name and the field's label: "Rear, amplifier's rating, watts must be at least 0.1"."""
    label = label_at(JobSheet, one.place) if one.place else "the file"
    who = _whose(document, one.place)
    if one.sentence.startswith("isn't known"):
        return f"{who}this version doesn't know “{one.place.rpartition('.')[2]}”"
    words = f"“{one.place}”" if label == one.place else label[0].lower() + label[1:]
    # A rule of the whole value is a sentence of its own; the rest goes on from its name.
    goes_on = re.match(r"(must|has|have|needs|is|may|can't|holds) ", one.sentence)
    return f"{who}{words}{' ' if goes_on else ': '}{one.sentence}"


def _whose(document: dict[str, Any], place: str) -> str:
    """The name of the path or part that a place belongs to, where it has one."""
    found = re.match(r"chain\.(sources|processors|amplifiers|loads|paths)\.(\d+)", place)
    chain = document.get("chain")
    if not found or not isinstance(chain, dict):
        return ""
    parts, number = chain.get(found[1]), int(found[2])
    part = parts[number] if isinstance(parts, list) and number < len(parts) else None
    if not isinstance(part, dict):
        return ""
    name = _using(chain, found[1][:-1], part.get("id")) or part.get("name") or part.get("id")
    return f"{str(name)[:80]}, " if isinstance(name, str) and name else ""


def _using(chain: dict[str, Any], kind: str, part: Any) -> str:
    """The name of the path that uses an amplifier or speakers, as a fitter would call them."""
    if kind not in ("amplifier", "load"):
        return ""
    paths = chain.get("paths")
    rows = (one for one in paths if isinstance(one, dict)) if isinstance(paths, list) else ()
    return next((str(one.get("name") or "") for one in rows if one.get(kind) == part), "")


def job_schema() -> dict[str, Any]:
    """The JSON Schema of a job file; every field has a description, its label where it needs no more."""
    schema = _described(JobSheet.model_json_schema())
    schema |= {"title": "Upper Rook job file", "$id": f"upper-rook-job-{FORMAT}"}
    # An editor is told by the file itself which schema it follows.
    own = {"$schema": {"type": "string", "description": "Where the schema of this file is, for an editor."}}
    schema["properties"] = own | schema["properties"]
    return schema


def plan_schema() -> dict[str, Any]:
    """The JSON Schema of what `plan --json` prints."""
    contract = Plan.model_fields["contract"].default
    schema = _described(Plan.model_json_schema(mode="serialization"))
    return schema | {"title": "Upper Rook plan", "$id": f"upper-rook-plan-{contract}"}


def _described(schema: dict[str, Any]) -> dict[str, Any]:
    for model in (schema, *schema.get("$defs", {}).values()):
        for name, field in model.get("properties", {}).items():
            words = str(field.get("label") or name.replace("_", " "))
            field.setdefault("description", f"{words[0].upper()}{words[1:]}.")
    return schema


def write_job(sheet: JobSheet) -> str:
    """The sheet as JSON text."""
    return sheet.model_dump_json(indent=2) + "\n"
