"""Sheets of earlier formats, brought up to the present one."""

from typing import Any


def brought_up(document: Any) -> Any:
    """`document` in the present format if it is a sheet of an earlier one; anything else as it is."""
    if not isinstance(document, dict):
        return document
    version, chain = document.get("format"), document.get("chain")
    if version not in (1, 2, 3) or isinstance(version, bool):
        return document
    # Format 3 knew of no sheets from the library; all it says still holds.
    if isinstance(chain, dict) and version < 3:
        chain = _from_second(_from_first(chain) if version == 1 else chain)
    return document | {"format": 4} | ({} if chain is None else {"chain": chain})


def _from_second(chain: dict[str, Any]) -> dict[str, Any]:
    """Format 2 had the routing switch on the path; then each path had an amplifier of its own."""
    stands = {
        path.get("amplifier"): path["routing"]
        for path in _dicts(chain.get("paths"))
        if path.get("routing") is not None and isinstance(path.get("amplifier"), str)
    }
    return chain | {
        "paths": _each(
            chain.get("paths"), lambda path: {key: value for key, value in path.items() if key != "routing"}
        ),
        "amplifiers": _each(
            chain.get("amplifiers"),
            lambda path: path | ({"routing": stands[path["id"]]} if path.get("id") in list(stands) else {}),
        ),
    }


def _dicts(parts: Any) -> list[dict[str, Any]]:
    return [part for part in parts if isinstance(part, dict)] if isinstance(parts, list | tuple) else []


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
