"""The shop's library of source sheets: kept, searched, and put into the bin."""

from datetime import UTC, date, datetime
from typing import Any
from uuid import UUID

from pydantic import Field, ValidationError
from sqlalchemy import ColumnElement, func, tuple_
from sqlalchemy import select as sa_select
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.common.folding import folded
from upper_rook.core.common.units import Frozen, Volts
from upper_rook.core.sources.source_sheet import SourceSheet
from upper_rook.core.system.source import SourceKind
from upper_rook.store.paging import named, place_of
from upper_rook.store.tables import SourceSheetRow

LONGEST_SEARCH = 200
LONGEST_WORDS = 4000


class SourceEntry(Frozen):
    """A source in the list."""

    id: UUID
    version: int
    name: str
    kind: SourceKind
    least_v: float | None
    most_v: float | None
    units: int
    measured_on: date | None
    changed_at: datetime
    deleted_at: datetime | None


class KeptSource(Frozen):
    """A source sheet of the library."""

    id: UUID
    version: int
    sheet: SourceSheet
    changed_at: datetime
    deleted_at: datetime | None


class SourcesWanted(Frozen):
    """Filter of the sources to list."""

    search: str = Field(default="", max_length=LONGEST_SEARCH)
    """Words that all must be found."""
    kind: SourceKind | None = None
    from_v: Volts | None = None
    """Clean volts of its best output, at least."""
    to_v: Volts | None = None
    in_bin: bool = False


class SourcePage(Frozen):
    """Some sources, the last touched first."""

    sources: tuple[SourceEntry, ...]
    total: int
    after: str | None
    """Cursor for the next ones, or None at the end."""


_COLUMNS = tuple(col(getattr(SourceSheetRow, name)) for name in SourceEntry.model_fields)


def find(session: Session, wanted: SourcesWanted, after: str | None, limit: int) -> SourcePage:
    """One page. Raises BadInput for an `after` that this list never gave."""
    place = (col(SourceSheetRow.changed_at), col(SourceSheetRow.id))
    conditions = _conditions(wanted)
    rows = sa_select(*_COLUMNS).where(*conditions).order_by(*(one.desc() for one in place)).limit(limit + 1)
    if after is not None:
        rows = rows.where(tuple_(*place) < place_of(after))
    found = session.execute(rows).mappings().all()
    total = session.execute(sa_select(func.count()).select_from(SourceSheetRow).where(*conditions)).scalar_one()
    shown = tuple(SourceEntry.model_validate(dict(row)) for row in found[:limit])
    more = named(shown[-1].changed_at, shown[-1].id) if len(found) > limit else None
    return SourcePage(sources=shown, total=total, after=more)


def _conditions(wanted: SourcesWanted) -> list[ColumnElement[bool]]:
    found = [col(SourceSheetRow.words).contains(word, autoescape=True) for word in folded(wanted.search).split()]
    if wanted.kind:
        found.append(col(SourceSheetRow.kind) == wanted.kind.value)
    if wanted.from_v is not None:
        found.append(col(SourceSheetRow.most_v) >= wanted.from_v)
    if wanted.to_v is not None:
        found.append(col(SourceSheetRow.least_v) <= wanted.to_v)
    gone = col(SourceSheetRow.deleted_at)
    return [gone.is_not(None) if wanted.in_bin else gone.is_(None), *found]


def get_source(session: Session, source_id: UUID) -> KeptSource:
    """One sheet. Raises NotFound."""
    row = session.get(SourceSheetRow, source_id)
    if row is None:
        raise _none()
    return _kept(row)


def keep_new(session: Session, source_id: UUID, sheet: SourceSheet) -> KeptSource:
    """
    A sheet under the id its sender chose; sent again it is kept once.

    Raises Conflict when another sheet has this id.
    """
    row = insert(SourceSheetRow).values(id=source_id, version=1, **_columns(sheet))
    if not session.execute(row.on_conflict_do_nothing().returning(col(SourceSheetRow.id))).first():
        kept = get_source(session, source_id)
        if kept.sheet != sheet:
            raise Conflict("Another source already has this id. Use a new one.", "id")
        return kept
    return get_source(session, source_id)


def save(session: Session, source_id: UUID, base_version: int, sheet: SourceSheet) -> KeptSource:
    """A sheet in place of its former version. Raises NotFound, or Conflict unless `base_version` is the newest."""
    row = _held(session, source_id)
    if _kept(row).sheet == sheet:
        return _kept(row)
    if row.version != base_version:
        raise Conflict("This source was changed somewhere else in the meantime: reload it, then do it again.")
    for name, value in _columns(sheet).items():
        setattr(row, name, value)
    row.version += 1
    row.changed_at = datetime.now(UTC)
    session.add(row)
    session.flush()
    return _kept(row)


def set_in_bin(session: Session, source_id: UUID, there: bool) -> KeptSource:
    """Puts a sheet into the bin, or takes it out; done twice it is done once. Raises NotFound."""
    row = _held(session, source_id)
    if (row.deleted_at is None) == there:
        row.deleted_at = datetime.now(UTC) if there else None
    session.add(row)
    session.flush()
    return _kept(row)


def _held(session: Session, source_id: UUID) -> SourceSheetRow:
    """A row that nobody else changes until the transaction ends."""
    row = session.exec(select(SourceSheetRow).where(SourceSheetRow.id == source_id).with_for_update()).first()
    if row is None:
        raise _none()
    return row


def _none() -> NotFound:
    return NotFound("There is no such source here: go back to the list of sources.")


def _kept(row: SourceSheetRow) -> KeptSource:
    try:
        sheet = SourceSheet.model_validate(row.sheet)
    except ValidationError:
        raise Conflict("This source sheet needs another version of Upper Rook: bring the app up to date.") from None
    return KeptSource(id=row.id, version=row.version, sheet=sheet, changed_at=row.changed_at, deleted_at=row.deleted_at)


def _columns(sheet: SourceSheet) -> dict[str, Any]:
    """The sheet, and what the list shows of it and finds it by."""
    cells = [one for unit in sheet.units for one in unit.cells if one.clean_v is not None]
    lines = [cell for cell in cells if sheet.is_line(cell)] or cells
    volts = [line.clean_v for line in lines if line.clean_v is not None]
    names = (sheet.name, sheet.note, *(output.name for output in sheet.outputs), *(one.name for one in sheet.units))
    newest = sheet.unit()
    return {
        "sheet": sheet.model_dump(mode="json"),
        "name": sheet.name,
        "kind": sheet.kind.value,
        "words": folded(" ".join(names))[:LONGEST_WORDS],
        "least_v": min(volts, default=None),
        "most_v": max(volts, default=None),
        "units": len(sheet.units),
        "measured_on": newest.measured_on if newest else None,
    }
