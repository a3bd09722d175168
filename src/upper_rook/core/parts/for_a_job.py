"""A part of the shop put into a job's system, in place of one that is there."""

from typing import Any

from upper_rook.core.common.errors import BadInput, NotFound
from upper_rook.core.parts.shop_part import PartKind, ShopPart
from upper_rook.core.system.amplifier import Amplifier
from upper_rook.core.system.job_sheet import JobSheet

LISTS = {"amplifiers": PartKind.AMPLIFIER, "processors": PartKind.PROCESSOR, "loads": PartKind.SPEAKERS}
"""Lists of a system, and the kind of part that each holds."""


def with_part(sheet: JobSheet, place: str, part: ShopPart) -> JobSheet:
    """
    The sheet with a part's stated figures at a place such as `amplifiers.front`.

    How its speakers are wired and how many there are belongs to the vehicle and stays. Nobody has to confirm what the
    shop's part says.

    Raises:
        NotFound: without such a part in the system.
        BadInput: for another kind of part, or an amplifier with fewer sections than the system uses.
    """
    kind, _, part_id = place.partition(".")
    if LISTS.get(kind) is not part.kind:
        raise BadInput(f"This is no {part.kind.value}: choose a part of the same kind.", "place")
    document: dict[str, Any] = sheet.model_dump(mode="json")
    chain = document["chain"]
    own = next((number for number, part in enumerate(chain[kind]) if part["id"] == part_id), None)
    if own is None:
        raise NotFound("There is no such part in this job: reload the page.", "place")
    before = chain[kind][own]
    after = part.stated.model_dump(mode="json") | {"id": part_id}
    if part.amplifier is not None:
        after |= {name: before[name] for name in ("routing", "bass_knob", "place", "turn_on")}
        after["sections"] = _sections(chain["paths"], part_id, before["sections"], part.amplifier)
    elif part.speakers is not None:
        of_vehicle = ("count", "wiring", "band", "box", "tuning_hz", "passive_hz", "others")
        joined = ("coil_wiring",) if before["coils"] == after["coils"] else ()
        after |= {name: before[name] for name in (*of_vehicle, *joined)}
    else:
        # How its input is trimmed is the vehicle's.
        after |= {name: before[name] for name in ("turn_on", "inside", "input_full_scale_v")}
    chain[kind][own] = after
    document["not_confirmed"] = [
        unconfirmed for unconfirmed in document["not_confirmed"] if not unconfirmed["place"].startswith(f"{place}.")
    ]
    return JobSheet.model_validate(document)


def _sections(
    paths: list[dict[str, Any]], amplifier_id: str, before: list[dict[str, Any]], part: Amplifier
) -> list[dict[str, Any]]:
    """The part's sections, and each of the amplifier's `paths` moved to one of them in the order of the former ones."""
    sections = [section.model_dump(mode="json") for section in part.sections]
    used = [path for path in paths if path["amplifier"] == amplifier_id]
    if len(used) > max(1, len(sections)):
        raise BadInput(
            f"This amplifier has {max(1, len(sections))} section{'s' if len(sections) > 1 else ''}, and the system "
            f"uses {len(used)}: give the other paths another amplifier first.",
            "place",
        )
    order = [section["id"] for section in before]
    used.sort(key=lambda path: order.index(path["section"]) if path["section"] in order else 0)
    for path, section in zip(used, sections, strict=False):
        path["section"] = section["id"]
    if not sections:
        for path in used:
            path["section"] = None
    return sections
