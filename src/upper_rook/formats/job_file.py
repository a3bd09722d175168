"""The job file: a job's sheet as JSON."""

import re
from typing import Any

from upper_rook.core.plan.plan import Plan
from upper_rook.core.system.job_sheet import FORMAT, JobSheet
from upper_rook.core.system.older_formats import brought_up
from upper_rook.formats.document import Kind, described


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
    rows = (path for path in paths if isinstance(path, dict)) if isinstance(paths, list) else ()
    return next((str(row.get("name") or "") for row in rows if row.get(kind) == part), "")


JOB_FILE = Kind(model=JobSheet, noun="job", format=FORMAT, brought_up=brought_up, whose=_whose)


def read_job(text: bytes) -> JobSheet:
    """The sheet in `text`. Raises BadInput with a sentence and the field."""
    return JOB_FILE.read(text)


def job_schema() -> dict[str, Any]:
    """The JSON Schema of a job file."""
    return JOB_FILE.schema()


def plan_schema() -> dict[str, Any]:
    """The JSON Schema of what `plan --json` prints."""
    contract = Plan.model_fields["contract"].default
    schema = described(Plan.model_json_schema(mode="serialization"))
    return schema | {"title": "Upper Rook plan", "$id": f"upper-rook-plan-{contract}"}


def write_job(sheet: JobSheet) -> str:
    """The sheet as JSON text."""
    return sheet.model_dump_json(indent=2) + "\n"
