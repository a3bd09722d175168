"""What a run came to: the sheet that is handed over."""

from collections.abc import Iterator

from upper_rook.core.common.finding import Severity
from upper_rook.core.common.units import Frozen, format_value, watts_for
from upper_rook.core.metrology.comparison import Comparison
from upper_rook.core.plan.plan import Plan
from upper_rook.core.run.progress import OUTCOME_WORDS, Run, State, StepState
from upper_rook.core.run.records import Answer
from upper_rook.core.run.runsheet import Step, StepKind
from upper_rook.core.system.ceiling import Basis, Ceiling
from upper_rook.core.system.job_sheet import JobSheet


class Measured(Frozen):
    """One amplifier output as it was left."""

    name: str
    probe: str
    target_v: float
    voltage_v: float | None
    uncertainty_v: float | None
    power_w: float | None
    """V²/R with the load's rated ohms."""
    power_uncertainty_w: float | None
    volume: int | None
    """Volume number it was taken at."""
    comparison: Comparison | None
    instrument: str | None
    remark: str
    stale: bool


class Result(Frozen):
    """The sheet: what was set, at which volume, and what is still open, skipped or guessed."""

    vehicle: str
    note: str
    complete: bool
    ceiling: Ceiling | None
    never_pass: str
    """The one number for the customer, in a sentence."""
    outputs: tuple[Measured, ...]
    chosen: tuple[str, ...]
    """What was chosen on purpose and should be said at hand-over."""
    guessed: tuple[str, ...]
    skipped: tuple[str, ...]
    stale: tuple[str, ...]
    open: tuple[str, ...]


def result(sheet: JobSheet, run: Run) -> Result:
    """The sheet of `run`."""
    pairs = list(zip(run.steps, run.states, strict=True))
    return Result(
        vehicle=sheet.vehicle,
        note=sheet.note,
        complete=run.complete,
        ceiling=run.ceiling,
        never_pass=_never_pass(run.ceiling),
        outputs=tuple(
            _measured(step, state, _power_ohm(run, step))
            for step, state in pairs
            if step.kind in (StepKind.GAIN, StepKind.MATCH)
        ),
        chosen=tuple(_chosen(run.plan)),
        guessed=tuple(_guessed(run)),
        skipped=tuple(_skipped(pairs)),
        stale=tuple(
            f"{step.title}: {spoiled.label} was {spoiled.was}, is now {spoiled.now}."
            for step, state in pairs
            for spoiled in state.spoiled
        ),
        open=(
            *(f"{lack.name}: not planned. {lack.sentence}" for lack in run.plan.lacking),
            *_stops(run.plan),
            *(f"{step.title}: {state.sentence}" for step, state in pairs if state.state is State.OPEN),
        ),
    )


def _chosen(plan: Plan) -> Iterator[str]:
    """Each once, with the paths that it holds for."""
    names: dict[str, list[str]] = {}
    for path in plan.paths:
        for one in path.findings:
            if one.hand_over:
                names.setdefault(f"{one.title}. {one.reason}", []).append(path.name)
    for told, paths in names.items():
        yield f"{', '.join(paths)}: {told}"


def _stops(plan: Plan) -> Iterator[str]:
    """What must not be run as it is."""
    for path in plan.paths:
        for one in path.findings:
            if one.severity is Severity.STOP:
                yield f"{path.name}: {one.title}. {one.reason} {one.remedy}"


def _never_pass(ceiling: Ceiling | None) -> str:
    if ceiling is None:
        return "Not known yet: the source's clean maximum has not been taken."
    if ceiling.basis is Basis.GUESS:
        return f"Never pass {ceiling.volume}: three quarters of the scale, a guess, because clipping could not be seen."
    if ceiling.basis is Basis.RATED:
        return f"Never pass {ceiling.volume}: there it gives its rated volts; nobody has seen whether it is clean."
    if ceiling.basis is Basis.JUDGED:
        return f"Never pass {ceiling.volume}: the last clean number by the volts measured going up."
    return f"Never pass {ceiling.volume}: the last number that was seen clean."


def _power_ohm(run: Run, step: Step) -> float:
    return next(path.power_ohm for path in run.plan.paths if path.path == step.path)


def _measured(step: Step, state: StepState, power_ohm: float) -> Measured:
    if step.target is None:
        raise ValueError(f"step {step.key} has no target")
    reading = state.reading
    power = watts_for(reading.voltage_v, power_ohm) if reading else None
    doubt = reading.uncertainty_v if reading else None
    return Measured(
        name=step.name,
        probe=step.probe or "",
        target_v=step.target.value,
        voltage_v=reading.voltage_v if reading else None,
        uncertainty_v=doubt,
        power_w=power,
        # To first order the power's relative doubt is twice the voltage's (JCGM 100).
        power_uncertainty_w=2 * power * doubt / reading.voltage_v if reading and power and doubt is not None else None,
        volume=reading.volume if reading else None,
        comparison=state.comparison,
        instrument=reading.instrument if reading else None,
        remark=OUTCOME_WORDS[state.outcome] if state.outcome else state.sentence if not reading else "",
        stale=state.state is State.STALE,
    )


def _guessed(run: Run) -> list[str]:
    found = []
    if run.ceiling and run.ceiling.basis is Basis.GUESS:
        found.append(
            f"The source's clean maximum of {run.ceiling.volume} is three quarters of its scale, not measured."
        )
    for step, state in zip(run.steps, run.states, strict=True):
        if state.reading and state.reading.uncertainty_v is None:
            found.append(
                f"{step.title}: {format_value(state.reading.voltage_v, 'V')} was read outside the frequencies that the "
                "meter's data sheet covers, so its doubt is not known."
            )
    return found


def _skipped(pairs: list[tuple[Step, StepState]]) -> list[str]:
    found = []
    for step, state in pairs:
        if state.state is State.SKIPPED:
            found.append(f"{step.title}. {state.sentence}.")
        texts = {item.key: item.text for item in step.items}
        found += [
            f"{texts[one.item]}: left as it was, {one.note}." for one in state.answers if one.answer is Answer.LEFT
        ]
    return found
