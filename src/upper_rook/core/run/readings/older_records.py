"""Records as earlier versions wrote them, brought up to the present form."""

from typing import Any

_LONGEST_KEY = 40


def brought_up(document: Any) -> Any:
    """A reading of an earlier version (volts and a volume) in the present form; anything else as it is."""
    if not isinstance(document, dict) or "voltage_v" not in document or "value" in document:
        return document
    kept = {name: value for name, value in document.items() if name not in ("voltage_v", "volume")}
    return kept | {"value": document["voltage_v"], "circumstances": {"volume": document.get("volume")}}


def present_step(step: str, chain: Any) -> str:
    """
    The key of a step of an earlier version in the present form.

    `chain` is the document of the system it was taken under, of any format. There was one set of volume steps, at the
    first path's output; the gains' keys were cut at 40 characters: the first path with such a beginning is meant.
    """
    paths = chain.get("paths", []) if isinstance(chain, dict) else []
    if step == "ceiling" and paths:
        return f"ceiling.{paths[0].get('source')}.{paths[0].get('output', 'line')}"
    for kind in ("gain", "match"):
        if step.startswith(f"{kind}-"):
            for path in paths:
                if f"{kind}-{path.get('id')}"[:_LONGEST_KEY] == step:
                    return f"{kind}.{path['id']}"
    return step
