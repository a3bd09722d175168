"""Labels to stick on: the number beside the source, the volts beside each gain, what each wire of a plug is."""

from collections.abc import Iterator
from datetime import date

from upper_rook.core.common.moments import format_day
from upper_rook.core.common.units import Frozen, format_hertz, format_value
from upper_rook.core.handover.document import Handover


class Label(Frozen):
    """One label: what it is for, its figure, and what the figure holds with."""

    name: str
    figure: str
    told: str


def labels(document: Handover) -> tuple[Label, ...]:
    """
    Every label of a document, in the order of the signal; what was not measured, or is to be redone, has none.

    A figure carries the day that it was measured, whenever it is printed; one of a practice job says so.
    """
    return (*_numbers(document), *_gains(document), *_wires(document))


def _numbers(document: Handover) -> Iterator[Label]:
    for number in document.numbers:
        if number.volume is not None:
            told = _told(document, number.taken_on, *number.by_way)
            yield Label(name=number.source, figure=f"never pass {number.volume}", told=told)


def _gains(document: Handover) -> Iterator[Label]:
    for output in document.outputs:
        if output.voltage_v is None or output.outdated:
            continue
        at = "" if output.volume is None else f"at {output.volume}"
        tone = "" if output.tone_hz is None else format_hertz(output.tone_hz)
        told = _told(document, output.taken_on, at, tone)
        yield Label(name=output.name, figure=format_value(output.voltage_v, "V", 3), told=told)


def _wires(document: Handover) -> Iterator[Label]:
    for plug in document.plugs:
        for found in plug.wires:
            if found.sentence:
                name = f"{plug.name}: {found.wire.called}"
                yield Label(name=name, figure=found.sentence, told=_told(document, None))


def _told(document: Handover, day: date | None, *words: str) -> str:
    practice = "practice" if document.practice else ""
    return ", ".join(word for word in (*words, format_day(day), practice) if word)
