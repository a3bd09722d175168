"""The number never to pass: where the source is clean, and where what follows it is too."""

from upper_rook.core.common.units import Frozen, format_hertz, ratio_db
from upper_rook.core.plan.figures import Figures
from upper_rook.core.run.situation import Situation
from upper_rook.core.stages.levels import StageLevel
from upper_rook.core.system.ceilings import PointCeiling

_TOLD_DB = 0.05


class Handed(Frozen):
    """A volume number and what keeps it there."""

    volume: int
    because: str = ""
    """What clips above it before the source does; empty where the source is the first."""


def handed(situation: Situation, source: str) -> Handed | None:
    """The number to hand over for a source; None while its clean maximum isn't known."""
    governing = situation.ceilings.governing(source)
    if governing is None:
        return None
    top = governing.ceiling.volume
    worst = max(_driven(situation, source), key=lambda one: one[1].overdriven_db, default=None)
    if worst is None or worst[1].overdriven_db < _TOLD_DB:
        return Handed(volume=top)
    figures, stage = worst
    at = f" at {format_hertz(stage.overdriven_hz)}" if stage.overdriven_hz else ""
    name, path = stage.processor.name or "the processor", figures.path.name or "a path"
    return Handed(
        volume=_so_far_below(governing, stage.overdriven_db),
        because=(
            f"above it {name}'s output for {path} clips{at}. Its gain {stage.overdriven_db:.1f} dB down there would "
            f"let it go up to {top}"
        ),
    )


def _driven(situation: Situation, source: str) -> list[tuple[Figures, StageLevel]]:
    """Every stage that is driven from the source, with its path."""
    own = [path.id for path in situation.sheet.chain.paths if path.source == source]
    found = [one for path in own if (one := situation.figures(path)) is not None]
    return [(one, stage) for one in found for stage in one.levels.stages]


def _so_far_below(governing: PointCeiling, less_db: float) -> int:
    """The highest number at which the source gives so much less than at its clean maximum."""
    top = governing.ceiling.volume
    full = governing.volts_at(top)
    return next((one for one in range(top, 1, -1) if ratio_db(full, governing.volts_at(one)) >= less_db), 1)
