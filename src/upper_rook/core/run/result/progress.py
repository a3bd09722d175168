"""How far a run has come: which steps are done, skipped or spoiled, and where to go on."""

from collections.abc import Iterable

from upper_rook.core.common.units import Frozen, LongKey
from upper_rook.core.plan.plan import Plan
from upper_rook.core.run.readings.records import Mark, Reading, standing
from upper_rook.core.run.result.left_out import left_out
from upper_rook.core.run.snapshot.job_snapshot import History, JobSnapshot
from upper_rook.core.run.steps import KINDS, run_sheet
from upper_rook.core.run.steps.step import Contradicted, State, Step, StepKind, StepState
from upper_rook.core.system.job_sheet import JobSheet


class Redo(Frozen):
    """A step that is to be done, or done again."""

    step: LongKey
    waits_for: LongKey | None = None
    """The step before it that is to be done first; when that agrees with what it said before, this one falls away."""


class Run(Frozen):
    """A run as it is: computed from the sheet and the records, never stored."""

    plan: Plan
    steps: tuple[Step, ...]
    states: tuple[StepState, ...]
    complete: bool
    """Whether every step is done or was skipped, and no path is left unplanned."""
    redo: tuple[Redo, ...]
    """Outdated or open steps in the order of the trade, and the steps that rest on them."""
    current: str
    """Where to go on: the first of these that waits for nothing, or the last step."""
    left_out: tuple[str, ...] = ()
    """Points that no step asks for, by choice."""


def progress(
    sheet: JobSheet, readings: tuple[Reading, ...], marks: tuple[Mark, ...], history: History | None = None
) -> Run:
    """
    The run of `sheet` after `readings` and `marks`.

    `history` gives the sheet in the version that a record names; without it nothing has changed since.
    """
    return run_of(JobSnapshot(sheet=sheet, readings=readings, marks=marks, history=history or (lambda _version: sheet)))


def run_of(snapshot: JobSnapshot) -> Run:
    """The run of a snapshot."""
    steps = run_sheet(snapshot)
    states = _contradicted(_skipped(snapshot, step) or KINDS[step.kind].state(snapshot, step) for step in steps)
    redo = _redo(steps, states)
    return Run(
        plan=snapshot.plan,
        steps=steps,
        states=states,
        complete=not redo and not snapshot.plan.unplanned,
        redo=redo,
        current=next((other.step for other in redo if other.waits_for is None), _last(steps, states)),
        left_out=tuple(left_out(snapshot)),
    )


def _last(steps: tuple[Step, ...], states: tuple[StepState, ...]) -> str:
    """Where to go on with everything done: a visit's check as long as it is open, else where a run ends."""
    going = {state.step for state in states if state.state is State.OPEN}
    checks = [step.key for step in steps if step.kind is StepKind.CHECK]
    still_open = next((key for key in checks if key in going), None)
    return still_open or next(step.key for step in reversed(steps) if step.key not in checks)


def _contradicted(states: Iterable[StepState]) -> tuple[StepState, ...]:
    """The states, those that a visit's check speaks against to be done again unless they were since then."""
    known = tuple(states)
    against: dict[str, list[Contradicted]] = {}
    for state in known:
        for found in state.checked.contradicts if state.checked else ():
            against.setdefault(found.step, []).append(found)
    return tuple(_spoken_against(state, against.get(state.step, [])) for state in known)


def _spoken_against(state: StepState, against: list[Contradicted]) -> StepState:
    read_at = state.reading.arrival if state.reading else -1
    newer = [found.by for found in against if read_at < found.arrival]
    if not newer or state.state not in (State.DONE, State.OUTDATED):
        return state
    return state.model_copy(update={"state": State.OUTDATED, "spoiled": (*state.spoiled, *newer)})


def _redo(steps: tuple[Step, ...], states: tuple[StepState, ...]) -> tuple[Redo, ...]:
    optional = {step.key for step in steps if step.optional}
    going = {
        state.step
        for state in states
        if state.state is State.OUTDATED or (state.state is State.OPEN and state.step not in optional)
    }
    # Volume steps that are to be read again hold up what was set by them, whether or not it looks spoiled already.
    outdated = {state.step for state in states if state.state is State.OUTDATED}
    skipped = {state.step for state in states if state.state is State.SKIPPED}
    rows = []
    for step in steps:
        before = next((key for key in step.after if key in going), None)
        if step.key in going or (step.key not in skipped and any(key in outdated for key in step.after)):
            rows.append(Redo(step=step.key, waits_for=before))
    return tuple(rows)


def _skipped(snapshot: JobSnapshot, step: Step) -> StepState | None:
    """A skip stands until something newer is said or read."""
    marks, readings = standing(snapshot.marks, step.key), standing(snapshot.readings, step.key)
    skip = marks[-1] if marks and marks[-1].skipped else None
    if skip is None or (readings and readings[-1].arrival > skip.arrival):
        return None
    return StepState(step=step.key, state=State.SKIPPED, sentence=f"Skipped: {skip.note}")
