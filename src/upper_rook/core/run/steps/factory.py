"""The factory system: what its speaker wires carry, how loud, and what wakes by them."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common import cautions
from upper_rook.core.common.units import format_db, format_value, ratio_db
from upper_rook.core.crossover.played_band import played_band_hz
from upper_rook.core.metrology.comparison import Limits, Turn
from upper_rook.core.plan.target import Target
from upper_rook.core.run.freshness.dependencies import Dependencies
from upper_rook.core.run.freshness.dependency_places import output_of, source_settings
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.run.readings.step_keys import factory_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import diagnostics, rows
from upper_rook.core.run.steps.kind import PREPARE, Place
from upper_rook.core.run.steps.step import Row, Step, StepKind
from upper_rook.core.signal.tones import Tone
from upper_rook.core.system.clean_maximum import fallback_volume, start_volume
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import Output, OutputKind, Source, SourceKind
from upper_rook.core.system.turn_on import TurnOn

# Common practice, no source: all that follows.
OFFSET = Target(
    value=6.0,
    unit="V",
    limits=Limits(low=5.0, high=7.0),
    method="",
    because=(),
    turn=Turn(below="lower than usual", above="higher than usual"),
)
_LOW_HZ, _HIGH_HZ = 40.0, 1000.0
_DIVIDED_DB = 6.0
"""So much between these and a tap doesn't carry everything."""
_ROLLS_OFF_DB = 1.0
_BARE = 2.0
"""A tap that gives less than so many times the least its input needs forces the gain up."""


def _taps(snapshot: JobSnapshot) -> Iterator[tuple[Source, Output, Path]]:
    """Every speaker output of a factory system that feeds a path, with the first such path."""
    chain = snapshot.sheet.chain
    for source in chain.feeding():
        if source.kind is not SourceKind.FACTORY:
            continue
        for output in chain.outputs_used(source):
            if output.kind is OutputKind.SPEAKER:
                own = (
                    path for path in chain.paths if path.source == source.id and output.id in (path.output, *path.also)
                )
                yield source, output, next(own)


def _played_hz(snapshot: JobSnapshot, source: str, output: str) -> tuple[float, ...]:
    """Those of the two tones that something plays behind a tap, by its speakers and filters, the higher first."""
    chain = snapshot.sheet.chain
    fed = [path for path in chain.paths if path.source == source and output in (path.output, *path.also)]
    bands = [played_band_hz(path, chain.load_of(path)) for path in fed]
    found = tuple(hertz for hertz in (_HIGH_HZ, _LOW_HZ) if any(low <= hertz <= high for low, high in bands))
    return found or (_HIGH_HZ,)


def _rows(snapshot: JobSnapshot, source: Source, output: Output, path: Path) -> Iterator[Row]:
    point = OutputPoint(source=source.id, output=output.id)
    quiet, loud = start_volume(source.top_volume), fallback_volume(source.top_volume)
    played = _played_hz(snapshot, source.id, output.id)
    read = rows.last_readings(snapshot, factory_key(source.id, output.id))
    # A sub's wires aren't asked for a tone that it never plays; where that was read it stays.
    wanted = [
        (f"{when}-{hertz:g}", volume, hertz)
        for when, volume in (("at", quiet), ("loud", loud))
        for hertz in (_HIGH_HZ, _LOW_HZ)
        if hertz in played or played == (_HIGH_HZ,) or f"{when}-{hertz:g}" in read
    ]
    first = f"at-{played[0]:g}"
    for key, volume, hertz in sorted(wanted, key=lambda point: point[0] != first):
        tone = Tone(frequency_hz=hertz)
        yield Row(
            key=key,
            name=f"{'1 kHz' if hertz == _HIGH_HZ else '40 Hz'} at {volume}",
            point=point,
            wants=Circumstances(tone=tone, volume=volume, hanging=Hanging.NOTHING),
            play=tone.label,
            optional=key != first,
        )
    silent = Circumstances()
    chain = snapshot.sheet.chain
    ways = (chain.amplifier_of(path).turn_on, *(processor.turn_on for processor in chain.processors_of(path)))
    sensing = TurnOn.SENSING in ways
    yield Row(
        key="offset",
        name="Offset to chassis",
        quantity=Quantity.DC_VOLTS,
        point=point,
        wants=silent,
        target=OFFSET if sensing else None,
        optional=not sensing,
    )
    for key, name in (("off", "Turn-off delay, after locking"), ("left", "Turn-off delay, left unlocked")):
        yield Row(key=key, name=name, quantity=Quantity.SECONDS, unit="s", point=point, wants=silent, optional=True)
    yield Row(
        key="back",
        name="Offset back at unlocking",
        quantity=Quantity.DC_VOLTS,
        point=point,
        wants=silent,
        optional=True,
    )
    yield Row(
        key="ohms", name="Ohms of the pair", quantity=Quantity.OHMS, unit="Ω", point=point, wants=silent, optional=True
    )


def _conclusions(snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> Iterator[str]:
    """Conclusions from the volts: the band of the tap, the source's own bass cut, and whether its input fits."""
    volts = {
        key: reading.value
        for key, reading in readings.items()
        if reading.quantity is Quantity.AC_VOLTS and reading.value > 0
    }
    quiet, loud = (_bass_db(volts, key) for key in ("at", "loud"))
    point = step.point
    played = _played_hz(snapshot, point.source, point.output) if isinstance(point, OutputPoint) else ()
    if quiet is not None:
        yield _carries(quiet, played)
    if quiet is not None and loud is not None and loud < quiet - _ROLLS_OFF_DB:
        yield f"Turned up, it cuts bass by {format_db(quiet - loud)}. Measure at the volume that is used."
    heard = (f"{when}-{hertz:g}" for when in ("at", "loud") for hertz in played)
    most = max((volts[key] for key in heard if key in volts), default=None)
    if most is not None:
        yield from _fits(snapshot, step, most)


def _carries(bass_db: float, played: tuple[float, ...]) -> str:
    """The band of a tap; another one is to be summed with it only where something plays what is missing."""
    if bass_db < -_DIVIDED_DB:
        band = f"Bass is {format_db(-bass_db)} below 1 kHz: no bass here."
        return f"{band} Sum this tap with the one that carries bass." if _LOW_HZ in played else band
    if bass_db > _DIVIDED_DB:
        band = f"1 kHz is {format_db(bass_db)} below bass: only bass here."
        return f"{band} Sum it with the tap that carries the rest." if _HIGH_HZ in played else band
    return "Bass and 1 kHz are level."


def _bass_db(volts: dict[str, float], when: str) -> float | None:
    low, high = volts.get(f"{when}-40"), volts.get(f"{when}-1000")
    return ratio_db(low, high) if low and high else None


def _fits(snapshot: JobSnapshot, step: Step, most_v: float) -> Iterator[str]:
    """Against what it feeds: a converter's input, or an amplifier's."""
    chain = snapshot.sheet.chain
    path = next(path for path in chain.paths if path.id == step.along)
    processors, amplifier = chain.processors_of(path), chain.amplifier_of(path)
    if processors:
        least, highest, what = processors[0].lowest_input.v, processors[0].highest_input.v, processors[0].name
    else:
        scale = amplifier.range_of(path.input)
        least, highest = (scale.up_v, amplifier.highest_of(path.input) or scale.down_v) if scale else (None, None)
        what = f"the {path.input.value}-level input"
    what, shown = what or "its input", format_value(most_v, "V", 3)
    if highest and most_v > highest:
        takes = format_value(highest, "V", 3)
        yield f"{shown} is above the limit of {what}, {takes}. Use a divider, or a tap before the amplifier."
    elif least and most_v < _BARE * least:
        yield (
            f"{shown} is barely above the {format_value(least, 'V', 3)} that {what} needs: full gain, and noise. "
            "Use a tap after the factory amplifier."
        )
    elif highest or least:
        yield f"{shown} fits {what}."


class FactorySystem(rows.RowsKind):
    kind = StepKind.FACTORY

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, (source, output, path) in enumerate(_taps(snapshot)):
            found = tuple(_rows(snapshot, source, output, path))
            name = output.name or "Speaker wires"
            yield (
                (PREPARE, 4, number),
                Step(
                    key=factory_key(source.id, output.id),
                    kind=StepKind.FACTORY,
                    along=path.id,
                    name=name,
                    title=f"Check the factory wires: {name}",
                    do=(
                        f"Find the pair by continuity to its speaker. Only the volts at {found[0].name} are needed; "
                        "the rest is optional.",
                        "Read the offset from one wire to chassis, and time how long after locking it falls.",
                    ),
                    probe=f"across the two wires of {name}, nothing else connected (offset: one wire to chassis)",
                    point=OutputPoint(source=source.id, output=output.id),
                    wants=found[0].wants,
                    top_volume=source.top_volume,
                    play=found[0].play,
                    rows=found,
                    cautions=(*cautions.at_output(output.expected_v or 0.0), cautions.HIGH_VOLTAGE_WIRING),
                    optional=True,
                ),
            )

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        for source, output, _ in _taps(snapshot):
            if factory_key(source.id, output.id) == step.key:
                return (*output_of(source, output.id), *source_settings(source))
        return ()

    @override
    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        return " ".join(_conclusions(snapshot, step, readings))

    @override
    def meaning(self, snapshot: JobSnapshot, step: Step, row: Row, reading: Reading) -> tuple[str, ...]:
        if row.key == "ohms":
            return diagnostics.of_wires(reading.value)
        if row.key == "offset":
            return diagnostics.of_offset(reading.value)
        if row.key == "back":
            return diagnostics.of_offset_back(reading.value)
        return diagnostics.of_turn_off(reading.value) if row.key in ("off", "left") else ()
