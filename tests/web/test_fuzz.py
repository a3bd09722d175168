"""Schemathesis over the API of the real server: no request makes a fault, every answer is as the schema says."""

import json
from pathlib import Path
from uuid import uuid4
from zlib import crc32

import httpx2
import pytest
import schemathesis
from hypothesis import HealthCheck, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from tests.conftest import FEW
from tests.servers import Server


@pytest.fixture(scope="module")
def a_job(server: Server) -> str:
    """A job for the requests to meet."""
    return str(httpx2.post(f"{server.url}/api/jobs", json={"id": str(uuid4())}).json()["id"])


# The live channel never ends, so it can't be answered; test_live has it.
DOCUMENT = Path(__file__).parents[2] / "docs/openapi.json"
schema = schemathesis.openapi.from_dict(json.loads(DOCUMENT.read_text("utf-8"))).exclude(path_regex="/live$")
# Every boundary of every field of every body: thousands of requests, so only where the search is deep.
schema.config.phases.coverage.enabled = settings().max_examples > FEW


@schema.parametrize()
# Each of some hundred ways in is tried: a sixth of the usual examples each.
@settings(max_examples=settings().max_examples // 6, suppress_health_check=list(HealthCheck))
def test_no_request_breaks_it(server: Server, a_job: str, case: schemathesis.Case) -> None:
    # Most requests meet a job that is there, the rest a made-up one.
    if "job_id" in case.path_parameters and crc32(repr(case.body).encode()) % 4:
        case.path_parameters["job_id"] = a_job
    case.call_and_validate(
        base_url=server.url,
        # A paper is drawn by one at a time, and a busy machine takes its time.
        timeout=120,
        checks=[not_a_server_error, content_type_conformance, response_schema_conformance, status_code_conformance],
    )
