"""
A source on its own: what a job without a vehicle is about.

Behind every output stands an amplifier and a load in place of those that a vehicle would have, so that it is measured
by the same steps, on the same bench. They are made anew whenever such a sheet is read, and say nothing.
"""

from collections.abc import Iterator
from typing import Any

_LOW_HZ = 250.0
"""An output that ends below is for bass: it is measured with a bass tone."""


def with_stand_ins(chain: dict[str, Any]) -> dict[str, Any]:
    """
    The plain document of a chain of sources, with one amplifier, load and path for every output.

    A source that is no good is left as it is: the reader of the whole refuses it.
    """
    made = [_behind(*output) for output in _outputs(chain.get("sources"))]
    return chain | {kind: [part[kind] for part in made] for kind in ("amplifiers", "loads", "paths")}


def _outputs(sources: Any) -> Iterator[tuple[str, str, dict[str, Any]]]:
    """A key for the stand-in behind it, the source's id, and the output."""
    for place, source in enumerate(_parts(sources)):
        for turn, output in enumerate(_parts(source.get("outputs"))):
            yield f"stand-in-{place}-{turn}", str(source.get("id")), output


def _parts(parts: Any) -> list[dict[str, Any]]:
    return [part for part in parts if isinstance(part, dict)] if isinstance(parts, list | tuple) else []


def _behind(key: str, source: str, output: dict[str, Any]) -> dict[str, dict[str, Any]]:
    highest = output.get("highest_hz")
    bass = isinstance(highest, int | float) and highest <= _LOW_HZ
    name = output.get("name")
    return {
        "amplifiers": {"id": key, "ratings": [{"power_w": 50, "load_ohm": 4}]},
        "loads": {"id": key, "impedance_ohm": 4, "power_w": 50, "band": "sub" if bass else "full"},
        "paths": {
            "id": key,
            "name": name if isinstance(name, str) else "",
            "source": source,
            "output": str(output.get("id")),
            "amplifier": key,
            "load": key,
            "input": "high" if output.get("kind") == "speaker" else "low",
        },
    }
