"""Bodies of requests that several routers take."""

from typing import Any

from pydantic import BaseModel, ConfigDict


def _body(kind: str, schema: str) -> dict[str, Any]:
    """A body as the API's document has it, where the route reads it itself."""
    return {"requestBody": {"required": True, "content": {kind: {"schema": {"type": schema}}}}}


FILE = _body("application/octet-stream", "string")
DOCUMENT = _body("application/json", "object")
TABLE = _body("text/csv", "string")


class InBin(BaseModel):
    """Whether it is to be in the bin."""

    model_config = ConfigDict(extra="forbid")
    there: bool
