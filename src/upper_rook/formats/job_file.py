"""The job file: a job's sheet as JSON."""

from pydantic import ValidationError

from upper_rook.core.chain import JobSheet
from upper_rook.core.errors import BadInput

LARGEST_BYTES = 1_000_000


def read_job(text: bytes) -> JobSheet:
    """The sheet in `text`. Raises BadInput with a sentence and the field."""
    if len(text) > LARGEST_BYTES:
        raise BadInput(f"A job file has at most {LARGEST_BYTES:,} bytes; this one has {len(text):,}.")
    try:
        return JobSheet.model_validate_json(text)
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        place = ".".join(str(part) for part in first["loc"])
        raise BadInput(
            f"Not a job file that this version reads: {place or 'the document'}: {first['msg']}", place
        ) from None


def write_job(sheet: JobSheet) -> str:
    """The sheet as JSON text."""
    return sheet.model_dump_json(indent=2) + "\n"
