"""The keys of steps, from the ids of what they are about; none is ever cut."""

from upper_rook.core.system.source import InputKind


def ceiling_key(source: str, output: str, way: InputKind | None = None) -> str:
    """The ladder at an output of a source, by a way of playing where that is told."""
    own = f"ceiling.{source}.{output}"
    return own if way is None else f"{own}.{way.value.replace('_', '-')}"


def gain_key(path: str) -> str:
    """The gain of a path."""
    return f"gain.{path}"


def match_key(path: str) -> str:
    """The other channel of a path."""
    return f"match.{path}"


def factory_key(source: str, output: str) -> str:
    """The wires of a factory system."""
    return f"factory.{source}.{output}"


BLEND_KEY = "blend"


def converter_key(processor: str, path: str) -> str:
    """The output of a converter on a path."""
    return f"converter.{processor}.{path}"


def corner_key(path: str, place: int) -> str:
    """A filter of a path, by its place among them."""
    return f"corner.{path}.{place}"


def prove_key(path: str) -> str:
    """Everything in use on a path."""
    return f"prove.{path}"
