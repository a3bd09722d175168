"""The logbook: work of a time over all jobs, as a page shows it and as tables."""

from collections.abc import Sequence
from datetime import UTC, date, datetime, timedelta
from typing import Annotated, Literal, Self

from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, model_validator

from upper_rook.core.common.moments import Day
from upper_rook.core.common.units import Frozen
from upper_rook.formats.cells import csv_table
from upper_rook.store import logbook as store_of_work
from upper_rook.store.logbook import Logbook, StepWork, WeekWork, Worker
from upper_rook.web import acts
from upper_rook.web.access import Here, Store, need_library
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/logbook", tags=["logbook"], dependencies=[acts.WORK])

_USUALLY = timedelta(days=30)
_LONGEST_DAYS = 3660


class Period(BaseModel):
    """Days to look at, both counted; the last thirty where none are given."""

    model_config = ConfigDict(extra="forbid")
    since: Day | None = None
    until: Day | None = None

    @property
    def days(self) -> tuple[date, date]:
        """The first and the last day."""
        until = self.until or datetime.now(UTC).date()
        return self.since or until - _USUALLY, until

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        since, until = self.days
        if not 0 <= (until - since).days <= _LONGEST_DAYS:
            raise ValueError("the first day comes before the last one, ten years at most")
        return self


@router.get("", responses=responses())
def get_logbook(store: Store, who: Here, period: Annotated[Period, Query()]) -> Logbook:
    """The work of a time, without practice and without what is in the bin."""
    need_library(who)
    with store() as session:
        return store_of_work.logbook(session, *period.days)


@router.get("/{part}.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}, **responses()})
def get_table(
    store: Store, who: Here, part: Literal["people", "steps", "weeks"], period: Annotated[Period, Query()]
) -> Response:
    """The same as a table, of people, of steps or of weeks."""
    need_library(who)
    with store() as session:
        found = store_of_work.logbook(session, *period.days)
    tables: dict[str, tuple[type[Frozen], Sequence[Frozen]]] = {
        "people": (Worker, found.people),
        "steps": (StepWork, found.steps),
        "weeks": (WeekWork, found.weeks),
    }
    model, rows = tables[part]
    written = csv_table(model.model_fields, ([getattr(row, name) for name in model.model_fields] for row in rows))
    headers = {"Content-Disposition": f'attachment; filename="logbook-{part}.csv"'}
    return Response(written, media_type="text/csv; charset=utf-8", headers=headers)
