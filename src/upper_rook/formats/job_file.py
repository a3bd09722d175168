"""
The job file: a job's sheet as JSON, in a format with a version and a published schema.

What this version doesn't know is told, never dropped: an unknown field is an error at its place, and so is a newer
version.
"""

import json
from typing import Any

from pydantic import ValidationError

from upper_rook.core.common.errors import BadInput, field_within
from upper_rook.core.system.job_sheet import FORMAT, JobSheet

LARGEST_BYTES = 1_000_000


def read_job(text: bytes) -> JobSheet:
    """The sheet in `text`. Raises BadInput with a sentence and the field."""
    if len(text) > LARGEST_BYTES:
        raise BadInput(f"A job file has at most {LARGEST_BYTES:,} bytes; this one has {len(text):,}.")
    _refuse_newer(text)
    try:
        return JobSheet.model_validate_json(text)
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        place = ".".join((*(str(part) for part in first["loc"]), *field_within(first)))
        told = "this version doesn't know this field" if first["type"] == "extra_forbidden" else first["msg"]
        raise BadInput(f"Not a job file that this version reads: {place or 'the document'}: {told}", place) from None


def _refuse_newer(text: bytes) -> None:
    """A file of a later version is told as that, not by the first field that is new."""
    try:
        document = json.loads(text)
    except (ValueError, RecursionError):
        # Not JSON at all, which the reader says better.
        return
    version = document.get("format") if isinstance(document, dict) else None
    if isinstance(version, int) and version > FORMAT:
        raise BadInput(
            f"This job file has format {version}; this Upper Rook reads format {FORMAT}: bring it up to date.",
            "format",
        )


def job_schema() -> dict[str, Any]:
    """The JSON Schema of a job file."""
    return JobSheet.model_json_schema() | {"title": "Upper Rook job file", "$id": f"upper-rook-job-{FORMAT}"}


def write_job(sheet: JobSheet) -> str:
    """The sheet as JSON text."""
    return sheet.model_dump_json(indent=2) + "\n"
