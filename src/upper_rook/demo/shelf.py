"""The demo's sources: three that the workshop measured on its shelf."""

from datetime import date, timedelta

from upper_rook.core.common.stated import Stated
from upper_rook.core.sources.source_sheet import SheetOutput, SourceSheet, Tried, Unit
from upper_rook.core.system.playing import InputKind
from upper_rook.core.system.source import OutputKind, SourceKind
from upper_rook.instruments.source_bench import source_bench

_TAPS = OutputKind.SPEAKER


def _line(key: str, name: str, volts: float, kind: OutputKind = OutputKind.LINE) -> SheetOutput:
    return SheetOutput(id=key, name=name, kind=kind, rated=Stated(volts=volts))


def strong(on: date) -> SourceSheet:
    """Delivers what it states; its own amplifier clips long before its line outputs."""
    front = source_bench(top_volume=44, clean_v=4.32, overdrive_db=8.4, step_db=1.1, seed=1)
    rear = source_bench(top_volume=44, clean_v=4.27, overdrive_db=8.4, step_db=1.1, seed=2)
    taps = source_bench(top_volume=44, clean_v=8.7, overdrive_db=19.6, step_db=1.1, seed=3)
    cells = (
        *(front.cell("front", way=way, on=on) for way in (InputKind.USB, InputKind.WIRED_PHONE)),
        rear.cell("rear", way=InputKind.USB, on=on),
        taps.cell("speakers", way=InputKind.USB, on=on),
        *(front.cell("front", way=InputKind.USB, trim_db=trim, on=on) for trim in (-3.0, 3.0)),
    )
    outputs = (_line("front", "Front", 4.2), _line("rear", "Rear", 4.2), _line("speakers", "Speaker outputs", 9, _TAPS))
    unit = Unit(id="bench", name="the one on the shelf", cells=cells)
    return SourceSheet(
        name="Lanthorn R4", kind=SourceKind.AMPLIFIED, top_volume=44, outputs=outputs, units=(unit,), note="Shelf 2."
    )


def weak(on: date) -> SourceSheet:
    """Gives a good deal less than is stated; three units of it."""
    units = []
    for number, (name, clean_v) in enumerate((("ferry line 3", 1.46), ("harbour bus", 1.52), ("spare", 1.49))):
        shelf = source_bench(
            top_volume=62, clean_v=clean_v, overdrive_db=9.2 + 0.5 * number, step_db=0.8, seed=20 + number
        )
        cell = shelf.cell("line", way=InputKind.DISC, on=on - timedelta(days=90 * number))
        units.append(Unit(id=f"unit-{number + 1}", name=name, cells=(cell,)))
    return SourceSheet(name="Lanthorn R2", top_volume=62, outputs=(_line("line", "Line out", 2.2),), units=tuple(units))


def normalised(on: date) -> SourceSheet:
    """A player whose normaliser, on on its own, takes a third of the volts."""
    shelf = source_bench(
        top_volume=30,
        clean_v=1.03,
        overdrive_db=2.2,
        step_db=1.5,
        seed=31,
        ways_db={InputKind.WIRED_PHONE: 0.0, InputKind.WIRELESS_PHONE: -0.05},
    )
    normalised = Tried(
        setting="Normaliser",
        value="on",
        output="out",
        way=InputKind.WIRED_PHONE,
        volume=24,
        without_v=shelf.volts(24),
        with_v=shelf.volts(24, level_db=-3.6),
    )
    cells = tuple(shelf.cell("out", way=way, on=on) for way in (InputKind.WIRED_PHONE, InputKind.WIRELESS_PHONE))
    unit = Unit(id="shelf", name="the workshop’s own", cells=cells, tried=(normalised,))
    outputs = (_line("out", "Headphone out", 1.0),)
    return SourceSheet(name="Windhover P1", kind=SourceKind.PLAYER, top_volume=30, outputs=outputs, units=(unit,))
