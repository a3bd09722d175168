"""Findings about the outputs of converters that several paths go on from."""

from collections.abc import Iterator

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import ProcessorKind


def converter_findings(chain: Chain) -> Iterator[Finding]:
    """The question whether paths use one output of a converter or several, as long as no output is named."""
    for converter in chain.processors:
        if converter.kind is not ProcessorKind.CONVERTER:
            continue
        alike: dict[tuple[object, ...], list[Path]] = {}
        for path in chain.paths:
            if converter.id in path.through and not path.converter_output:
                before = path.through[: path.through.index(converter.id)]
                alike.setdefault((path.source, path.output, path.also, before), []).append(path)
        for paths in (paths for paths in alike.values() if len(paths) > 1):
            names = " and ".join(path.name or "a path" for path in paths)
            yield Finding(
                kind=FindingKind.CONVERTER_OUTPUTS,
                about=(converter.id,),
                severity=Severity.NOTE,
                title=f"{converter.name or 'The converter'}: do {names} share one output?",
                reason="They get the same signal, so their output is trimmed once where the level is the same too.",
                remedy="Name the output that each uses, as printed beside its plug: outputs of their own are trimmed "
                "one by one.",
                paths=tuple(path.id for path in paths),
            )
