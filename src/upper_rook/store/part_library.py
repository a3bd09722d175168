"""The shop's library of parts: amplifiers, processors and speakers."""

from datetime import date, datetime
from typing import Any
from uuid import UUID

from pydantic import Field
from sqlmodel import Session, col

from upper_rook.core.common.units import Frozen
from upper_rook.core.parts.shop_part import PartKind, ShopPart
from upper_rook.store.library import LONGEST_SEARCH, Kept, Library
from upper_rook.store.tables import ShopPartRow


class PartEntry(Frozen):
    """A part in the list."""

    id: UUID
    version: int
    name: str
    kind: PartKind
    units: int
    measured_on: date | None
    changed_at: datetime
    deleted_at: datetime | None


class KeptPart(Frozen):
    """A part of the library."""

    id: UUID
    version: int
    sheet: ShopPart
    changed_at: datetime
    deleted_at: datetime | None


class PartsWanted(Frozen):
    """Filter of the parts to list."""

    search: str = Field(default="", max_length=LONGEST_SEARCH)
    """Words that all must be found."""
    kind: PartKind | None = None
    in_bin: bool = False


class PartPage(Frozen):
    """Some parts, the last touched first."""

    parts: tuple[PartEntry, ...]
    total: int
    after: str | None
    """Cursor for the next ones, or None at the end."""


def _columns(part: ShopPart) -> dict[str, Any]:
    """Columns that the list shows of a part and finds it by."""
    return {
        "name": part.name,
        "kind": part.kind.value,
        "words": " ".join((part.name, part.note, *(unit.name for unit in part.units))),
        "units": len(part.units),
        "measured_on": part.measured_on,
    }


_LIBRARY = Library(ShopPartRow, ShopPart, _columns, "part")


def find(session: Session, wanted: PartsWanted, after: str | None, limit: int) -> PartPage:
    """One page. Raises BadInput for an `after` that this list never gave."""
    conditions = _LIBRARY.conditions(wanted.search, in_bin=wanted.in_bin)
    if wanted.kind:
        conditions.append(col(ShopPartRow.kind) == wanted.kind.value)
    page = _LIBRARY.page(session, tuple(PartEntry.model_fields), conditions, after, limit)
    shown = tuple(PartEntry.model_validate(dict(row)) for row in page.rows)
    return PartPage(parts=shown, total=page.total, after=page.after)


def get_part(session: Session, part_id: UUID) -> KeptPart:
    """One part. Raises NotFound."""
    return _kept(_LIBRARY.get(session, part_id))


def keep_new(session: Session, part_id: UUID, part: ShopPart) -> KeptPart:
    """A part under the id its sender chose; sent again it is kept once. Raises Conflict when another one has it."""
    return _kept(_LIBRARY.keep_new(session, part_id, part))


def save(session: Session, part_id: UUID, base_version: int, part: ShopPart) -> KeptPart:
    """A part in place of its former version. Raises NotFound, or Conflict unless `base_version` is the newest."""
    return _kept(_LIBRARY.save(session, part_id, base_version, part))


def set_in_bin(session: Session, part_id: UUID, *, there: bool) -> KeptPart:
    """Puts a part into the bin, or takes it out; done twice it is done once. Raises NotFound."""
    return _kept(_LIBRARY.set_in_bin(session, part_id, there=there))


def _kept(kept: Kept[ShopPart]) -> KeptPart:
    return KeptPart(**kept._asdict())
