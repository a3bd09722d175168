"""
Values that nobody has confirmed: they came with a layout or a default, and they count.

A mark keeps the value that it was set for, so that it is settled by the value itself: whoever types another one has
looked, whichever page and whichever save it comes from.
"""

from collections.abc import Iterator
from typing import Annotated, Any

from pydantic import BaseModel, JsonValue, StringConstraints

from upper_rook.core.common.labels import labelled
from upper_rook.core.common.units import Frozen
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.new_parts import new_parts

PlaceName = Annotated[str, StringConstraints(pattern=r"^[a-z0-9_.-]{1,200}$")]

_COUNTS = {
    "sources": ("top_volume",),
    "processors": (
        "highest_input",
        "input_full_scale_v",
        "lowest_output_v",
        "highest_output_v",
        "output_full_scale_v",
    ),
    "amplifiers": ("ratings", "lowest_load_ohm", "gain_range", "high_level_range", "highest_input_v"),
    "paths": ("filters",),
    "loads": ("impedance_ohm", "power_w", "sensitivity_db", "lowest_hz", "highest_hz", "tuning_hz", "passive_hz"),
}
"""Fields of a part that change a figure of the plan."""


class Unconfirmed(Frozen):
    """A value that counts and that nobody has confirmed."""

    model_config = labelled("Not confirmed", place="place", value="value")
    place: PlaceName
    """Within the system, parts by their ids: `loads.front.power_w`."""
    value: JsonValue
    """As it came; another value at this place is confirmed by having been typed."""


def counting(chain: Chain) -> tuple[Unconfirmed, ...]:
    """Every value of `chain` that counts and is there."""
    return tuple(
        unconfirmed for kind in _COUNTS for part in getattr(chain, kind) for unconfirmed in _of_part(kind, part)
    )


def _of_part(kind: str, part: BaseModel) -> Iterator[Unconfirmed]:
    fields = part.model_dump(mode="json", include={"id", "outputs", "sections", *_COUNTS[kind]})
    own = f"{kind}.{fields['id']}"
    if not any(fitted["dial"] for fitted in fields.get("filters", ())):
        # Corners are chosen; it is the scales of dials that have to be read.
        fields["filters"] = []
    yield from _said(own, fields, kind)
    for section in fields.get("sections", ()):
        yield from _said(f"{own}.sections.{section['id']}", section, kind)
    for output in fields.get("outputs", ()):
        if output["rated"]["volts"] is not None or output["rated"]["watts"] is not None:
            yield Unconfirmed(place=f"{own}.outputs.{output['id']}.rated", value=output["rated"])


def _said(place: str, fields: dict[str, Any], kind: str) -> Iterator[Unconfirmed]:
    for field in _COUNTS[kind]:
        if fields[field] not in (None, []):
            yield Unconfirmed(place=f"{place}.{field}", value=fields[field])


def standing(marks: tuple[Unconfirmed, ...], chain: Chain) -> tuple[Unconfirmed, ...]:
    """The marks whose value is still there as it came, each once."""
    if not marks:
        return ()
    now = {unconfirmed.place: unconfirmed for unconfirmed in counting(chain)}
    return tuple({mark.place: mark for mark in marks if now.get(mark.place) == mark}.values())


def of_new_parts(before: Chain, after: Chain) -> tuple[Unconfirmed, ...]:
    """Fields that weren't in `before` and come from a new part, a new range or a new rating."""
    was, defaults = (
        {unconfirmed.place: unconfirmed.value for unconfirmed in counting(before)},
        new_parts().model_dump(mode="json"),
    )
    rating = defaults["rating"]
    begun = {
        "top_volume": [defaults["source"]["top_volume"]],
        "highest_input": [defaults["converter"]["highest_input"], defaults["processor"]["highest_input"]],
        "highest_output_v": [defaults["converter"]["highest_output_v"], defaults["processor"]["highest_output_v"]],
        "gain_range": [defaults["gain_range"]],
        "high_level_range": [defaults["high_level_range"]],
    }
    found = []
    for unconfirmed in counting(after):
        field, known = unconfirmed.place.rpartition(".")[2], was.get(unconfirmed.place)
        appended = [*(known if isinstance(known, list) else ()), rating] if field == "ratings" else None
        if unconfirmed.value == appended or (known is None and unconfirmed.value in begun.get(field, ())):
            found.append(unconfirmed)
    return tuple(found)
