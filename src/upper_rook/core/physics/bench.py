"""The whole simulated bench: what its knobs say, and what a probe then sees."""

import math
from enum import StrEnum
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from upper_rook.core.common.units import Frozen, Key, from_db
from upper_rook.core.physics.amplifier import AmplifierModel
from upper_rook.core.physics.dial import DialModel
from upper_rook.core.physics.distortion import CLEAN_WITHIN, added_distortion
from upper_rook.core.physics.faults import Fault
from upper_rook.core.physics.processor import ProcessorModel
from upper_rook.core.physics.sections import CYCLE, of_band, of_crossover, settled
from upper_rook.core.physics.source import SourceModel
from upper_rook.core.signal.filters import Crossover, EqualiserBand
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.playing import InputKind

Array = NDArray[np.float64]
Turn = Annotated[float, Field(ge=0, le=1)]


class Probe(StrEnum):
    """Where the simulated meter is clipped on."""

    SOURCE = "source"
    SOURCE_RIGHT = "source_right"
    """The right side of the same output."""
    LEFT = "left"
    RIGHT = "right"
    BRIDGE = "bridge"
    CONVERTER = "converter"
    """The output of the last converter."""
    SUPPLY = "supply"
    """The amplifier's supply, in DC volts."""


class Knobs(Frozen):
    """Controls of an amplifier."""

    gain: Turn = 0.0
    """Position from fully down to fully up."""
    dials: Annotated[tuple[Turn | None, ...], Field(max_length=8)] = ()
    """Its filters' dials, from fully down to fully up; None, or none at all, with the filter out of the signal."""


class BenchState(Frozen):
    """Everything on the bench that a hand can move."""

    volume: Annotated[int, Field(ge=0, le=200)] = 0
    way: InputKind | None = None
    """Way of playing; None for the way that gives most."""
    gain: Turn = 0.0
    """Knob position from fully down to fully up."""
    dials: Annotated[tuple[Turn | None, ...], Field(max_length=8)] = ()
    """The dials of its filters, as in Knobs."""
    aside: Annotated[dict[Key, Knobs], Field(max_length=64)] = Field(default_factory=dict)
    """How the knobs of the other paths' amplifiers were left."""
    trims: Annotated[dict[Key, Turn], Field(max_length=64)] = Field(default_factory=dict)
    """How far up the trim of each path's converter is, by the path."""
    supply_v: Annotated[float, Field(ge=10, le=16)] = 14.2
    tone: Tone = Tone(frequency_hz=1000)
    playing: bool = True
    probe: Probe = Probe.SOURCE
    path: Key | None = None
    """Whose amplifier is on the bench; None for the first."""
    speakers_on: bool = False
    faults: Annotated[tuple[Fault, ...], Field(max_length=8)] = ()
    """Faults that are switched on."""


_RIGHT_LESS_DB = 0.02
"""How much less the right side of a source gives."""


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
    through: tuple[ProcessorModel, ...] = ()
    """Between source and amplifier."""
    converter: int = 0
    """How many of these come before the last converter's output."""
    same_converter: tuple[Key, ...] = ()
    """The paths whose converter is the same: its trim is this path's own, or that of the first of them that has one."""
    line_db: float = 0.0
    """Level that leads and a remote level knob leave of the signal."""
    stuck: tuple[Crossover, ...] = ()
    """Filters in the signal that no dial takes out."""
    boosts: tuple[EqualiserBand, ...] = ()
    """On the amplifier."""
    filters: tuple[DialModel, ...] = ()
    """On the amplifier, before its gain."""
    amplifier: AmplifierModel
    load_ohm: float
    """Rated load of a channel pair or a channel."""
    impedance: tuple[tuple[float, float], ...] = ()
    """Hertz and times the rated load, where its impedance was measured."""
    bridged: bool
    right_db: float
    """How much less the right channel gives."""
    left_db: float = 0.0
    """How much less the left channel is set to."""
    elsewhere: bool = False
    """Whether the probe sits on a pair that this gain doesn't set."""
    octaves: float = 0.0
    """By how much another track plays than the one that was wanted."""
    track_db: float = 0.0
    """How much less than it says the track holds."""
    supply_off_v: float = 0.0

    def supply_v(self, state: BenchState) -> float:
        """The amplifier's supply, DC."""
        return state.supply_v + self.supply_off_v

    def plays(self, state: BenchState) -> Tone:
        """The tone that really plays, as far as a meter tells: its frequency."""
        return state.tone.model_copy(update={"frequency_hz": state.tone.frequency_hz * 2**self.octaves})

    def trim(self, state: BenchState) -> float:
        """How far up this path's trim is."""
        return next((state.trims[path] for path in self.same_converter if path in state.trims), 0.0)

    def cycle(self, state: BenchState) -> Array:
        """One cycle of volts at the probe."""
        if state.probe is Probe.SUPPLY:
            return np.full(CYCLE, self.supply_v(state))
        if state.probe is Probe.SOURCE:
            return self._line(state, 0)
        if state.probe is Probe.SOURCE_RIGHT:
            return self._line(state, 0) * from_db(-_RIGHT_LESS_DB)
        if state.probe is Probe.CONVERTER:
            return self._line(state, self.converter)
        return self._amplified(state, self._at_gain(state, self._line(state, len(self.through))))

    def _amplified(self, state: BenchState, line: Array, *, limited: bool = True) -> Array:
        # Bridged, each channel makes half of the volts into half of the load.
        split = 2.0 if self.bridged and state.probe is Probe.BRIDGE else 1.0
        load = self._loaded_ohm(state) / split
        knob = 0.0 if self.elsewhere else state.gain
        return split * self.amplifier.wave(line, knob, self.supply_v(state), load, limited=limited)

    def _loaded_ohm(self, state: BenchState) -> float:
        """Load at the terminals at the tone that plays; infinite with nothing on them."""
        if not state.speakers_on:
            return math.inf
        if not self.impedance:
            return self.load_ohm
        hertz, times = np.array(self.impedance).T
        return self.load_ohm * float(np.interp(np.log(self.plays(state).frequency_hz), np.log(hertz), times))

    def distortion(self, state: BenchState) -> float:
        """
        Highest distortion that one stage before the probe adds, as part of its output.

        Stage by stage: a filter behind a clipped stage rounds the wave off, and what was clipped stays distorted.
        """
        stages = {Probe.SUPPLY: None, Probe.SOURCE: 0, Probe.SOURCE_RIGHT: 0, Probe.CONVERTER: self.converter}.get(
            state.probe, len(self.through)
        )
        if stages is None or not state.playing:
            return 0.0
        line = self._line(state, 0)
        found = [added_distortion(line, self._line(state, 0, limited=False))]
        hertz, trim = self.plays(state).frequency_hz, self.trim(state)
        for stage in self.through[:stages]:
            before, line = line, stage.wave(line, hertz, trim)
            found.append(added_distortion(line, stage.wave(before, hertz, trim, limited=False)))
        if state.probe in (Probe.LEFT, Probe.RIGHT, Probe.BRIDGE):
            driven = self._at_gain(state, line)
            output = self._amplified(state, driven)
            found.append(added_distortion(output, self._amplified(state, driven, limited=False)))
        return max(found)

    def is_clean(self, state: BenchState) -> bool:
        """Whether no stage before the probe adds more distortion than a clean one may."""
        return self.distortion(state) <= CLEAN_WITHIN

    def lamp(self, state: BenchState) -> bool:
        """Whether the amplifier's clip light is lit."""
        load = self._loaded_ohm(state)
        line = self._at_gain(state, self._line(state, len(self.through)))
        return self.amplifier.lamp(line, state.gain, self.supply_v(state), load)

    def _line(self, state: BenchState, stages: int, *, limited: bool = True) -> Array:
        """One cycle behind so many of the stages on the way."""
        if not state.playing:
            return np.zeros(CYCLE)
        phase, hertz = 2 * np.pi * np.arange(CYCLE) / CYCLE, self.plays(state).frequency_hz
        level_db = state.tone.level_dbfs - self.track_db
        line = self.source.wave(state.volume, phase, level_db, hertz, state.way, limited=limited)
        for stage in self.through[:stages]:
            line = stage.wave(line, hertz, self.trim(state), limited=limited)
        return line

    def _at_gain(self, state: BenchState, line: Array) -> Array:
        """Volts at the gain, from those of the last stage on the way: past leads, filters and boost."""
        hertz = self.plays(state).frequency_hz
        for crossover in self.stuck:
            line = settled(line, of_crossover(crossover, hertz))
        for dial, turned in zip(self.filters, state.dials, strict=False):
            line = dial.wave(line, hertz, turned)
        for band in self.boosts:
            line = settled(line, of_band(band, hertz, digital=False))
        less_db = {Probe.RIGHT: self.right_db, Probe.LEFT: self.left_db}.get(state.probe, 0.0)
        return line * from_db(self.line_db - less_db)
