"""A source alone on the simulated bench, measured as a careful person does: half volume first, one number at a time."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.metrology.meters import profile
from upper_rook.core.physics.source import SourceModel
from upper_rook.core.sources.source_sheet import Cell
from upper_rook.core.system.clean_maximum import VolumeReading, start_volume
from upper_rook.core.system.playing import InputKind
from upper_rook.instruments.simulated import is_flat

CYCLE = 1000


@dataclass(frozen=True)
class SourceBench:
    """A source, the meter that is at hand, and the dice of its scatter."""

    model: SourceModel
    meter: str = "true-rms"
    seed: int = 0
    tone_hz: float = 1000.0

    def wave(self, volume: int, way: InputKind | None, level_db: float = 0.0) -> NDArray[np.float64]:
        """One cycle of volts at the output."""
        phase = 2 * np.pi * np.arange(CYCLE) / CYCLE
        return self.model.wave(volume, phase, level_db, self.tone_hz, way)

    def cell(self, output: str, *, way: InputKind | None = None, trim_db: float = 0.0, on: date | None = None) -> Cell:
        """
        The clean maximum of an output, number by number until the wave is flat.

        Volts are read with the meter's scatter, a third of the standard doubt that it promises.
        """
        readings, clipped = [], None
        for volume, wave in self._going_up(way, trim_db):
            if is_flat(wave):
                clipped = volume
                break
            readings.append(VolumeReading(volume=volume, voltage_v=self._read(wave, volume)))
        last = readings[-1]
        doubt = self._doubt(last.voltage_v)
        return Cell(
            output=output,
            way=way,
            tone_hz=self.tone_hz,
            trim=f"{trim_db:+g}" if trim_db else "",
            clean=last.volume,
            clean_v=last.voltage_v,
            doubt_v=doubt,
            clipped=clipped,
            volume_readings=tuple(readings),
            taken_on=on,
        )

    def _going_up(self, way: InputKind | None, trim_db: float) -> Iterator[tuple[int, NDArray[np.float64]]]:
        first = start_volume(self.model.top_volume)
        while first > 1 and is_flat(self.wave(first, way, trim_db)):
            first //= 2
        for volume in range(first, self.model.top_volume + 1):
            yield volume, self.wave(volume, way, trim_db)

    def _doubt(self, volts: float) -> float:
        return profile(self.meter).uncertainty_v(volts, self.tone_hz) or 0.0

    def _read(self, wave: NDArray[np.float64], volume: int) -> float:
        volts = float(np.sqrt(np.mean(np.square(wave))))
        dice = np.random.default_rng([self.seed, volume])
        return round(volts + self._doubt(volts) / 6 * float(dice.normal()), 3)

    def volts(self, volume: int, way: InputKind | None = None, level_db: float = 0.0) -> float:
        """Reading of the meter at a number."""
        return self._read(self.wave(volume, way, level_db), volume)


def source_bench(
    *,
    top_volume: int,
    clean_v: float,
    overdrive_db: float,
    step_db: float,
    seed: int,
    ways_db: dict[InputKind, float] | None = None,
) -> SourceBench:
    """A source that is clean up to `clean_v` and is driven past it by so much at the end of its scale."""
    model = SourceModel(
        top_volume=top_volume, clean_v=clean_v, overdrive_db=overdrive_db, step_db=step_db, ways_db=ways_db or {}
    )
    return SourceBench(model, seed=seed)
