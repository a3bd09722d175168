"""The plugs of a factory system, wire by wire: what each is, which turns things on, and what that can switch."""

from collections.abc import Iterator
from itertools import groupby

from typing_extensions import override

from upper_rook.core.common import cautions
from upper_rook.core.common.units import Frozen, format_value
from upper_rook.core.run.freshness.dependencies import Dependencies, Dependency
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.points import WirePoint
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.run.readings.step_keys import plug_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import diagnostics, rows
from upper_rook.core.run.steps.kind import PREPARE, Place
from upper_rook.core.run.steps.step import Row, RowChoice, Step, StepKind, StepState
from upper_rook.core.stages.calculator import impedance_from, in_words
from upper_rook.core.system.plug import Plug, Wire, WireRole
from upper_rook.core.system.source import Source, SourceKind

OHMS, HEARD, OFF, ON, ASLEEP, LOADED = "ohms", "heard", "off", "on", "asleep", "loaded"
_WITH_FACTORY_WIRES = 3
# Common practice, no source: all that follows.
_THERE_V, _FULL_V = 2.0, 10.0
"""Fewer volts than this are none, and from here on it is a battery's."""
_HALF_V = (4.0, 8.0)
"""A turn-on lead of some factory systems."""
_SAGS_V = 1.0
"""By so much more it falls with a lamp on it, and it drives nothing."""
_OFFSET_V = (1.0, 9.0)


class _Measure(Frozen):
    """One reading of a wire."""

    key: str
    name: str
    quantity: Quantity
    unit: str
    asked: frozenset[WireRole]
    """Roles for which it has to be read; for the others of `may` it is optional."""
    may: frozenset[WireRole]


_ELECTRIC = frozenset({WireRole.SUPPLY, WireRole.SWITCHED, WireRole.TURN_ON, WireRole.UNKNOWN})
_ALL = frozenset(WireRole)
_MEASURES = (
    _Measure(
        key=HEARD,
        name="continuity to its speaker or ground",
        quantity=Quantity.CONTINUITY,
        unit="",
        asked=frozenset(),
        may=frozenset({WireRole.SPEAKER, WireRole.GROUND, WireRole.UNKNOWN}),
    ),
    _Measure(
        key=OHMS,
        name="ohms to its other wire",
        quantity=Quantity.OHMS,
        unit="Ω",
        asked=frozenset({WireRole.SPEAKER}),
        may=frozenset({WireRole.SPEAKER, WireRole.UNKNOWN}),
    ),
    _Measure(
        key=OFF, name="DC to chassis, key off", quantity=Quantity.DC_VOLTS, unit="V", asked=_ELECTRIC, may=_ELECTRIC
    ),
    _Measure(
        key=ON,
        name="DC to chassis, key on",
        quantity=Quantity.DC_VOLTS,
        unit="V",
        asked=_ELECTRIC,
        may=_ALL - {WireRole.GROUND},
    ),
    _Measure(
        key=ASLEEP,
        name="DC to chassis, asleep",
        quantity=Quantity.DC_VOLTS,
        unit="V",
        asked=frozenset(),
        may=_ELECTRIC | {WireRole.SPEAKER},
    ),
    _Measure(
        key=LOADED,
        name="DC with a small lamp on it",
        quantity=Quantity.DC_VOLTS,
        unit="V",
        asked=frozenset(),
        may=frozenset({WireRole.TURN_ON, WireRole.SWITCHED, WireRole.UNKNOWN}),
    ),
)
_YES_NO = (RowChoice(value=1.0, text="connected"), RowChoice(value=0.0, text="not connected"))


def _row_key(wire: Wire, measure: str) -> str:
    return f"{wire.id}-{measure}"


def _rows(plug: Plug) -> Iterator[Row]:
    """Sorted by what is measured: the meter's dial is turned once for all wires."""
    read_once = {other.id for _, other in _partners(plug)}
    for measure in _MEASURES:
        for wire in plug.wires:
            # The ohms of a pair are read once.
            if wire.role not in measure.may or (measure.key == OHMS and wire.id in read_once):
                continue
            yield Row(
                key=_row_key(wire, measure.key),
                name=f"{wire.called}: {measure.name}",
                quantity=measure.quantity,
                unit=measure.unit,
                point=WirePoint(wire=wire.called),
                wants=Circumstances(),
                optional=wire.role not in measure.asked,
                choices=_YES_NO if measure.quantity is Quantity.CONTINUITY else (),
            )


def _partners(plug: Plug) -> Iterator[tuple[Wire, Wire]]:
    """Of the wires that go to the same speaker the first, with each of the others."""
    own = [wire for wire in plug.wires if wire.role is WireRole.SPEAKER and wire.speaker]
    for _, wires in groupby(sorted(own, key=_speaker), key=_speaker):
        first, *others = wires
        yield from ((first, other) for other in others)


def _paired(first: Wire | None, readings: dict[str, Reading]) -> str:
    """That a wire's ohms were read from its other wire."""
    return f"pair with {first.called}" if first and _value(readings, first, OHMS) is not None else ""


def _speaker(wire: Wire) -> str:
    return wire.speaker.casefold()


class Found(Frozen):
    """A wire, and its purpose as far as it was measured."""

    wire: Wire
    sentence: str
    """Empty while nothing was read."""


class PlugDrawing(Frozen):
    """A plug as it stands on the sheet."""

    name: str
    wires: tuple[Found, ...]


def _value(readings: dict[str, Reading], wire: Wire, measure: str) -> float | None:
    reading = readings.get(_row_key(wire, measure))
    return reading.value if reading else None


def _found(wire: Wire, readings: dict[str, Reading]) -> str:
    """Conclusion from the readings of one wire."""
    on, off = _value(readings, wire, ON), _value(readings, wire, OFF)
    told = [*_electric(on, off), *_of_lamp(on, _value(readings, wire, LOADED)), *_of_sleep(readings, wire, on, off)]
    ohms, heard = _value(readings, wire, OHMS), _value(readings, wire, HEARD)
    if ohms is not None:
        meaning = in_words(impedance_from(ohms)).rstrip(".")
        told.append(f"{format_value(ohms, 'Ω')}, {meaning[:1].lower()}{meaning[1:]}")
    if heard is not None:
        to = wire.speaker or ("ground" if wire.role is WireRole.GROUND else "its speaker")
        told.append(f"connected to {to}" if heard else f"not connected to {to}")
    if on is not None and wire.role is WireRole.SPEAKER and _OFFSET_V[0] <= abs(on) <= _OFFSET_V[1]:
        told.append(f"carries {format_value(on, 'V')} DC: an amplifier on it")
    return "; ".join(told)


def _electric(on: float | None, off: float | None) -> Iterator[str]:
    if on is None or off is None:
        return
    if on >= _FULL_V and off >= _FULL_V:
        yield f"constant {format_value(on, 'V')}"
    elif on >= _FULL_V and off < _THERE_V:
        yield f"turns on with the key, {format_value(on, 'V')}"
    elif _HALF_V[0] <= on <= _HALF_V[1] and off < _THERE_V:
        yield f"turns on with the key, only {format_value(on, 'V')}: too little for a 12 V turn-on input, use a relay"
    elif abs(on) < _THERE_V and abs(off) < _THERE_V:
        yield "no volts"
    else:
        yield f"{format_value(off, 'V')} off, {format_value(on, 'V')} on"


def _of_lamp(on: float | None, loaded: float | None) -> Iterator[str]:
    if on is None or loaded is None:
        return
    if on - loaded > _SAGS_V:
        yield f"falls to {format_value(loaded, 'V')} with a lamp: it drives no relay"
    else:
        yield "drives a lamp and a relay"


def _of_sleep(readings: dict[str, Reading], wire: Wire, on: float | None, off: float | None) -> Iterator[str]:
    asleep = _value(readings, wire, ASLEEP)
    if asleep is None or max(on or 0.0, off or 0.0) < _THERE_V:
        return
    yield "off once asleep" if abs(asleep) < _THERE_V else "stays on while asleep"


def _plugs(snapshot: JobSnapshot) -> Iterator[tuple[Source, Plug]]:
    for source in snapshot.sheet.chain.feeding():
        if source.kind is SourceKind.FACTORY:
            for plug in source.plugs:
                if plug.wires:
                    yield source, plug


def drawings(snapshot: JobSnapshot) -> tuple[PlugDrawing, ...]:
    """Every plug with what its wires were found to be."""
    found = []
    for source, plug in _plugs(snapshot):
        readings = rows.last_readings(snapshot, plug_key(source.id, plug.id))
        others = {wire.id: first for first, wire in _partners(plug)}
        wires = tuple(
            Found(wire=wire, sentence=_found(wire, readings) or _paired(others.get(wire.id), readings))
            for wire in plug.wires
        )
        found.append(PlugDrawing(name=plug.name or plug.id, wires=wires))
    return tuple(found)


class Plugs(rows.RowsKind):
    kind = StepKind.PLUG

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, (source, plug) in enumerate(_plugs(snapshot)):
            found = tuple(_rows(plug))
            if not found:
                continue
            name = plug.name or plug.id
            yield (
                (PREPARE, _WITH_FACTORY_WIRES, number),
                Step(
                    key=plug_key(source.id, plug.id),
                    kind=StepKind.PLUG,
                    name=f"Plug {name}",
                    title=f"Hunt the wires: plug {name}",
                    do=(
                        "Probe from the back of the plug. Ohms and continuity only with everything off and the plug "
                        "apart; never on data wires.",
                        "Volts from the wire to bare metal: key off, key on, and once the vehicle sleeps.",
                    ),
                    probe="the named wire and bare metal of the chassis",
                    point=found[0].point,
                    wants=Circumstances(),
                    rows=found,
                    cautions=(cautions.HIGH_VOLTAGE_WIRING, cautions.POWER_OFF_FIRST, cautions.MAKERS_FIRST),
                    optional=True,
                ),
            )

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        """Its own wires; their roles are guesses, which the readings answer."""
        own = next((plug for source, plug in _plugs(snapshot) if plug_key(source.id, plug.id) == step.key), None)
        wires = own.wires if own else ()
        return tuple(Dependency(place=f"wires.{wire.id}", label="wire", value=wire.called) for wire in wires)

    @override
    def left(self, snapshot: JobSnapshot, step: Step, state: StepState) -> str:
        """Nothing: its drawing stands on the sheet."""
        return ""

    @override
    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        own = next((plug for source, plug in _plugs(snapshot) if plug_key(source.id, plug.id) == step.key), None)
        told = ((wire, _found(wire, readings)) for wire in (own.wires if own else ()))
        return " ".join(f"{wire.called}: {sentence}." for wire, sentence in told if sentence)

    @override
    def meaning(self, snapshot: JobSnapshot, step: Step, row: Row, reading: Reading) -> tuple[str, ...]:
        return diagnostics.of_wires(reading.value) if row.quantity is Quantity.OHMS else ()
