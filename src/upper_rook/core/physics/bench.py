"""The whole simulated bench: what its knobs say, and what a probe then sees."""

import math
from enum import StrEnum
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from upper_rook.core.amplifier import GainRange, Mode
from upper_rook.core.chain import Chain, JobSheet, Path
from upper_rook.core.filters import equaliser_db
from upper_rook.core.levels import GRID_HZ, highest_input_v, levels
from upper_rook.core.physics.amplifier import AmplifierModel
from upper_rook.core.physics.processor import ProcessorModel
from upper_rook.core.physics.source import SourceModel
from upper_rook.core.power import amplifier_power
from upper_rook.core.processor import ProcessorKind
from upper_rook.core.tones import Tone
from upper_rook.core.units import Frozen, Key, from_db, ratio_db, volts_for

SAMPLES_PER_CYCLE = 1000
_MIDDLING_V = 2.0
_BOUNDLESS_V = 1e6


class Probe(StrEnum):
    """Where the simulated meter is clipped on."""

    SOURCE = "source"
    LEFT = "left"
    RIGHT = "right"
    BRIDGE = "bridge"


class BenchState(Frozen):
    """Everything on the bench that a hand can move."""

    volume: Annotated[int, Field(ge=0, le=200)] = 0
    gain: Annotated[float, Field(ge=0, le=1)] = 0.0
    """Knob position from fully down to fully up."""
    supply_v: Annotated[float, Field(ge=10, le=16)] = 14.2
    tone: Tone = Tone(frequency_hz=1000)
    playing: bool = True
    probe: Probe = Probe.SOURCE
    path: Key | None = None
    """Whose amplifier is on the bench; None for the first."""
    speakers_on: bool = False


class BenchModel(Frozen):
    """The parts on the bench, with what their data sheets don't say."""

    source: SourceModel
    amplifier: AmplifierModel
    load_ohm: float
    bridged: bool
    right_db: float
    """How much less the right channel gives."""
    through: tuple[ProcessorModel, ...] = ()
    """Between source and amplifier."""

    def cycle(self, state: BenchState) -> NDArray[np.float64]:
        """One cycle of volts at the probe."""
        if not state.playing:
            return np.zeros(SAMPLES_PER_CYCLE)
        phase = 2 * np.pi * np.arange(SAMPLES_PER_CYCLE) / SAMPLES_PER_CYCLE
        line = self.source.wave(state.volume, phase, state.tone.level_dbfs)
        if state.probe is Probe.SOURCE:
            return line
        for stage in self.through:
            line = stage.wave(line, state.tone.frequency_hz)
        if state.probe is Probe.RIGHT:
            line = line * 10 ** (-self.right_db / 20)
        # Bridged, each channel makes half of the volts into half of the load.
        split = 2.0 if self.bridged and state.probe is Probe.BRIDGE else 1.0
        load = self.load_ohm / split if state.speakers_on else math.inf
        return split * self.amplifier.wave(line, state.gain, state.supply_v, load)


def build(sheet: JobSheet, path: Path, seed: int) -> BenchModel:
    """A bench with the parts of `path`; `seed` decides how they differ from their data sheets."""
    dice = np.random.default_rng(seed)
    chain = sheet.chain
    source, amplifier, load = chain.source_of(path), chain.amplifier_of(path), chain.load_of(path)
    bridged = path.mode is Mode.BRIDGED
    channels = path.mode.amplifiers
    rated_v = volts_for(amplifier_power(amplifier, path.mode, load.total_ohm).power_w, load.total_ohm) / channels
    scale = amplifier.range_of(path.input) or GainRange(down_v=6.0, up_v=0.2)
    # Between 76 and 85 % of the scale, as sources usually do.
    clean_number = round(source.top_volume * dice.uniform(0.76, 0.85))
    step_db = dice.uniform(0.9, 1.2)
    output_ohm = 0.03 * load.total_ohm / channels
    reserve = math.sqrt(dice.uniform(1.04, 1.22))
    clean_v = _rated_v(chain, path) * dice.uniform(0.9, 1.0)
    return BenchModel(
        source=SourceModel(
            top_volume=source.top_volume,
            clean_v=clean_v,
            # Half a number above the last clean one, so that the ripple of the law can't blur which one it is.
            overdrive_db=(source.top_volume - clean_number - 0.5) * step_db,
            step_db=step_db,
        ),
        amplifier=AmplifierModel(
            rated_v=rated_v * channels,
            sensitivity_down_v=scale.down_v * channels,
            sensitivity_up_v=scale.up_v * channels,
            rail_peak_v=math.sqrt(2) * rated_v * reserve * 1.03,
            output_ohm=output_ohm,
            regulated=amplifier.regulated,
        ),
        # Strapped, each amplifier sees half of the load.
        load_ohm=load.total_ohm / (2 if path.mode is Mode.STRAPPED else 1),
        bridged=bridged,
        right_db=float(dice.uniform(0.02, 0.15)),
        # Trimmed at the last clean number, half a number below where it clips.
        through=_through(sheet, path, clean_v * from_db(-0.5 * step_db)),
    )


def _through(sheet: JobSheet, path: Path, source_v: float) -> tuple[ProcessorModel, ...]:
    """The stages on the way, trimmed as the plan says with `source_v` from the source."""
    planned = levels(sheet.chain, path, source_v, sheet.choices)
    made = []
    for place, stage in enumerate(planned.stages):
        last = place == len(planned.stages) - 1
        trimmed = stage.processor.kind is ProcessorKind.CONVERTER
        most = highest_input_v(stage.processor)
        trim = 0.0
        if trimmed and stage.output_v is not None and stage.input_v is not None:
            trim = ratio_db(stage.output_v, min(stage.input_v, most))
        shaped = tuple(planned.composite_db.tolist()) if last and not trimmed else (trim,)
        made.append(
            ProcessorModel(
                highest_input_v=min(most, _BOUNDLESS_V),
                highest_output_v=stage.processor.highest_output_v,
                gain_db=shaped,
            )
        )
    if path.boost:
        boost = tuple(equaliser_db((path.boost,), GRID_HZ).tolist())
        made.append(ProcessorModel(highest_input_v=_BOUNDLESS_V, highest_output_v=_BOUNDLESS_V, gain_db=boost))
    return tuple(made)


def _rated_v(chain: Chain, path: Path) -> float:
    """What the source gives where it is measured; an unknown one gives what a middling one does."""
    return chain.output_of(path).rated.v or _MIDDLING_V
