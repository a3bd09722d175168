"""Values that nobody has confirmed, as they are said, and where they count."""

from collections.abc import Iterator

from upper_rook.core.common.labels import label_at
from upper_rook.core.common.stated import Stated
from upper_rook.core.common.units import Frozen, Key, format_hertz, format_value
from upper_rook.core.system.confirmation import Unconfirmed, standing
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.path import Path

_UNITS = {"power_w": "W", "impedance_ohm": "Ω", "lowest_load_ohm": "Ω", "sensitivity_db": "dB"}
_IN_TARGET = ("ratings", "impedance_ohm", "power_w")
"""Defaults that a target rests on."""
_HOW = {
    "top_volume": "turn it to its end and read the number",
    "gain_range": "read what is printed around the knob",
    "filters": "read what is printed around the dials",
    "high_level_range": "read what is printed around the knob",
}
_LABELS = {"filters": "dials of its filters"}
_NOUNS = {
    "sources": "source",
    "processors": "processor",
    "amplifiers": "amplifier",
    "loads": "speakers",
    "paths": "path",
}


class Doubted(Frozen):
    """A value that counts and that nobody has confirmed, with what hangs on it."""

    place: str
    """Within the system, parts by their ids: `loads.front.power_w`."""
    words: str
    """Part, value and unit: "Front, watts: 60 W"."""
    paths: tuple[Key, ...]
    how: str
    """How to find it out."""
    in_target: bool
    """Whether target volts rest on it."""


def doubted(sheet: JobSheet) -> tuple[Doubted, ...]:
    """Everything about `sheet` that still stands as it came with a layout or a default."""
    return tuple(_doubted(sheet, unconfirmed) for unconfirmed in standing(sheet.not_confirmed, sheet.chain))


def of_path(found: tuple[Doubted, ...], path: str) -> tuple[Doubted, ...]:
    """Defaults that one path rests on."""
    return tuple(doubt for doubt in found if path in doubt.paths)


def target_line(found: tuple[Doubted, ...]) -> Iterator[str]:
    """A line for the arithmetic of a target where it rests on what nobody has confirmed."""
    told = [doubt.words for doubt in found if doubt.in_target]
    if told:
        yield f"from a layout or a default, not confirmed: {'; '.join(told)}"


def _doubted(sheet: JobSheet, mark: Unconfirmed) -> Doubted:
    kind, key, *rest = mark.place.split(".")
    part = next(candidate for candidate in getattr(sheet.chain, kind) if candidate.id == key)
    label = _LABELS.get(rest[-1]) or label_at(JobSheet, f"chain.{mark.place}").rpartition(", ")[2]
    within = rest[1] if rest[0] in ("outputs", "sections") else None
    section = next(
        (candidate.name or candidate.id for candidate in getattr(part, "sections", ()) if candidate.id == within), ""
    )
    return Doubted(
        place=mark.place,
        words=f"{part.name or _NOUNS[kind]}{f', {section}' if section else ''}, {label}{_shown(mark, rest[-1])}",
        paths=tuple(path.id for path in sheet.chain.paths if _uses(path, kind, key, within)),
        how=_HOW.get(rest[-1], "read it off its data sheet"),
        in_target=rest[-1] in _IN_TARGET,
    )


def _uses(path: Path, kind: str, key: str, within: str | None) -> bool:
    used = {
        "sources": (path.source,),
        "processors": path.through,
        "amplifiers": (path.amplifier,),
        "loads": (path.load,),
        "paths": (path.id,),
    }
    return key in used[kind] and within in (None, path.section if kind == "amplifiers" else path.output)


def _shown(mark: Unconfirmed, field: str) -> str:
    """The value itself, where it is one number or one statement."""
    value = mark.value
    if isinstance(value, dict) and "volts" in value:
        return f": {Stated.model_validate(value).label}"
    if isinstance(value, bool) or not isinstance(value, int | float):
        return ""
    if field.endswith("_hz"):
        return f": {format_hertz(value)}"
    return f": {format_value(value, 'V' if field.endswith('_v') else _UNITS.get(field, ''))}"
