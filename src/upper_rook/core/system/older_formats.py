"""Sheets of earlier formats, brought up to the present one."""

from typing import Any


def brought_up(document: Any) -> Any:
    """`document` in the present format if it is a sheet of an earlier one; anything else as it is."""
    if not isinstance(document, dict):
        return document
    version = document.get("format")
    if version == 2 and version is not True:
        # Format 3 only adds: what a sheet of format 2 doesn't say is what it meant then.
        return document | {"format": 3}
    if version != 1 or version is True:
        return document
    chain = document.get("chain")
    return document | {"format": 3} | ({"chain": _from_first(chain)} if isinstance(chain, dict) else {})


def _from_first(chain: dict[str, Any]) -> dict[str, Any]:
    """Format 1 had one output a source, rated in volts, and processors' inputs in volts."""
    return chain | {
        "sources": _each(chain.get("sources"), _source),
        "processors": _each(chain.get("processors", []), _processor),
        "paths": _each(chain.get("paths"), lambda path: {"output": "line"} | path),
    }


def _each(parts: Any, change: Any) -> Any:
    if not isinstance(parts, list | tuple):
        return parts
    return [change(part) if isinstance(part, dict) else part for part in parts]


def _source(source: dict[str, Any]) -> dict[str, Any]:
    if "rated_output_v" not in source:
        return source
    output = {"id": "line", "name": "Line out", "rated": {"volts": source["rated_output_v"]}}
    return {key: value for key, value in source.items() if key != "rated_output_v"} | {"outputs": [output]}


def _processor(processor: dict[str, Any]) -> dict[str, Any]:
    if "highest_input_v" not in processor:
        return processor
    kept = {key: value for key, value in processor.items() if key != "highest_input_v"}
    return kept | {"highest_input": {"volts": processor["highest_input_v"]}}
