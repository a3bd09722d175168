"""The simulated bench as instruments: the one module that brings physics to the app."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.units import Frozen
from upper_rook.core.metrology.meters import MeterProfile, profile
from upper_rook.core.physics.bench import BenchModel, BenchState, Probe
from upper_rook.core.physics.scope import ScopeModel, swept
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.instruments.bench_parts import build, meter_model
from upper_rook.instruments.meter import Sample

__all__ = [
    "BenchState",
    "BenchView",
    "Probe",
    "SimulatedMeter",
    "bench_for",
    "scope_export",
    "starting_state",
    "swept",
    "view",
]


class SimulatedMeter:
    """A meter on the simulated bench."""

    def __init__(
        self,
        bench: Callable[[BenchState], BenchModel],
        state: Callable[[], BenchState],
        clock: Callable[[], float],
        seed: int,
    ) -> None:
        """`state` gives the knobs as they are, `bench` what they are on, `clock` seconds; `seed` picks the specimen."""
        self._bench = bench
        self._state = state
        self._clock = clock
        self._profile = profile("simulated")
        self._model = meter_model(self._profile, seed)

    @property
    def profile(self) -> MeterProfile:
        """What it can be trusted for."""
        return self._profile

    @property
    def period_s(self) -> float:
        """Seconds between its updates."""
        return 1 / self._model.updates_per_s

    def read(self) -> Sample:
        """Its present display. Every process that asks within one update gets the same value."""
        state = self._state()
        value = self._model.read(self._bench(state).cycle(state), int(self._clock() / self.period_s))
        doubt = self.profile.uncertainty_v(value, state.tone.frequency_hz)
        return Sample(value_v=value, uncertainty_v=doubt, probe=state.probe.value)


class BenchView(Frozen):
    """The bench as it is shown: its knobs, and two cycles of the wave at the probe."""

    state: BenchState
    top_volume: int
    bridged: bool
    milliseconds: tuple[float, ...]
    volts: tuple[float, ...]
    full_v: float
    """Height of the drawing's axis."""
    warning: str


def bench_for(sheet: JobSheet, seed: int, path: str | None = None) -> BenchModel:
    """The bench of one of a sheet's paths, the first unless one that is there is named."""
    paths = sheet.chain.paths
    return build(sheet, next((one for one in paths if one.id == path), paths[0]), seed)


def starting_state(sheet: JobSheet) -> BenchState:
    """The bench before anyone touches it: half volume, gain down, probe on the source."""
    return BenchState(volume=sheet.chain.sources[0].top_volume // 2)


def view(bench: BenchModel, state: BenchState) -> BenchView:
    """What the bench shows for `state`."""
    cycle = bench.cycle(state)[::8]
    wave: NDArray[np.float64] = np.tile(cycle, 2)
    period_ms = 1000 / state.tone.frequency_hz
    times = np.arange(wave.size) / cycle.size * period_ms
    peak = float(np.max(np.abs(wave)))
    return BenchView(
        state=state,
        top_volume=bench.source.top_volume,
        bridged=bench.bridged,
        milliseconds=tuple(np.round(times, 5).tolist()),
        volts=tuple(np.round(wave, 5).tolist()),
        full_v=_round_up(peak * 1.15),
        warning="A steady tone into connected speakers: a real voice coil would be burning now."
        if state.speakers_on and state.playing and state.probe is not Probe.SOURCE and peak > 1
        else "",
    )


def scope_export(bench: BenchModel, state: BenchState, seed: int) -> bytes:
    """The wave at the probe as the simulated oscilloscope exports it: CSV with a heading, times in milliseconds."""
    rate, volts = ScopeModel().trace(bench.cycle(state), state.tone.frequency_hz, seed)
    rows = (f"{1000 * place / rate:.6f};{value:.5f}" for place, value in enumerate(volts))
    return "\n".join(("Simulated oscilloscope;", "Time (ms);Probe (V)", *rows, "")).encode()


def _round_up(value: float) -> float:
    """The next round number for the end of an axis."""
    if value <= 0:
        return 1.0
    decade = 10.0 ** np.floor(np.log10(value))
    return float(next(step * decade for step in (1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10) if step * decade >= value))
