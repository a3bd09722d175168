"""The clean maximum by kind of output: line outputs and a source's own amplifier end at different numbers."""

from collections.abc import Iterable

from upper_rook.core.common.units import Frozen
from upper_rook.core.system.source import OutputKind

KIND_WORDS = {
    OutputKind.LINE: "line outputs",
    OutputKind.SPEAKER: "speaker outputs",
    OutputKind.DIGITAL: "digital outputs",
}


class KindLimit(Frozen):
    """The number never to pass while outputs of one kind are used."""

    kind: OutputKind
    words: str
    volume: int


def kind_limits(measured: Iterable[tuple[OutputKind, int]]) -> tuple[KindLimit, ...]:
    """
    The lowest clean number of each kind of output; nothing where all are of one kind.

    >>> [one.volume for one in kind_limits([(OutputKind.LINE, 31), (OutputKind.SPEAKER, 22), (OutputKind.LINE, 30)])]
    [30, 22]
    """
    lowest: dict[OutputKind, int] = {}
    for kind, volume in measured:
        lowest[kind] = min(lowest.get(kind, volume), volume)
    if len(lowest) < 2:
        return ()
    return tuple(
        KindLimit(kind=kind, words=KIND_WORDS[kind], volume=lowest[kind]) for kind in OutputKind if kind in lowest
    )
