"""
Noise at silent terminals, part by part, and what more volts at the source take off it.

Each part's own noise is white from 20 Hz to 20 kHz, as far below its highest output as its data sheet says, or as is
usual. Noises of different parts don't follow each other: their powers add.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen, format_db, format_value, from_db, ratio_db, volts_for
from upper_rook.core.plan.figures import Figures
from upper_rook.core.signal.grid import GRID_HZ
from upper_rook.core.stages.levels import StageLevel, stages_of
from upper_rook.core.system.amplifier import GainRange, NoiseAt
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.processor import ProcessorKind

USUAL_DB = {"source": 95.0, "converter": 90.0, "processor": 100.0, "amplifier": 95.0}
"""Signal-to-noise ratios where no data sheet says one (common practice, no source)."""
MORE_V = 2.0
HEARD_DB = 20.0
"""Noise below this at 1 m isn't heard in a quiet car (common practice, no source)."""
_WORTH_DB = 1.0
_TELLS_DB = 0.05
_STEPS, _MOST_OCTAVES = 2, 4
"""Steps of an octave in which more volts are tried, and how far."""
_ONE_WATT_OHM = 4.0
"""Load of a ratio that refers to 1 W (CTA-2006, from memory)."""
_KINDS = {ProcessorKind.CONVERTER: "converter", ProcessorKind.PROCESSOR: "processor"}


class PartNoise(Frozen):
    """Noise that one part adds at the terminals, volts RMS."""

    name: str
    noise_v: float
    signal_to_noise_db: float
    usual: bool
    """Whether no data sheet says its ratio."""


class ResidualNoise(Frozen):
    """Noise at the terminals of a path with nothing playing and its gain where the plan sets it."""

    noise_v: float
    """Volts RMS, 20 Hz to 20 kHz, unweighted."""
    spl_db: float | None = None
    """Of one side at 1 m; None without a sensitivity."""
    parts: tuple[PartNoise, ...]
    more_v: float = MORE_V
    more_takes_db: float
    """Decibels that `more_v` more clean volts at the source take off it."""
    enough_v: float
    """Clean volts of a source from which more take off less than 1 dB."""
    sentence: str
    because: tuple[str, ...]


@dataclass(frozen=True)
class _Part:
    name: str
    kind: str
    stated_db: float | None
    full_v: float
    """The output that its ratio refers to, at its own output."""
    gain: float
    """From there to the terminals, as a factor."""

    @property
    def ratio_db(self) -> float:
        return USUAL_DB[self.kind] if self.stated_db is None else self.stated_db

    @property
    def noise_v(self) -> float:
        return self.full_v * from_db(-self.ratio_db) * self.gain


def residual_noise(sheet: JobSheet, figures: Figures) -> ResidualNoise | None:
    """The noise of one path; None while volts or scale of its input aren't known, or where there is no gain."""
    gain_range = figures.amplifier.range_of(figures.path.input)
    unknown = figures.source_v is None or not figures.levels.input_v or not figures.driven_v
    if figures.volume_only or unknown or gain_range is None or figures.source_v is None:
        return None
    model = _Model(sheet, figures, gain_range)
    parts = model.parts(figures.source_v)
    noise_v = _total_v(parts)
    more_db = ratio_db(noise_v, _total_v(model.parts(figures.source_v + MORE_V)))
    enough_v = _enough_v(model, figures.source_v)
    spl_db = _spl_db(figures, noise_v)
    most = max(parts, key=lambda part: part.noise_v).name
    return ResidualNoise(
        noise_v=noise_v,
        spl_db=spl_db,
        parts=tuple(
            PartNoise(
                name=part.name,
                noise_v=part.noise_v,
                signal_to_noise_db=part.ratio_db,
                usual=part.stated_db is None,
            )
            for part in parts
        ),
        more_takes_db=more_db,
        enough_v=enough_v,
        sentence=f"{_how_much(noise_v, spl_db)} Most of it comes from {most}. "
        f"{_worth(figures.source_v, more_db, enough_v)}",
        because=tuple(_in_words(part) for part in parts),
    )


class _Model:
    """A path's parts with their gains to the terminals, for any clean volts of its source."""

    def __init__(self, sheet: JobSheet, figures: Figures, gain_range: GainRange) -> None:
        self._sheet, self._figures, self._range = sheet, figures, gain_range
        shape, size = figures.levels.shape, GRID_HZ.size
        in_use_db = shape.in_use_db[:size] - figures.levels.highest_db
        on_amplifier_db = in_use_db - (shape.before_db[:size] - figures.levels.peak_db)
        self._passes = {False: _passes(in_use_db), True: _passes(on_amplifier_db)}
        """Before and after the processor that shapes the path."""
        # Volts at the terminals for a volt at the input with the gain fully down, where everything is highest.
        driven = (figures.driven_v or 0.0) * from_db(figures.overlap_db) / (figures.levels.input_v or 1.0)
        self._down_gain = figures.scale_v / gain_range.down_v * driven

    def parts(self, source_v: float) -> list[_Part]:
        """Every part, if the source gave `source_v` clean and the gain were turned down for it."""
        figures, path, chain = self._figures, self._figures.path, self._sheet.chain
        stages = stages_of(
            chain,
            path,
            source_v,
            self._sheet.choices_of(path),
            gain_db=figures.levels.peak_db,
            turn_down=figures.turn_down,
        )
        # Past what its input takes more volts are turned down again.
        last_v = stages[-1].output_v if stages else source_v
        input_v = min(last_v or 0.0, figures.amplifier.highest_of(path.input) or math.inf)
        turned = self._gain_against_down(input_v)
        full_v = self._down_gain * turned * input_v
        source, shaper = figures.source, chain.shaper_of(path)
        name, stated_db = source.name or "Source", source.signal_to_noise_db
        found = [_Part(name, "source", stated_db, source_v, full_v / source_v * self._passes[False])]
        shaped = False
        for stage in stages:
            shaped = shaped or stage.processor is shaper
            found.append(_of_stage(stage, full_v * self._passes[shaped]))
        return [*found, _amplifier(figures, turned)]

    def _gain_against_down(self, input_v: float) -> float:
        """How many times its gain fully down the amplifier's gain is, with `input_v` at its input."""
        printed_v, before_v = self._figures.knob.printed_v, self._figures.levels.input_v
        if printed_v is None or not before_v:
            return 1.0
        wanted_v = printed_v * input_v / before_v
        return self._range.down_v / min(self._range.down_v, max(self._range.up_v, wanted_v))


def _of_stage(stage: StageLevel, full_v: float) -> _Part:
    processor = stage.processor
    gain = full_v / stage.output_v if stage.output_v else 0.0
    name, kind = processor.name or "Processor", _KINDS[processor.kind]
    return _Part(name, kind, processor.signal_to_noise_db, processor.highest_output_v, gain)


def _amplifier(figures: Figures, turned: float) -> _Part:
    amplifier = figures.amplifier
    full_v = volts_for(1.0, _ONE_WATT_OHM) if amplifier.signal_to_noise_at is NoiseAt.ONE_WATT else figures.rated_v
    # Its ratio is stated with the gain fully down (common practice, no source), and its first stage makes the noise.
    return _Part(amplifier.name or "Amplifier", "amplifier", amplifier.signal_to_noise_db, full_v, turned)


def _passes(level_db: NDArray[np.float64]) -> float:
    """Part of a white noise's volts, 20 Hz to 20 kHz, that a response leaves."""
    weights = GRID_HZ / GRID_HZ.sum()
    return float(np.sqrt(weights @ 10 ** (level_db / 10)))


def _total_v(parts: list[_Part]) -> float:
    return math.sqrt(sum(part.noise_v**2 for part in parts))


def _enough_v(model: _Model, source_v: float) -> float:
    """The least clean volts of a source with which the noise is within 1 dB of the least that any volts make it."""
    tried: list[tuple[float, float]] = []
    for step in range(_STEPS * _MOST_OCTAVES + 1):
        volts = source_v * 2 ** (step / _STEPS)
        noise_v = _total_v(model.parts(volts))
        # It falls until the gain is fully down or a stage is at its top, and rises with the source's own from there.
        if tried and noise_v >= tried[-1][1]:
            break
        tried.append((volts, noise_v))
    return next(volts for volts, noise_v in tried if ratio_db(noise_v, tried[-1][1]) < _WORTH_DB)


def _spl_db(figures: Figures, noise_v: float) -> float | None:
    sensitivity, load = figures.load.sensitivity_1w_db, figures.load
    if sensitivity is None:
        return None
    return sensitivity + 10 * math.log10(load.count) + 10 * math.log10(noise_v**2 / load.total_ohm)


def _in_words(part: _Part) -> str:
    how = "usual: its data sheet’s ratio isn’t typed" if part.stated_db is None else "by its data sheet"
    return (
        f"{part.name}: {format_value(1000 * part.noise_v, 'mV', 2)}, from {part.ratio_db:g} dB below its output ({how})"
    )


def _how_much(noise_v: float, spl_db: float | None) -> str:
    amount = f"About {format_value(1000 * noise_v, 'mV', 2)} of noise with nothing playing"
    if spl_db is None:
        return f"{amount}."
    return (
        f"{amount}, {format_db(max(spl_db, 0.0), 0)} at 1 m: "
        f"{'heard in a quiet car' if spl_db >= HEARD_DB else 'not heard'}."
    )


def _worth(source_v: float, more_db: float, enough_v: float) -> str:
    if enough_v <= source_v:
        return "More clean volts at the source take less than 1 dB off."
    enough = format_value(enough_v, "V", 2)
    if more_db <= _TELLS_DB:
        return f"From {enough} at the source on, more volts take less than 1 dB off."
    return (
        f"{MORE_V:g} V more at the source take {format_db(more_db)} off; from {enough} on, more volts take less "
        "than 1 dB "
        "off."
    )
