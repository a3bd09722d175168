"""Speakers and how they are wired: what each amplifier channel sees."""

import math
from collections.abc import Iterator
from enum import StrEnum
from itertools import product
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from upper_rook.core.common.errors import BadInput, Lacking
from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen, Hertz, Key, Name, Ohms, Watts


class Wiring(StrEnum):
    """How several speakers hang on one channel."""

    SERIES = "series"
    PARALLEL = "parallel"
    SERIES_PARALLEL = "series_parallel"
    """Pairs in series, the pairs in parallel."""


class Band(StrEnum):
    """Band of the speakers; it decides the tone."""

    FULL = "full"
    SUB = "sub"


class Box(StrEnum):
    """Housing of a subwoofer."""

    SEALED = "sealed"
    PORTED = "ported"


class SensitivityAt(StrEnum):
    """Condition that a sensitivity is stated with."""

    WATT = "watt"
    """1 W into the rated impedance."""
    VOLTS = "2.83v"
    """2.83 V, which are 1 W into 8 ohm, 2 W into 4 ohm and 4 W into 2 ohm."""


Coils = Literal[1, 2, 4]
"""Voice coils of one speaker."""
Sensitivity = Annotated[float, Field(ge=60, le=120)]
"""DB SPL at 1 m."""


class Driver(Frozen):
    """Another driver in parallel with a channel's speakers, unlike them."""

    model_config = labelled(
        "Further driver",
        name="name",
        impedance_ohm="ohms",
        power_w="watts",
        series_capacitor_uf="series capacitor",
    )
    name: Name = ""
    impedance_ohm: Ohms
    power_w: Watts | None = None
    """None where it isn't known: then it is not counted on."""
    series_capacitor_uf: Annotated[float, Field(gt=0, le=1000)] | None = None
    """A capacitor before it: it then takes part only above its own corner."""


class ImpedancePoint(Frozen):
    """One point of a measured impedance curve."""

    model_config = labelled("Impedance curve", frequency_hz="frequency", ohm="ohms")
    frequency_hz: Hertz
    ohm: Ohms


class Load(Frozen):
    """Speakers on one amplifier channel (or on one bridged pair): equal ones, and others in parallel with them."""

    model_config = labelled(
        "Speakers",
        id="id",
        name="name",
        band="what for",
        impedance_ohm="ohms",
        coils="voice coils",
        coil_wiring="coils’ wiring",
        power_w="watts",
        count="on the channel",
        wiring="wiring",
        sensitivity_db="sensitivity",
        sensitivity_at="sensitivity stated at",
        lowest_ohm="lowest impedance",
        series_capacitor_uf="series capacitor",
        lowest_hz="usable from",
        highest_hz="usable to",
        box="box",
        tuning_hz="box’s tuning",
        passive_hz="passive crossover",
        others="further drivers",
        impedance_curve="impedance curve",
    )
    id: Key
    name: Name = ""
    band: Band = Band.FULL
    impedance_ohm: Ohms | None = None
    """Rated impedance of one speaker, or of each of its coils."""
    coils: Coils = 1
    """Voice coils of one speaker."""
    coil_wiring: Wiring = Wiring.PARALLEL
    """How the coils of one speaker are joined."""
    power_w: Watts | None = None
    """Rated continuous power of one speaker."""
    count: Annotated[int, Field(ge=1, le=8)] = 1
    """Speakers on one channel."""
    wiring: Wiring = Wiring.PARALLEL
    sensitivity_db: Sensitivity | None = None
    """dB SPL of one speaker at 1 m, with what `sensitivity_at` says."""
    sensitivity_at: SensitivityAt = SensitivityAt.WATT
    lowest_ohm: Ohms | None = None
    """The least that one speaker's impedance falls to, where the maker says so; the amplifier sees it too."""
    series_capacitor_uf: Annotated[float, Field(gt=0, le=1000)] | None = None
    """A capacitor before each speaker, in microfarads: a high-pass of 6 dB an octave of its own."""
    lowest_hz: Hertz | None = None
    """The usable range, where the maker states it."""
    highest_hz: Hertz | None = None
    box: Box | None = None
    tuning_hz: Hertz | None = None
    """Of a ported box."""
    passive_hz: Annotated[tuple[Hertz, ...], Field(max_length=2)] = ()
    """Where a passive crossover after the amplifier divides the band among several drivers, lowest first."""
    others: Annotated[tuple[Driver, ...], Field(max_length=4)] = ()
    """Unlike drivers on the same channel: a tweeter behind its capacitor, a second way of a component set."""
    impedance_curve: Annotated[tuple[ImpedancePoint, ...], Field(max_length=2000)] = ()
    """Of one speaker as measured, from the lowest frequency up."""

    @model_validator(mode="after")
    def _pairs(self) -> Self:
        if self.wiring is Wiring.SERIES_PARALLEL and (self.count < 4 or self.count % 2):
            raise BadInput("series-parallel needs 4, 6 or 8 speakers on the channel", "wiring")
        if self.coil_wiring is Wiring.SERIES_PARALLEL and self.coils != 4:
            raise BadInput("series-parallel needs a speaker with 4 coils", "coil_wiring")
        if self.lowest_hz and self.highest_hz and self.lowest_hz >= self.highest_hz:
            raise BadInput("the lowest usable frequency must be below the highest", "lowest_hz")
        curve = [point.frequency_hz for point in self.impedance_curve]
        if curve != sorted(set(curve)):
            raise BadInput("give the impedance curve from the lowest frequency up, each once", "impedance_curve")
        if list(self.passive_hz) != sorted(set(self.passive_hz)):
            raise BadInput("give the passive crossover’s frequencies from the lowest up, each once", "passive_hz")
        return self

    @property
    def speaker_ohm(self) -> float:
        """One speaker with its coils joined. Raises Lacking."""
        if self.impedance_ohm is None:
            raise Lacking(
                "The speakers’ impedance isn’t known. Read it off the speaker or measure it.", "loads.impedance_ohm"
            )
        return joined_ohm(self.impedance_ohm, self.coils, self.coil_wiring)

    @property
    def total_ohm_of_equal(self) -> float:
        """Load of the equal speakers alone on the channel. Raises Lacking."""
        return joined_ohm(self.speaker_ohm, self.count, self.wiring)

    @property
    def total_ohm(self) -> float:
        """
        Load on the channel, by rated impedances. Raises Lacking.

        Drivers behind a capacitor or a passive crossover play a band of their own and don't add to it.
        """
        own = self.total_ohm_of_equal
        return _parallel(own, *(driver.impedance_ohm for driver in self._beside)) if self.others else own

    @property
    def _beside(self) -> tuple[Driver, ...]:
        """Further drivers that play the same band as the speakers."""
        return () if self.passive_hz else tuple(driver for driver in self.others if driver.series_capacitor_uf is None)

    @property
    def least_ohm(self) -> float:
        """
        The least that the channel sees at any frequency, by rated impedances. Raises Lacking.

        A capacitor passes everything at last, so that its driver then lies in parallel with the rest; a passive
        crossover keeps its ways apart.
        """
        own = self.total_ohm_of_equal
        others = [driver.impedance_ohm for driver in self.others]
        return min(own, *others) if self.passive_hz and others else _parallel(own, *others)

    @property
    def lowest_point(self) -> ImpedancePoint | None:
        """Where a measured impedance curve is lowest."""
        return min(self.impedance_curve, key=lambda point: point.ohm, default=None)

    @property
    def falls_to_ohm(self) -> float | None:
        """The least of one speaker: as its maker says, else by its curve."""
        if self.lowest_ohm is not None or not self.impedance_curve:
            return self.lowest_ohm
        return min(point.ohm for point in self.impedance_curve)

    @property
    def capacitor_hz(self) -> float | None:
        """Where the capacitor before a speaker is 3 dB down into its rated impedance: 1/(2π·R·C)."""
        if self.series_capacitor_uf is None or self.impedance_ohm is None:
            return None
        return 1e6 / (2 * math.pi * self.speaker_ohm * self.series_capacitor_uf)

    @property
    def sensitivity_1w_db(self) -> float | None:
        """DB SPL of one speaker at 1 m with 1 W: 2.83 V into R ohm are 8/R watts."""
        if self.sensitivity_db is None or self.sensitivity_at is SensitivityAt.WATT:
            return self.sensitivity_db
        return None if self.impedance_ohm is None else self.sensitivity_db - 10 * math.log10(8 / self.speaker_ohm)

    @property
    def total_w(self) -> float:
        """
        Power that the whole group takes. Raises Lacking.

        Equal speakers share equally in every one of these wirings; unlike ones in parallel get the same volts, so that
        the first to reach its rating ends it: V = min √(Pᵢ·Rᵢ).
        """
        if self.power_w is None:
            raise Lacking("The speakers’ rated power isn’t known, so no safe voltage either. Type it.", "loads.power_w")
        own_w = self.power_w * self.count
        beside = self._beside
        if not beside:
            return own_w
        squares = [own_w * self.total_ohm_of_equal]
        for driver in beside:
            if driver.power_w is None:
                raise Lacking(
                    f"The rated power of {driver.name or 'a further driver'} isn’t known. It plays the same band.",
                    "loads.others",
                )
            squares.append(driver.power_w * driver.impedance_ohm)
        return min(squares) / self.total_ohm


def rewired(load: Load) -> Iterator[Load]:
    """The same drivers and coils joined in every other way there is."""
    coils = [Wiring.PARALLEL, Wiring.SERIES] if load.coils > 1 else [load.coil_wiring]
    speakers = [Wiring.PARALLEL, Wiring.SERIES] if load.count > 1 else [load.wiring]
    coils += [Wiring.SERIES_PARALLEL] if load.coils == 4 else []
    speakers += [Wiring.SERIES_PARALLEL] if load.count >= 4 and load.count % 2 == 0 else []
    for coil_wiring, wiring in product(coils, speakers):
        if (coil_wiring, wiring) != (load.coil_wiring, load.wiring):
            yield load.model_copy(update={"coil_wiring": coil_wiring, "wiring": wiring})


def wiring_words(load: Load) -> str:
    """How its coils and speakers are joined, in words."""
    told = []
    if load.coils > 1:
        told.append(
            f"the {load.coils} coils{' of each speaker' if load.count > 1 else ''} in {_joined(load.coil_wiring)}"
        )
    if load.count > 1:
        told.append(f"the {load.count} speakers in {_joined(load.wiring)}")
    return " and ".join(told)


def _joined(wiring: Wiring) -> str:
    return wiring.value.replace("_", "-")


def _parallel(*ohms: float) -> float:
    return 1 / sum(1 / value for value in ohms)


def joined_ohm(each_ohm: float, count: int, wiring: Wiring) -> float:
    """Equal impedances joined. Series ΣR; parallel 1/Σ(1/R)."""
    if wiring is Wiring.SERIES:
        return each_ohm * count
    if wiring is Wiring.PARALLEL:
        return each_ohm / count
    return 2 * each_ohm / (count // 2)
