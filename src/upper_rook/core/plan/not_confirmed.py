"""Values that nobody has confirmed, as they are said."""

from upper_rook.core.common.labels import label_at
from upper_rook.core.common.units import format_hertz, format_value
from upper_rook.core.system.chain import Path
from upper_rook.core.system.confirmation import Unconfirmed, of_path
from upper_rook.core.system.job_sheet import JobSheet

_UNITS = {"power_w": "W", "impedance_ohm": "Ω", "lowest_load_ohm": "Ω", "sensitivity_db": "dB", "top_volume": ""}


_IN_TARGET = ("ratings", "impedance_ohm", "power_w")
"""What a target rests on."""


def unconfirmed(sheet: JobSheet, path: Path) -> tuple[Unconfirmed, ...]:
    """Each value of a path that came with a layout or a default, with its part: "Front, watts: 60 W"."""
    return tuple(
        one.model_copy(update={"words": f"{one.words}, {_label(one.place)}{_shown(sheet, one.place)}"})
        for one in of_path(sheet, path)
    )


def in_target(found: tuple[Unconfirmed, ...]) -> tuple[str, ...]:
    """A line for the arithmetic of a target where it rests on what nobody has confirmed."""
    told = [one.words for one in found if one.place.rpartition(".")[2] in _IN_TARGET]
    return (f"from a layout or a default, not confirmed: {'; '.join(told)}",) if told else ()


def _label(place: str) -> str:
    return label_at(JobSheet, f"chain.{place}").rpartition(", ")[2]


def _shown(sheet: JobSheet, place: str) -> str:
    """The value itself, where it is one number."""
    value, field = _at(sheet, place), place.rpartition(".")[2]
    if isinstance(value, bool) or not isinstance(value, int | float):
        said = getattr(value, "label", "")
        return f": {said}" if said else ""
    if field.endswith("_hz"):
        return f": {format_hertz(value)}"
    if field.endswith("_v"):
        return f": {format_value(value, 'V')}"
    return f": {format_value(value, _UNITS.get(field, ''))}"


def _at(sheet: JobSheet, place: str) -> object:
    value: object = sheet.chain
    for step in place.split("."):
        if isinstance(value, tuple):
            value = next((one for one in value if getattr(one, "id", None) == step), None)
        else:
            value = getattr(value, step, None)
    return value
