"""Values on the sheet upstream of a point, typed, under the ids of their parts."""

from collections.abc import Iterator

import numpy as np

from upper_rook.core.plan.figures import Figures
from upper_rook.core.run.freshness.dependencies import Dependencies, Dependency, DependencyKind, Value
from upper_rook.core.signal.grid import GRID_HZ
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import INPUT_WORDS
from upper_rook.core.system.processor import ProcessorKind
from upper_rook.core.system.source import Source

_TONE_LABELS = {
    "bass": "bass",
    "mid": "mid",
    "treble": "treble",
    "loudness": "loudness",
    "expander": "expander or leveller",
    "fader": "fader",
    "balance": "balance",
    "sub_level": "sub level",
}


def source_settings(source: Source) -> Dependencies:
    """Settings that move a source's volts and its clean maximum; of the trims those that are not at zero."""
    tone = [
        Dependency(
            place=f"sources.{source.id}.tone.{field}",
            label=label,
            value=getattr(source.tone, field),
            kind=DependencyKind.FLAG if isinstance(getattr(source.tone, field), bool) else DependencyKind.STEPS,
        )
        for field, label in _TONE_LABELS.items()
    ]
    trims = [
        Dependency(
            place=f"sources.{source.id}.inputs.{playing.kind.value}.trim",
            label=f"level trim, {INPUT_WORDS[playing.kind]}",
            value=playing.trim_db,
            kind=DependencyKind.LEVEL,
        )
        for playing in source.inputs
        if playing.trim_db
    ]
    return (*tone, *trims)


def ways_of_playing(source: Source) -> Dependencies:
    """The ways of playing that a clean maximum has to hold for."""
    return tuple(
        Dependency(
            place=f"sources.{source.id}.inputs.{playing.kind.value}", label="way of playing", value=playing.kind.value
        )
        for playing in source.inputs
    )


def output_of(source: Source, output_id: str) -> Dependencies:
    """Output and source, and the signal that leaves it. Its name says nothing."""
    output = next((output for output in source.outputs if output.id == output_id), None)
    name = (output.name if output else "") or "unnamed"
    return (
        Dependency(place="source", label="source", value=source.id, name=source.name or "unnamed"),
        Dependency(place="output", label="source’s output", value=output_id, name=name),
        Dependency(place="output.kind", label="kind of output", value=output.kind.value if output else None),
    )


def on_the_way(chain: Chain, path: Path, figures: Figures) -> Iterator[Dependency]:
    """
    Dependencies between source and speaker terminals, at any frequency that reaches them.

    At any, not at the tone of the gain alone, and with the amplifier's filters as they are to be left: whatever changes
    on the way, the gain is done again (common practice, no source).
    """
    amplifier = chain.amplifier_of(path)
    fields: tuple[tuple[str, str, Value, str | None], ...] = (
        ("through", "converter or processor", ", ".join(path.through) or None, _names(chain, path)),
        ("amplifier", "amplifier", path.amplifier, amplifier.name or "unnamed"),
        ("section", "amplifier’s section", path.section, None),
        ("input", "amplifier’s input", path.input.value, f"{path.input.value} level"),
        ("routing", "input routing", amplifier.routing.value if amplifier.routing else None, None),
        ("leads", "signal leads (RCA)", path.leads, None),
        ("also", "outputs summed with it", ", ".join(path.also) or None, None),
        ("mode", "channels used", path.mode.value, None),
    )
    for field, label, value, name in fields:
        yield Dependency(place=field, label=label, value=value, name=name)
    sides = chain.output_of(path).sides.value
    yield Dependency(place="output.sides", label="sides of the output", value=sides)
    level = DependencyKind.LEVEL
    yield Dependency(place="output.level", label="output’s own level", value=chain.output_of(path).level_db, kind=level)
    apart = path.right.gain_db - path.left.gain_db
    yield Dependency(place="sides", label="right side against the left", value=apart, kind=level)
    knob = amplifier.bass_knob.stands_db if amplifier.bass_knob else 0.0
    yield Dependency(place="level-knob", label="remote level knob", value=knob, kind=level)
    levels = figures.levels
    trimmed = False
    for stage in levels.stages:
        trimmed = stage.processor.kind is ProcessorKind.CONVERTER
        if trimmed and stage.output_v is not None:
            yield Dependency(
                place=f"processors.{stage.processor.id}.trim",
                label="converter’s output",
                value=stage.output_v,
                kind=DependencyKind.VOLTS,
            )
    # Behind a converter's trim only what differs between frequencies is left of equaliser, gain and filters.
    response_db = levels.shape.in_use_db[: GRID_HZ.size] - (levels.peak_db if trimmed else 0.0)
    yield Dependency(
        place="response",
        label="equaliser, gains, filters and boost",
        value=tuple(np.round(response_db, 3).tolist()),
        kind=DependencyKind.RESPONSE,
    )


def _names(chain: Chain, path: Path) -> str | None:
    return ", ".join(processor.name or "unnamed" for processor in chain.processors_of(path)) or None
