"""Sheets with something changed, readings and marks."""

from datetime import UTC, datetime, timedelta
from itertools import count
from uuid import uuid4

from upper_rook.core.common.finding import Severity
from upper_rook.core.common.stated import Stated
from upper_rook.core.plan.plan import PathPlan, plan
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.records import Eye, Mark, Quantity, Reading
from upper_rook.core.run.result.progress import Run, progress
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import run_sheet
from upper_rook.core.run.steps.step import Step, StepState
from upper_rook.core.signal.filters import ChannelFilter, Crossover, Pass
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.clean_maxima import UNMEASURED, CleanMaxima, PointCleanMaximum, SourcePoint
from upper_rook.core.system.clean_maximum import CleanMaximum
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates
from upper_rook.core.system.processor import Processor

LAYOUTS = {template.key: template.chain for template in templates()}
_tick = count()
_arrival = count(1)
START = datetime(2026, 5, 1, 9, 0, tzinfo=UTC)


def moment() -> datetime:
    """A moment later than every one before."""
    return START + timedelta(seconds=next(_tick))


def reading(step: Step, volume: int | None, value: float, seen: Eye = Eye.UNSEEN, **more: object) -> Reading:
    assert step.wants is not None
    assert step.point is not None
    return Reading(
        id=uuid4(),
        step=step.key,
        value=value,
        uncertainty=more.get("uncertainty", value * 0.01),
        instrument="true-rms",
        point=step.point,
        circumstances=Circumstances.model_validate(
            {"volume": volume, "tone": step.wants.tone}
            | {name: value for name, value in more.items() if name in Circumstances.model_fields}
        ),
        quantity=more.get("quantity", Quantity.AC_VOLTS),
        seen=seen,
        evidence=more.get("evidence"),
        builds_on=more.get("builds_on", step.builds_on),
        sheet_version=more.get("sheet_version", 1),
        taken_at=moment(),
        arrival=next(_arrival),
    )


def row_reading(step: Step, key: str, value: float, **more: object) -> Reading:
    """A reading of one of the several that a step asks for, as it wants it."""
    row = next(row for row in step.rows if row.key == key)
    at = step.model_copy(update={"point": row.point})
    wants = row.wants.model_dump(exclude={"volume", "row"})
    return reading(at, row.wants.volume, value, **wants, row=key, quantity=row.quantity, **more)


def mark(step: str, **said: object) -> Mark:
    fields = {"id": uuid4(), "step": step, "sheet_version": 1, "taken_at": moment(), "arrival": next(_arrival)} | said
    return Mark.model_validate(fields)


def steps_of(sheet: JobSheet) -> dict[str, Step]:
    return {step.key: step for step in run_sheet(JobSnapshot(sheet=sheet))}


def state_of(run: Run, key: str) -> StepState:
    return next(state for state in run.states if state.step == key)


def answers(sheet: JobSheet) -> tuple[Mark, ...]:
    """Every line of every checklist, done."""
    steps = steps_of(sheet).values()
    return tuple(mark(step.key, item=item.key, answer="done") for step in steps for item in step.items)


def first_needs(step: Step) -> list[str]:
    """What a step waits for besides the speakers."""
    return [need.sentence for need in step.needs if need.item is None]


def gain_step(sheet: JobSheet, readings: tuple[Reading, ...], marks: tuple[Mark, ...], key: str = "gain.front") -> Step:
    """The gain step as it is once the clean maximum is taken."""
    return next(step for step in progress(sheet, readings, marks).steps if step.key == key)


def with_parts(sheet: JobSheet, **parts: dict[str, object]) -> JobSheet:
    """`sheet` with fields of its source, amplifier, load, path or choices changed."""
    chain = sheet.chain
    places = {"source": "sources", "amplifier": "amplifiers", "load": "loads", "path": "paths"}
    for part, fields in parts.items():
        if part == "choices":
            sheet = sheet.model_copy(update={"choices": Choices.model_validate(fields)})
            continue
        old = getattr(chain, places[part])[0]
        chain = chain.model_copy(update={places[part]: (type(old).model_validate(old.model_dump() | fields),)})
    return sheet.model_copy(update={"chain": chain})


def giving(volts: float | None) -> dict[str, object]:
    """A source with one line output of so many volts."""
    return {"outputs": [{"id": "line", "rated": {"volts": volts}}]}


def measured(sheet: JobSheet, clean_maximum: CleanMaximum, clicks_in_hand: int = 0) -> CleanMaxima:
    """A clean maximum that was taken at the first path's output, and nowhere else."""
    path = sheet.chain.paths[0]
    point = SourcePoint(source=path.source, output=path.output)
    return CleanMaxima((PointCleanMaximum(point=point, clean_maximum=clean_maximum),), clicks_in_hand)


def first_path(sheet: JobSheet, clean_maximum: CleanMaximum | None = None) -> PathPlan:
    """The plan of the only path of interest."""
    return plan(sheet, measured(sheet, clean_maximum) if clean_maximum else UNMEASURED).paths[0]


def finding_keys(sheet: JobSheet, clean_maximum: CleanMaximum | None = None) -> dict[str, Severity]:
    """What is said about that path, and how grave."""
    return {finding.key: finding.severity for finding in first_path(sheet, clean_maximum).findings}


def behind_processor(chain: Chain) -> Chain:
    """`chain` with a processor on its first path."""
    made = Processor(id="dsp", name="Processor", highest_input=Stated(volts=4), highest_output_v=4)
    path = chain.paths[0].model_copy(update={"through": ("dsp",)})
    return chain.model_copy(update={"processors": (made,), "paths": (path, *chain.paths[1:])})


def with_filters(chain: Chain, path: str, *filters: ChannelFilter) -> Chain:
    """`chain` with the filters of one path replaced."""
    paths = tuple(other.model_copy(update={"filters": filters}) if other.id == path else other for other in chain.paths)
    return chain.model_copy(update={"paths": paths})


def a_filter(kind: Pass, corner_hz: float, order: int = 4, **more: object) -> ChannelFilter:
    """A Butterworth filter."""
    crossover = Crossover(kind=kind, corner_hz=corner_hz, order=order, depth_db=more.pop("depth_db", None))
    return ChannelFilter(crossover=crossover, **more)
