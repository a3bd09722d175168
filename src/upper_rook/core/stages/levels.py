"""Levels and clean maxima at an amplifier's input, through converters and processors, and the tone to measure at."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import from_db, ratio_db
from upper_rook.core.stages.shape import Shape, meter_edges_hz, octaves_apart, shapes
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.loads import Band, Load
from upper_rook.core.system.methods import CONVERTER
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import Processor, ProcessorKind

FLAT_DB = 0.25
"""Levels this near to the highest count as equal to it."""
_SAME_DB = 0.05
"""Levels this near to it count as equally high."""
_SAFE_DB = 0.5
"""So much more may pass at a tone, with filters opened, than ever does in use: the gain then ends as much lower."""


@dataclass(frozen=True)
class StageLevel:
    """The level after one processor, at the tone, with the source at its clean maximum."""

    processor: Processor
    input_v: float | None
    """None while the source's volts aren't known."""
    output_v: float | None
    overdriven_db: float = 0.0
    """How far its output would pass what it gives clean, where that is asked of it most."""
    overdriven_hz: float | None = None
    """Where; None where it is the same everywhere."""
    wanted_v: float | None = None
    """Trim target of a converter, whether or not the converter reaches it."""
    least_v: float = 0.0
    """The least that a converter can be trimmed to with what it gets."""


@dataclass(frozen=True)
class Levels:
    """Volts of the last stage before the amplifier."""

    stages: tuple[StageLevel, ...]
    input_v: float | None
    """At the amplifier, where everything together is highest; None while the source's volts aren't known."""
    highest_input_v: float | None
    """At the amplifier, where what lies before it is highest: never less."""
    shape: Shape
    peak_hz: float | None
    """The best frequency to set the gain at, as high as any; None where the tone of habit is as good."""
    peak_db: float
    """Levels before the amplifier, at the frequency where everything together is highest."""
    highest_db: float
    """Everything together there: what the gain has to leave room for."""
    highest_hz: float
    """Where that is."""

    @property
    def is_uneven(self) -> bool:
        """Whether some frequencies come out higher than others."""
        return float(self.shape.in_use_db.max() - self.shape.in_use_db.min()) > FLAT_DB

    @property
    def shaped(self) -> bool:
        """Whether anything on the way shapes the signal."""
        return self.shape.shaped

    def before_db(self, frequency_hz: float) -> float:
        """Levels before the amplifier, at one frequency."""
        return float(self.shape.before_db[self.shape.place(frequency_hz)])

    def boost_db(self, frequency_hz: float) -> float:
        """The amplifier's boost at one frequency."""
        return float(self.shape.boost_db[self.shape.place(frequency_hz)])


def levels(
    chain: Chain,
    path: Path,
    source_v: float | None,
    choices: Choices,
    *,
    shape: Shape | None = None,
    turn_down: float = 1.0,
) -> Levels:
    """
    Levels with `source_v` out of the source; each stage's output is held to what it gives clean.

    `shape` is the path's of shapes(), where that is at hand already. `turn_down` is how many times the volts printed at
    fully down the gain can still turn down to the target.
    """
    found = shape or shapes(chain, choices, (path,))[0]
    habit = habit_hz(choices, chain.load_of(path))
    top = int(np.argmax(found.in_use_db))
    highest_db, peak_db = float(found.in_use_db[top]), float(found.before_db[top])
    best = found.tone_hz(_tone_place(found, highest_db, habit, choices))
    run = _Run(chain, path, source_v, choices, turn_down)
    most = int(np.argmax(found.before_db))
    stages = run.stages(peak_db)
    hottest = run.stages(float(found.before_db[most])) if found.before_db[most] > peak_db else stages
    uneven = float(found.before_db.max() - found.before_db.min()) > FLAT_DB
    return Levels(
        stages=tuple(
            StageLevel(
                stage.processor,
                stage.input_v,
                stage.output_v,
                overdriven_db=worst.overdriven_db,
                overdriven_hz=found.tone_hz(most) if uneven else None,
                wanted_v=stage.wanted_v,
                least_v=stage.least_v,
            )
            for stage, worst in zip(stages, hottest, strict=True)
        ),
        input_v=stages[-1].output_v if stages else source_v,
        highest_input_v=_at_end(hottest, source_v, float(found.before_db[most]) - peak_db),
        shape=found,
        peak_hz=None if best == habit else best,
        peak_db=peak_db,
        highest_db=highest_db,
        highest_hz=found.tone_hz(top),
    )


def stages_of(
    chain: Chain, path: Path, source_v: float, choices: Choices, *, gain_db: float, turn_down: float
) -> list[StageLevel]:
    """Every stage with `source_v` out of the source, where gains and bands come to `gain_db`; see levels()."""
    return _Run(chain, path, source_v, choices, turn_down).stages(gain_db)


def _at_end(stages: list[StageLevel], source_v: float | None, more_db: float) -> float | None:
    last = stages[-1].output_v if stages else source_v
    # A converter at the end is trimmed where the tone is; what was lifted before it comes out higher.
    lifted = bool(stages) and stages[-1].processor.kind is ProcessorKind.CONVERTER and len(stages) > 1
    return last * from_db(more_db) if last is not None and lifted else last


def habit_hz(choices: Choices, load: Load) -> float:
    """The tone that is played by habit into such speakers."""
    return choices.sub_tone_hz if load.band is Band.SUB else choices.full_tone_hz


def _tone_place(shape: Shape, highest_db: float, habit: float, choices: Choices) -> int:
    """
    Where to set the gain: a frequency as high as any, the nearest to habit that the meter at hand is made for.

    The band of the filters that stay comes first, then the meter. Where nobody knows whether a filter can be
    opened, a frequency is preferred that it passes in any case.
    """
    low, high = meter_edges_hz(choices)
    read = (shape.hertz >= low) & (shape.hertz <= high)
    below = highest_db - shape.opened_db
    near = (below >= -_SAFE_DB) & (below <= FLAT_DB)
    wanted: list[NDArray[np.bool_]]
    if shape.unsure:
        sure = highest_db - shape.in_use_db <= FLAT_DB
        wanted = [near & read & sure, near & read, near & sure, near]
    elif shape.lifted:
        # A band's top is met exactly; a plateau is as good anywhere.
        same = near & (below <= _SAME_DB)
        wanted = [same & read, near & read, same, near]
    else:
        wanted = [near & read, near]
    # Opened filters may leave nothing that is just as high: then what passes most.
    places = next(
        (np.flatnonzero(values) for values in wanted if values.any()), np.array([int(np.argmax(shape.in_use_db))])
    )
    return int(places[np.argmin(octaves_apart(shape.hertz[places], habit))])


@dataclass(frozen=True)
class _Run:
    """A path with a voltage at its beginning."""

    chain: Chain
    path: Path
    source_v: float | None
    choices: Choices
    turn_down: float

    def stages(self, gain_db: float) -> list[StageLevel]:
        """Every stage where all gains and bands come to `gain_db`."""
        volts, found = self.source_v, []
        given: float | None
        processors = self.chain.processors_of(self.path)
        shaper = self.chain.shaper_of(self.path)
        digital = self.chain.is_digital(self.path)
        for place, processor in enumerate(processors):
            own_db = gain_db if processor is shaper else 0.0
            if digital and place == 0:
                # Full scale is its own highest output.
                given = processor.highest_output_v * from_db(min(0.0, own_db))
                found.append(StageLevel(processor, None, given, overdriven_db=max(0.0, own_db)))
            elif processor.kind is ProcessorKind.CONVERTER:
                following = processors[place + 1] if place + 1 < len(processors) else None
                least = _least_v(processor, volts)
                wanted = min(max(self._trim_v(processor, following), least), processor.highest_output_v)
                given = _reached_v(processor, volts, wanted)
                found.append(StageLevel(processor, volts, given, wanted_v=wanted, least_v=least))
            else:
                given, over = _passed(processor, volts, own_db)
                found.append(StageLevel(processor, volts, given, overdriven_db=over))
            volts = given
        return found

    def _trim_v(self, converter: Processor, following: Processor | None) -> float:
        """Trim target of a converter's output: no more than the next stage takes."""
        if following is not None:
            accepted = [highest_input_v(following)]
        else:
            amplifier = self.chain.amplifier_of(self.path)
            gain_range = amplifier.range_of(self.path.input)
            # Past what the gain can turn down to the target it would be too much.
            down_v = gain_range.down_v * self.turn_down if gain_range else None
            accepted = [value for value in (amplifier.highest_of(self.path.input), down_v) if value]
        wanted = CONVERTER.of(self.choices).volts_by(self.choices) or converter.highest_output_v
        return min([wanted, *accepted])


def _least_v(converter: Processor, input_v: float | None) -> float:
    """The least it gives: by its output's range, and by its gain's with what it gets."""
    least = converter.lowest_output_v or 0.0
    if input_v is None or converter.lowest_gain_db is None:
        return least
    return max(least, min(input_v, highest_input_v(converter)) * from_db(converter.lowest_gain_db))


def _reached_v(converter: Processor, input_v: float | None, wanted_v: float) -> float:
    """Volts of a trimmed converter: held back where its own gain is known and ends below."""
    if input_v is None or converter.highest_gain_db is None:
        return wanted_v
    return min(wanted_v, min(input_v, highest_input_v(converter)) * from_db(converter.highest_gain_db))


def _passed(processor: Processor, input_v: float | None, gain_db: float) -> tuple[float | None, float]:
    """Clean volts of a processor, and how far it is asked for more; None while its input isn't known."""
    if input_v is None:
        return None, 0.0
    asked = min(input_v, highest_input_v(processor)) * from_db(processor.unity_db + gain_db)
    return min(asked, processor.highest_output_v), max(0.0, ratio_db(asked, processor.highest_output_v))


def highest_input_v(processor: Processor) -> float:
    """The most a stage's input takes; without bound while its data sheet hasn't been read."""
    return processor.input_top_v or math.inf


def wrong_by_db(found: Levels, frequency_hz: float) -> float:
    """By how much a gain set at this frequency would be too high where everything together is highest."""
    return found.highest_db - float(found.shape.opened_db[found.shape.place(frequency_hz)])
