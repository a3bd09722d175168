"""Converter outputs to be trimmed: each once, however many paths go on from it."""

from dataclasses import dataclass

from upper_rook.core.plan.figures import Figures
from upper_rook.core.run.readings.step_keys import converter_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.stages.levels import StageLevel
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import ProcessorKind


@dataclass(frozen=True)
class Trim:
    """An output of a converter, with the first path that goes on from it."""

    key: str
    path: Path
    figures: Figures
    stage: StageLevel
    paths: tuple[str, ...]
    """Every path that goes on from it."""


def trims(snapshot: JobSnapshot) -> tuple[Trim, ...]:
    """
    Every output of a converter whose volts are planned.

    Paths share one that gives the same signal at the same level, unless its outputs have names that tell them apart.
    """
    found: dict[tuple[object, ...], Trim] = {}
    for path in snapshot.sheet.chain.paths:
        figures = snapshot.figures(path.id)
        for place, stage in enumerate(figures.levels.stages if figures else ()):
            if figures is None or stage.processor.kind is not ProcessorKind.CONVERTER or stage.output_v is None:
                continue
            signal = (path.source, path.output, path.also, path.through[: place + 1])
            same = (*signal, round(stage.output_v, 4), path.converter_output.casefold())
            known = found.get(same)
            if known is None:
                key = converter_key(stage.processor.id, path.id)
                found[same] = Trim(key, path, figures, stage, (path.id,))
            else:
                found[same] = Trim(known.key, known.path, known.figures, known.stage, (*known.paths, path.id))
    return tuple(found.values())
