"""Values that nobody has confirmed: they came with a layout or a default, and they count."""

from collections.abc import Iterator

from upper_rook.core.common.changes import changes
from upper_rook.core.common.units import Frozen
from upper_rook.core.system.amplifier import Amplifier
from upper_rook.core.system.chain import Chain, Path
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.loads import Load
from upper_rook.core.system.new_parts import new_parts
from upper_rook.core.system.processor import Processor
from upper_rook.core.system.source import Source

_COUNTS = {
    "sources": ("top_volume",),
    "processors": ("highest_input", "lowest_output_v", "highest_output_v"),
    "amplifiers": ("ratings", "lowest_load_ohm", "gain_range", "high_level_range", "highest_input_v"),
    "loads": ("impedance_ohm", "power_w", "sensitivity_db", "lowest_hz", "highest_hz", "tuning_hz", "passive_hz"),
}
"""What of a part changes a figure of the plan."""


class Unconfirmed(Frozen):
    """One value that counts and that nobody has confirmed."""

    place: str
    """Within the system, parts by their ids: `loads.front.power_w`."""
    words: str = ""
    """The part and the value in words; worked out when it is shown."""


def counting(chain: Chain) -> tuple[str, ...]:
    """The places of every value of `chain` that counts and is there."""
    return tuple(_counting(chain))


def _counting(chain: Chain) -> Iterator[str]:
    for kind, fields in _COUNTS.items():
        for part in getattr(chain, kind):
            for field in fields:
                if getattr(part, field, None) not in (None, ()):
                    yield f"{kind}.{part.id}.{field}"
            for output in getattr(part, "outputs", ()):
                if output.rated.v is not None:
                    yield f"{kind}.{part.id}.outputs.{output.id}.rated"


def from_layout(sheet: JobSheet) -> JobSheet:
    """`sheet` with all of its values marked as not confirmed."""
    return sheet.model_copy(update={"not_confirmed": counting(sheet.chain)})


def settled(before: JobSheet, after: JobSheet) -> JobSheet:
    """
    `after` without the marks of what was changed since `before`, is no longer there, or isn't marked any more.

    Where a layout was chosen meanwhile there are marks on values that are new: then all of its marks stand.
    """
    fresh = tuple(_fresh(before.chain, after.chain))
    if not after.not_confirmed and not fresh:
        return after
    touched = [one.place.removeprefix("chain.") for one in changes(before, after)]
    there, known = set(counting(after.chain)), set(before.not_confirmed)
    rows = [
        (place, place in known, any(_within(one, place) for one in touched))
        for place in dict.fromkeys(after.not_confirmed)
        if place in there
    ]
    laid_out = any(is_touched and not was_known for _, was_known, is_touched in rows)
    old = (place for place, was_known, is_touched in rows if (laid_out if is_touched else was_known))
    kept = tuple(dict.fromkeys((*old, *fresh)))
    return after if kept == after.not_confirmed else after.model_copy(update={"not_confirmed": kept})


def _fresh(before: Chain, after: Chain) -> Iterator[str]:
    """The places of what a source or stage that was just added began with and still has."""
    defaults = new_parts()
    begun = {
        "sources": (defaults.source,),
        "processors": (defaults.converter, defaults.processor),
    }
    for kind, models in begun.items():
        known = {part.id for part in getattr(before, kind)}
        for part in getattr(after, kind):
            if part.id in known:
                continue
            model = next((one for one in models if getattr(one, "kind", None) == part.kind), models[0])
            for field in _COUNTS[kind]:
                value = getattr(part, field)
                if value is not None and value == getattr(model, field):
                    yield f"{kind}.{part.id}.{field}"


def _within(changed: str, place: str) -> bool:
    """Whether a change is at a place, inside it, or of the whole part that it belongs to."""
    return changed == place or changed.startswith(f"{place}.") or place.startswith(f"{changed}.")


def of_path(sheet: JobSheet, path: Path) -> tuple[Unconfirmed, ...]:
    """What of a path nobody has confirmed, from the source on."""
    if not sheet.not_confirmed:
        return ()
    chain = sheet.chain
    parts: list[tuple[str, Source | Processor | Amplifier | Load, str]] = [
        ("sources", chain.source_of(path), "source"),
        *(("processors", one, "processor") for one in chain.processors_of(path)),
        ("amplifiers", chain.amplifier_of(path), "amplifier"),
        ("loads", chain.load_of(path), "speakers"),
    ]
    found = []
    for kind, part, noun in parts:
        own = f"{kind}.{part.id}."
        others = f"{own}outputs."
        for place in sheet.not_confirmed:
            foreign = place.startswith(others) and not place.startswith(f"{others}{path.output}.")
            if place.startswith(own) and not foreign:
                found.append(Unconfirmed(place=place, words=part.name or noun))
    return tuple(found)
