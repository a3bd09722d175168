"""The simulated bench as instruments: the one module that brings physics to the app."""

from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen
from upper_rook.core.metrology.meters import MeterProfile, profile
from upper_rook.core.physics.bench import BenchModel, BenchState, Probe, swapped
from upper_rook.core.physics.faults import FAULT_WORDS, Fault
from upper_rook.core.physics.meter import MeterModel
from upper_rook.core.physics.scope import ScopeModel, swept
from upper_rook.core.physics.specimen import build, dials_of, scale_of
from upper_rook.core.run.readings.points import (
    OutputPoint,
    Point,
    ProcessorPoint,
    SupplyPoint,
    Terminals,
    TerminalsPoint,
)
from upper_rook.core.run.readings.step_keys import corner_key
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.job_sheet import JobSheet, Subject
from upper_rook.core.system.methods import EXTENT
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import InputKind, Side
from upper_rook.core.system.processor import ProcessorKind
from upper_rook.core.system.source import Sides
from upper_rook.instruments.meter import Sample

__all__ = [
    "FAULT_WORDS",
    "BenchState",
    "BenchView",
    "Fault",
    "Probe",
    "SimulatedMeter",
    "bench_for",
    "dials_of",
    "is_at",
    "is_flat",
    "path_on_bench",
    "point_of",
    "probe_at",
    "scale_of",
    "scope_export",
    "scope_trace",
    "starting_state",
    "swapped",
    "swept",
    "view",
]


class SimulatedMeter:
    """A meter on the simulated bench of a sheet."""

    def __init__(
        self,
        sheet: JobSheet,
        seed: int,
        state: Callable[[], BenchState],
        clock: Callable[[], float],
        *,
        meter: str = "simulated",
    ) -> None:
        """
        `state` gives the knobs as they are, `clock` seconds; `seed` picks the parts' and the meter's specimens.

        `meter` is the id of the profile that the meter is made by.
        """
        self._sheet = sheet
        self._seed = seed
        self._state = state
        self._clock = clock
        self._profile = profile(meter)
        self._model = meter_model(self._profile, seed)

    @property
    def profile(self) -> MeterProfile:
        """Its uncertainty by its data sheet."""
        return self._profile

    @property
    def period_s(self) -> float:
        """Seconds between its updates."""
        return 1 / self._model.updates_per_s

    def read(self) -> Sample:
        """Its present display. Every process that asks within one update gets the same value."""
        state = self._state()
        bench = bench_for(self._sheet, self._seed, state)
        if state.probe is Probe.SUPPLY:
            volts = bench.supply_v(state)
            doubt = self.profile.dc_uncertainty_v(volts)
            return Sample(value_v=volts, uncertainty_v=doubt, point=SupplyPoint(), volume=state.volume)
        tone = bench.plays(state)
        value = self._model.read(bench.cycle(state), int(self._clock() / self.period_s), tone.frequency_hz)
        doubt = self.profile.uncertainty_v(value, tone.frequency_hz)
        return Sample(
            value_v=value, uncertainty_v=doubt, point=point_of(self._sheet, state), tone=tone, volume=state.volume
        )


def meter_model(profile: MeterProfile, seed: int) -> MeterModel:
    """A specimen of `profile`; `seed` decides where in its tolerance it lies."""
    return MeterModel(
        percent=profile.promises[0].percent,
        ranges_v=profile.ranges_v,
        steps=profile.steps,
        true_rms=profile.true_rms,
        bandwidth_hz=profile.bandwidth_hz,
        seed=seed,
    )


class DialView(Frozen):
    """A filter's dial on the amplifier at hand."""

    name: str
    step: str
    """The step of a run that sets it."""
    lowest_hz: float
    highest_hz: float
    reads_hz: float | None
    """Figure on its scale; None with the filter out."""
    turned: float | None


class ProbeChoice(Frozen):
    """A place for the probe."""

    probe: Probe
    words: str


class FaultChoice(Frozen):
    """A fault that can be switched on."""

    fault: Fault
    words: str


class BenchView(Frozen):
    """The bench as it is shown: its knobs, and two cycles of the wave at the probe."""

    state: BenchState
    top_volume: int
    probes: tuple[ProbeChoice, ...]
    """Where the probe can be put."""
    trim: float | None
    """How far up the converter's trim is; None without one."""
    alone: bool
    """Whether nothing stands behind the source."""
    lamp: bool | None
    """Whether the amplifier's clip light is lit; None where it has none."""
    ways: tuple[InputKind, ...]
    """The ways of playing there are."""
    faults: tuple[FaultChoice, ...]
    """Faults that can be switched on to be found."""
    dials: tuple[DialView, ...]
    milliseconds: tuple[float, ...]
    volts: tuple[float, ...]
    full_v: float
    """Height of the drawing's axis."""
    warning: str


def path_on_bench(sheet: JobSheet, state: BenchState) -> Path:
    """The path whose parts are on the bench; one that is gone, or was never chosen, gives way to the first there is."""
    paths = sheet.chain.paths
    return next((path for path in paths if path.id == state.path), None) or next(iter(paths))


def bench_for(sheet: JobSheet, seed: int, state: BenchState) -> BenchModel:
    """The bench with the parts of the path that `state` names; the last few are remembered."""
    path = path_on_bench(sheet, state)
    key = (id(sheet), path.id, seed, state.faults)
    known = _built.get(key)
    if known is None or known[0] is not sheet:
        if len(_built) >= _MOST_BUILT:
            _built.clear()
        known = _built[key] = sheet, build(sheet, path, seed, state.faults)
    return known[1]


_MOST_BUILT = 64
_built: dict[tuple[int, str, int, tuple[Fault, ...]], tuple[JobSheet, BenchModel]] = {}
"""Benches under the identity of their sheet, which is kept so that its identity lasts."""


def starting_state(sheet: JobSheet) -> BenchState:
    """The bench before anyone touches it: half volume, gain down, probe on the source."""
    path = path_on_bench(sheet, BenchState())
    return BenchState(volume=sheet.chain.source_of(path).top_volume // 2, path=path.id)


_ON_SOURCE = (Probe.SOURCE, Probe.SOURCE_RIGHT)


def point_of(sheet: JobSheet, state: BenchState) -> Point:
    """Where the simulated probe sits."""
    path = path_on_bench(sheet, state)
    if state.probe in _ON_SOURCE:
        side = Side.RIGHT if state.probe is Probe.SOURCE_RIGHT else None
        return OutputPoint(source=path.source, output=path.output, side=side)
    if state.probe is Probe.SUPPLY:
        return SupplyPoint()
    converters = [
        processor.id for processor in sheet.chain.processors_of(path) if processor.kind is ProcessorKind.CONVERTER
    ]
    if state.probe is Probe.CONVERTER:
        # Without one the probe sits where it would be.
        return ProcessorPoint(processor=converters[-1] if converters else path.amplifier, path=path.id)
    strapped = path.mode is Mode.STRAPPED
    terminals = {
        Probe.LEFT: Terminals.OWN if strapped else Terminals.LEFT,
        Probe.RIGHT: Terminals.OTHER if strapped else Terminals.RIGHT,
        Probe.BRIDGE: Terminals.BRIDGE,
    }[state.probe]
    return TerminalsPoint(path=path.id, terminals=terminals)


def probe_at(point: Point) -> Probe:
    """The simulated probe that sits at a point."""
    if isinstance(point, TerminalsPoint):
        return {
            Terminals.RIGHT: Probe.RIGHT,
            Terminals.OTHER: Probe.RIGHT,
            Terminals.BRIDGE: Probe.BRIDGE,
        }.get(point.terminals, Probe.LEFT)
    if isinstance(point, ProcessorPoint):
        return Probe.CONVERTER
    if isinstance(point, OutputPoint) and point.side is Side.RIGHT:
        return Probe.SOURCE_RIGHT
    return Probe.SUPPLY if isinstance(point, SupplyPoint) else Probe.SOURCE


def is_at(sample: Point, wanted: Point) -> bool:
    """Whether the simulated probe sits where a reading is wanted; its converter has one output for both sides."""
    if isinstance(sample, ProcessorPoint) and isinstance(wanted, ProcessorPoint):
        return (sample.processor, sample.path) == (wanted.processor, wanted.path)
    return sample == wanted


def view(sheet: JobSheet, seed: int, state: BenchState) -> BenchView:
    """Readings at the bench of a sheet in `state`."""
    bench, path = bench_for(sheet, seed, state), path_on_bench(sheet, state)
    cycle = bench.cycle(state)[::8]
    wave: NDArray[np.float64] = np.tile(cycle, 2)
    period_ms = 1000 / state.tone.frequency_hz
    times = np.arange(wave.size) / cycle.size * period_ms
    peak = float(np.max(np.abs(wave)))
    return BenchView(
        state=state,
        top_volume=bench.source.top_volume,
        probes=tuple(_probes(sheet, path, bench)),
        trim=bench.trim(state) if bench.converter else None,
        alone=sheet.subject is Subject.SOURCE,
        lamp=bench.lamp(state) if sheet.chain.amplifier_of(path).clip_lamp else None,
        ways=tuple(bench.source.ways_db),
        faults=tuple(FaultChoice(fault=fault, words=words) for fault, words in FAULT_WORDS.items()),
        dials=tuple(_dial_views(path, state)),
        milliseconds=tuple(np.round(times, 5).tolist()),
        volts=tuple(np.round(wave, 5).tolist()),
        full_v=_round_up(peak * 1.15),
        warning="A steady tone into connected speakers: a real voice coil would be burning now."
        if state.speakers_on and state.playing and state.probe not in _ON_SOURCE and peak > 1
        else "",
    )


def _probes(sheet: JobSheet, path: Path, bench: BenchModel) -> Iterator[ProbeChoice]:
    alone = sheet.subject is Subject.SOURCE
    if not alone:
        yield ProbeChoice(probe=Probe.SUPPLY, words="Supply")
    yield ProbeChoice(probe=Probe.SOURCE, words="Source")
    if sheet.chain.output_of(path).sides is Sides.PAIR and (alone or EXTENT.of(sheet.choices).every_output):
        yield ProbeChoice(probe=Probe.SOURCE_RIGHT, words="Source, right")
    if alone:
        return
    if bench.converter:
        yield ProbeChoice(probe=Probe.CONVERTER, words="Converter")
    if path.mode is Mode.BRIDGED:
        yield ProbeChoice(probe=Probe.BRIDGE, words="Bridge")
    elif sheet.chain.is_pair(path):
        yield ProbeChoice(probe=Probe.LEFT, words="Left out")
        yield ProbeChoice(probe=Probe.RIGHT, words="Right out")
    else:
        yield ProbeChoice(probe=Probe.LEFT, words="Output")
        if path.mode is Mode.STRAPPED:
            yield ProbeChoice(probe=Probe.RIGHT, words="Other output")


def _dial_views(path: Path, state: BenchState) -> Iterator[DialView]:
    for place, channel_filter in enumerate(dials_of(path)):
        low, high = scale_of(channel_filter)
        turned = state.dials[place] if place < len(state.dials) else None
        yield DialView(
            name=f"{channel_filter.crossover.kind.value}-pass",
            step=corner_key(path.id, path.filters.index(channel_filter)),
            lowest_hz=low,
            highest_hz=high,
            reads_hz=None if turned is None else low * (high / low) ** turned,
            turned=turned,
        )


_FLAT = 0.02
"""Of a sine's 1,000 samples a handful are at its peak; of a clipped one more than this share."""


def is_flat(wave: NDArray[np.float64]) -> bool:
    """Whether a simulated wave has a flat top."""
    height = np.abs(wave)
    return bool(np.mean(height > 0.9999 * height.max()) > _FLAT) if height.max() > 0 else False


def scope_trace(bench: BenchModel, state: BenchState, seed: int) -> tuple[float, NDArray[np.float64]]:
    """(samples a second, volts) of the wave at the probe, as the simulated oscilloscope has it."""
    return ScopeModel().trace(bench.cycle(state), state.tone.frequency_hz, seed)


def scope_export(bench: BenchModel, state: BenchState, seed: int) -> bytes:
    """The wave at the probe as the simulated oscilloscope exports it: CSV with a heading, times in milliseconds."""
    rate, volts = scope_trace(bench, state, seed)
    rows = (f"{1000 * place / rate:.6f};{value:.5f}" for place, value in enumerate(volts))
    return "\n".join(("Simulated oscilloscope;", "Time (ms);Probe (V)", *rows, "")).encode()


def _round_up(value: float) -> float:
    """The next round number for the end of an axis."""
    if value <= 0:
        return 1.0
    decade = 10.0 ** np.floor(np.log10(value))
    return float(next(step * decade for step in (1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10) if step * decade >= value))
