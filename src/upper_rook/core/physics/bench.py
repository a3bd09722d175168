"""The whole simulated bench: what its knobs say, and what a probe then sees."""

import math
from enum import StrEnum
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from upper_rook.core.common.units import Frozen, Key
from upper_rook.core.physics.amplifier import AmplifierModel
from upper_rook.core.physics.processor import ProcessorModel
from upper_rook.core.physics.source import SourceModel
from upper_rook.core.signal.tones import Tone

SAMPLES_PER_CYCLE = 1000


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
    left_db: float = 0.0
    """How much less the left channel is set to."""
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
        less_db = {Probe.RIGHT: self.right_db, Probe.LEFT: self.left_db}.get(state.probe, 0.0)
        line = line * 10 ** (-less_db / 20)
        # Bridged, each channel makes half of the volts into half of the load.
        split = 2.0 if self.bridged and state.probe is Probe.BRIDGE else 1.0
        load = self.load_ohm / split if state.speakers_on else math.inf
        return split * self.amplifier.wave(line, state.gain, state.supply_v, load)
