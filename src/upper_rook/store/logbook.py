"""Work of a time over all jobs: who did what, and how each kind of step went. Counted by the database."""

from datetime import date, timedelta

from sqlalchemy import text
from sqlmodel import Session

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.readings.step_families import family_name

PAUSE_MIN = 10
"""Longer than this between two records, somebody was doing something else (common practice, no source)."""


class Worker(Frozen):
    """Work of one person."""

    name: str
    """Empty where nobody gave one."""
    jobs: int
    readings: int
    answers: int
    signed: int


class StepWork(Frozen):
    """How the steps of one kind went."""

    family: str
    name: str
    done: int
    """Steps, counted in each job, of which a record counts that is no skip."""
    skipped: int
    redone: int
    """Steps to which somebody came back after other steps."""
    struck: int
    """Records that were struck out."""
    median_s: float | None
    """Time from the record before to its last one, pauses left out; half of the steps took longer."""


class WeekWork(Frozen):
    """Work of a week, as far as it lies in the time asked for."""

    monday: date
    jobs: int
    readings: int
    answers: int


class Logbook(Frozen):
    """Work from one day to another, both counted."""

    since: date
    until: date
    jobs: int
    people: tuple[Worker, ...]
    steps: tuple[StepWork, ...]
    weeks: tuple[WeekWork, ...]
    """Weeks with work, the first of them first."""


_RECORDS = """
with record as (
  select job_id, split_part(step, '.', 1) as family, step, by, arrival, taken_at, struck is not null as struck,
         false as skipped, true as reading
  from reading join job on job.id = job_id
  where taken_at >= :since and taken_at < :until and not practice and deleted_at is null
  union all
  select job_id, split_part(step, '.', 1), step, by, arrival, taken_at, struck is not null, skipped, false
  from mark join job on job.id = job_id
  where taken_at >= :since and taken_at < :until and not practice and deleted_at is null
)
"""
_JOBS = "select count(distinct job_id) from record"
_WEEKS = """
select date_trunc('week', taken_at at time zone 'utc')::date as monday, count(distinct job_id) as jobs,
       count(*) filter (where reading and not struck) as readings,
       count(*) filter (where not reading and not struck) as answers
from record group by monday order by monday
"""
_PEOPLE = """
select by, count(distinct job_id) as jobs, count(*) filter (where reading and not struck) as readings,
       count(*) filter (where not reading and not struck) as answers
from record group by by order by count(*) desc, by
"""
_STEPS = """
, placed as (
  select *, lag(step) over one as before, extract(epoch from taken_at - lag(taken_at) over one) as gap
  from record window one as (partition by job_id order by arrival)
), of_step as (
  select family, job_id, step, bool_or(not struck and not skipped) as done, bool_or(not struck and skipped) as skipped,
         count(*) filter (where before is distinct from step) > 1 as redone, count(*) filter (where struck) as struck,
         sum(gap) filter (where gap between 0 and :pause) as seconds
  from placed group by family, job_id, step
)
select family, count(*) filter (where done) as done, count(*) filter (where skipped and not done) as skipped,
       count(*) filter (where redone) as redone, coalesce(sum(struck), 0) as struck,
       percentile_cont(0.5) within group (order by seconds) filter (where done) as median_s
from of_step group by family order by count(*) desc, family
"""
_SIGNED = """
select by, count(*) as signed from sign_off join job on job.id = job_id
where at >= :since and at < :until and not practice and deleted_at is null group by by
"""


def logbook(session: Session, since: date, until: date) -> Logbook:
    """The work from `since` to `until`, both days counted (UTC), without practice and without what is in the bin."""
    within = {"since": since, "until": until + timedelta(days=1), "pause": PAUSE_MIN * 60}
    people = session.execute(text(_RECORDS + _PEOPLE), within).all()
    signed = {row.by: row.signed for row in session.execute(text(_SIGNED), within)}
    steps = session.execute(text(_RECORDS + _STEPS), within).all()
    jobs = session.execute(text(_RECORDS + _JOBS), within).scalar_one()
    weeks = session.execute(text(_RECORDS + _WEEKS), within).mappings()
    names = {row.by: row for row in people}
    return Logbook(
        since=since,
        until=until,
        jobs=jobs,
        people=tuple(
            Worker(
                name=name,
                jobs=row.jobs if row else 0,
                readings=row.readings if row else 0,
                answers=row.answers if row else 0,
                signed=signed.get(name, 0),
            )
            for name, row in {**names, **{name: names.get(name) for name in signed}}.items()
        ),
        steps=tuple(
            StepWork(
                family=row.family,
                name=family_name(row.family),
                done=row.done,
                skipped=row.skipped,
                redone=row.redone,
                struck=row.struck,
                median_s=row.median_s,
            )
            for row in steps
        ),
        weeks=tuple(WeekWork.model_validate(dict(week)) for week in weeks),
    )
