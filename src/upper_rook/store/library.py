"""A library of the shop: documents that are kept by their versions, listed in pages, and put into the bin."""

from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from typing import Any, Generic, NamedTuple, Protocol, TypeVar
from uuid import UUID

from pydantic import BaseModel, ValidationError
from sqlalchemy import ColumnElement, RowMapping, func, tuple_
from sqlalchemy import select as sa_select
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, SQLModel, col, select

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.common.folding import folded
from upper_rook.store.paging import named, place_of

LONGEST_SEARCH = 200
LONGEST_WORDS = 4000
SheetT = TypeVar("SheetT", bound=BaseModel)


class _Row(Protocol):
    id: UUID
    version: int
    sheet: dict[str, Any]
    words: str
    changed_at: datetime
    deleted_at: datetime | None


class Kept(NamedTuple, Generic[SheetT]):
    """A document of a library."""

    id: UUID
    version: int
    sheet: SheetT
    changed_at: datetime
    deleted_at: datetime | None


class Page(NamedTuple):
    """Some rows of a library, the last touched first."""

    rows: Sequence[RowMapping]
    total: int
    after: str | None
    """Cursor for the next ones, or None at the end."""


class Library(Generic[SheetT]):
    """The documents of one table."""

    def __init__(
        self, table: type[SQLModel], sheet: type[SheetT], columns: Callable[[SheetT], dict[str, Any]], noun: str
    ) -> None:
        """`columns` gives what the list shows of a document and finds it by, `noun` what a document is of."""
        self._table: Any = table
        self._sheet, self._columns, self._noun = sheet, columns, noun

    def page(
        self,
        session: Session,
        columns: Sequence[str],
        wanted: Sequence[ColumnElement[bool]],
        after: str | None,
        limit: int,
    ) -> Page:
        """One page. Raises BadInput for an `after` that this list never gave."""
        place = (col(self._table.changed_at), col(self._table.id))
        shown = [col(getattr(self._table, name)) for name in columns]
        rows = sa_select(*shown).where(*wanted).order_by(*(part.desc() for part in place)).limit(limit + 1)
        if after is not None:
            rows = rows.where(tuple_(*place) < place_of(after))
        found = session.execute(rows).mappings().all()
        total = session.execute(sa_select(func.count()).select_from(self._table).where(*wanted)).scalar_one()
        last = found[limit - 1] if len(found) > limit else None
        return Page(found[:limit], total, named(last["changed_at"], last["id"]) if last else None)

    def conditions(self, search: str, *, in_bin: bool) -> list[ColumnElement[bool]]:
        """Conditions for rows with all the words, in the bin or out of it."""
        found = [col(self._table.words).contains(word, autoescape=True) for word in folded(search).split()]
        gone = col(self._table.deleted_at)
        return [gone.is_not(None) if in_bin else gone.is_(None), *found]

    def get(self, session: Session, sheet_id: UUID) -> Kept[SheetT]:
        """One document. Raises NotFound."""
        row = session.get(self._table, sheet_id)
        if row is None:
            raise self._none()
        return self._kept(row)

    def keep_new(self, session: Session, sheet_id: UUID, sheet: SheetT) -> Kept[SheetT]:
        """
        A document under the id its sender chose; sent again it is kept once.

        Raises Conflict when another document has this id.
        """
        row = insert(self._table).values(id=sheet_id, version=1, **self._values(sheet))
        if not session.execute(row.on_conflict_do_nothing().returning(col(self._table.id))).first():
            kept = self.get(session, sheet_id)
            if kept.sheet != sheet:
                raise Conflict(f"Another {self._noun} already has this id. Use a new one.", "id")
            return kept
        return self.get(session, sheet_id)

    def save(self, session: Session, sheet_id: UUID, base_version: int, sheet: SheetT) -> Kept[SheetT]:
        """
        A document in place of its former version.

        Raises NotFound, or Conflict unless `base_version` is the newest.
        """
        row = self._held(session, sheet_id)
        if self._kept(row).sheet == sheet:
            return self._kept(row)
        if row.version != base_version:
            raise Conflict(
                f"This {self._noun} was changed somewhere else in the meantime: reload it, then do it again."
            )
        for name, value in self._values(sheet).items():
            setattr(row, name, value)
        row.version += 1
        row.changed_at = datetime.now(UTC)
        session.add(row)
        session.flush()
        return self._kept(row)

    def set_in_bin(self, session: Session, sheet_id: UUID, *, there: bool) -> Kept[SheetT]:
        """Puts a document into the bin, or takes it out; done twice it is done once. Raises NotFound."""
        row = self._held(session, sheet_id)
        if (row.deleted_at is None) == there:
            row.deleted_at = datetime.now(UTC) if there else None
        session.add(row)
        session.flush()
        return self._kept(row)

    def _held(self, session: Session, sheet_id: UUID) -> Any:
        """A row that nobody else changes until the transaction ends."""
        row = session.exec(select(self._table).where(self._table.id == sheet_id).with_for_update()).first()
        if row is None:
            raise self._none()
        return row

    def _none(self) -> NotFound:
        return NotFound(f"There is no such {self._noun} here: go back to the list of {self._noun}s.")

    def _kept(self, row: _Row) -> Kept[SheetT]:
        try:
            sheet = self._sheet.model_validate(row.sheet)
        except ValidationError:
            raise Conflict(
                f"This {self._noun} needs another version of Upper Rook: bring the app up to date."
            ) from None
        return Kept(row.id, row.version, sheet, row.changed_at, row.deleted_at)

    def _values(self, sheet: SheetT) -> dict[str, Any]:
        columns = self._columns(sheet)
        words = folded(columns.pop("words"))[:LONGEST_WORDS]
        return {"sheet": sheet.model_dump(mode="json"), "words": words, **columns}
