"""The whole simulated bench: what its knobs say, and what a probe then sees."""

import math
from enum import StrEnum
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from upper_rook.core.common.units import Frozen, Key
from upper_rook.core.physics.amplifier import AmplifierModel
from upper_rook.core.physics.dial import DialModel
from upper_rook.core.physics.processor import ProcessorModel
from upper_rook.core.physics.source import SourceModel
from upper_rook.core.signal.tones import Tone

SAMPLES_PER_CYCLE = 1000
Turn = Annotated[float, Field(ge=0, le=1)]


class Probe(StrEnum):
    """Where the simulated meter is clipped on."""

    SOURCE = "source"
    LEFT = "left"
    RIGHT = "right"
    BRIDGE = "bridge"
    CONVERTER = "converter"
    """The output of the last converter."""
    SUPPLY = "supply"
    """The amplifier's supply, in DC volts."""


class Knobs(Frozen):
    """What is turned on an amplifier."""

    gain: Annotated[float, Field(ge=0, le=1)] = 0.0
    """Position from fully down to fully up."""
    dials: Annotated[tuple[Turn | None, ...], Field(max_length=8)] = ()
    """Its filters' dials, from fully down to fully up; None, or none at all, with the filter out of the signal."""


class BenchState(Frozen):
    """Everything on the bench that a hand can move."""

    volume: Annotated[int, Field(ge=0, le=200)] = 0
    gain: Annotated[float, Field(ge=0, le=1)] = 0.0
    """Knob position from fully down to fully up."""
    dials: Annotated[tuple[Turn | None, ...], Field(max_length=8)] = ()
    """The dials of its filters, as in Knobs."""
    aside: Annotated[dict[Key, Knobs], Field(max_length=64)] = Field(default_factory=dict)
    """How the knobs of the other paths' amplifiers were left."""
    supply_v: Annotated[float, Field(ge=10, le=16)] = 14.2
    tone: Tone = Tone(frequency_hz=1000)
    playing: bool = True
    probe: Probe = Probe.SOURCE
    path: Key | None = None
    """Whose amplifier is on the bench; None for the first."""
    speakers_on: bool = False


def swapped(before: BenchState, after: BenchState) -> BenchState:
    """`after` with the knobs of its own path, where another's amplifier comes onto the bench."""
    if before.path is None or after.path is None or before.path == after.path:
        return after
    left = Knobs(gain=before.gain, dials=before.dials)
    aside = {**before.aside, before.path: left}
    own = aside.pop(after.path, Knobs())
    return after.model_copy(update={"aside": aside, "gain": own.gain, "dials": own.dials})


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
    converter: int = 0
    """How many of these come before the last converter's output."""
    filters: tuple[DialModel, ...] = ()
    """On the amplifier, before its gain."""

    def cycle(self, state: BenchState) -> NDArray[np.float64]:
        """One cycle of volts at the probe."""
        if state.probe is Probe.SUPPLY:
            return np.full(SAMPLES_PER_CYCLE, state.supply_v)
        if not state.playing:
            return np.zeros(SAMPLES_PER_CYCLE)
        phase = 2 * np.pi * np.arange(SAMPLES_PER_CYCLE) / SAMPLES_PER_CYCLE
        line = self.source.wave(state.volume, phase, state.tone.level_dbfs)
        if state.probe is Probe.SOURCE:
            return line
        hertz = state.tone.frequency_hz
        for stage in self.through[: self.converter if state.probe is Probe.CONVERTER else None]:
            line = stage.wave(line, hertz)
        if state.probe is Probe.CONVERTER:
            return line
        for one, turned in zip(self.filters, state.dials, strict=False):
            line = line * one.gain(turned, hertz)
        less_db = {Probe.RIGHT: self.right_db, Probe.LEFT: self.left_db}.get(state.probe, 0.0)
        line = line * 10 ** (-less_db / 20)
        # Bridged, each channel makes half of the volts into half of the load.
        split = 2.0 if self.bridged and state.probe is Probe.BRIDGE else 1.0
        load = self.load_ohm / split if state.speakers_on else math.inf
        return split * self.amplifier.wave(line, state.gain, state.supply_v, load)
