"""How far a run has come: which steps are done, skipped or spoiled, and where to go on."""

from enum import StrEnum

from upper_rook.core.common.units import Frozen, format_value
from upper_rook.core.metrology.comparison import Comparison, Fit, compare
from upper_rook.core.plan.plan import Plan, plan
from upper_rook.core.run.climb import Ladder, climb, held_back, taken
from upper_rook.core.run.freshness import Spoiled, spoiled_by
from upper_rook.core.run.records import Answer, Mark, Outcome, Reading, standing
from upper_rook.core.run.runsheet import CEILING, Step, StepKind, run_sheet
from upper_rook.core.system.ceiling import Basis, Ceiling
from upper_rook.core.system.choices import Choices, TopVolumeSchool
from upper_rook.core.system.job_sheet import JobSheet


class State(StrEnum):
    """A merlon of the battlement."""

    OPEN = "open"
    DONE = "done"
    STALE = "stale"
    SKIPPED = "skipped"


class Answered(Frozen):
    """The answer that counts for one checklist line."""

    item: str
    answer: Answer
    note: str


class StepState(Frozen):
    """What has been done about one step."""

    step: str
    state: State
    sentence: str
    spoiled: tuple[Spoiled, ...] = ()
    answers: tuple[Answered, ...] = ()
    reading: Reading | None = None
    """The reading that stands for the step."""
    comparison: Comparison | None = None
    outcome: Outcome | None = None


class Run(Frozen):
    """A run as it stands: computed from the sheet and the records, never stored."""

    plan: Plan
    steps: tuple[Step, ...]
    states: tuple[StepState, ...]
    complete: bool
    """Whether every step is done or was skipped, and no path is left unplanned."""
    current: str
    """Where the work stopped: the first step that is neither done nor skipped, or the last one."""
    ladder: Ladder
    ceiling: Ceiling | None


OUTCOME_WORDS = {
    Outcome.CLIPPED_FIRST: "clips before the target: this is the amplifier's real maximum",
    Outcome.AT_STOP: "gain at its stop before the target: the source is too weak",
    Outcome.ABOVE_AT_LOWEST: "above the target with the gain fully down: attenuate, or use the high-level input",
}


BASIS_WORDS = {
    Basis.MARKED: ", the last clean number.",
    Basis.JUDGED: ", the last clean number by the volts alone.",
    Basis.RATED: ", where it reaches its rated volts.",
    Basis.GUESS: ", by the three-quarter rule: a guess.",
}


def progress(sheet: JobSheet, readings: tuple[Reading, ...], marks: tuple[Mark, ...]) -> Run:
    """The run of `sheet` after `readings` and `marks`."""
    rungs = standing(readings, CEILING)
    ceiling = ceiling_taken(sheet.choices, readings, marks)
    planned = plan(sheet, ceiling)
    steps = run_sheet(sheet, planned, ceiling)
    first = sheet.chain.paths[0]
    ladder = climb(
        rungs,
        sheet.chain.source_of(first).top_volume,
        sheet.choices.top_volume,
        sheet.chain.output_of(first).rated.v,
    )
    states = tuple(
        _state(step, standing(readings, step.key), standing(marks, step.key), ladder, ceiling) for step in steps
    )
    going = [one.step for one in states if one.state in (State.OPEN, State.STALE)]
    return Run(
        plan=planned,
        steps=steps,
        states=states,
        complete=not going and not planned.lacking,
        current=going[0] if going else steps[-1].key,
        ladder=ladder,
        ceiling=ceiling,
    )


def ceiling_taken(choices: Choices, readings: tuple[Reading, ...], marks: tuple[Mark, ...]) -> Ceiling | None:
    """The clean maximum that the newest taking stands for; other records among them don't matter."""
    takings = [mark for mark in standing(marks, CEILING) if mark.basis is not None]
    rungs = standing(readings, CEILING)
    found = taken(takings[-1] if takings else None, rungs)
    in_hand = choices.top_volume is TopVolumeSchool.IN_HAND
    return held_back(found, rungs, choices.clicks_in_hand) if found and in_hand else found


def _state(
    step: Step, readings: list[Reading], marks: list[Mark], ladder: Ladder, ceiling: Ceiling | None
) -> StepState:
    skip = marks[-1] if marks and marks[-1].skipped else None
    if skip and (not readings or readings[-1].taken_at <= skip.taken_at):
        return StepState(step=step.key, state=State.SKIPPED, sentence=f"Skipped: {skip.note}")
    if step.kind is StepKind.CHECKLIST:
        return _checklist_state(step, marks)
    if step.kind is StepKind.LADDER:
        return _ladder_state(step, readings, ladder, ceiling)
    return _gain_state(step, readings, marks)


def _checklist_state(step: Step, marks: list[Mark]) -> StepState:
    said = {mark.item: mark for mark in marks if mark.answer is not None}
    answers = tuple(
        Answered(item=item.key, answer=said[item.key].answer or Answer.DONE, note=said[item.key].note)
        for item in step.items
        if item.key in said
    )
    left = len(step.items) - len(answers)
    return StepState(
        step=step.key,
        state=State.OPEN if left else State.DONE,
        sentence=f"{left} of {len(step.items)} to answer." if left else "Every line answered.",
        answers=answers,
    )


def _ladder_state(step: Step, readings: list[Reading], ladder: Ladder, ceiling: Ceiling | None) -> StepState:
    if ceiling is None:
        return StepState(step=step.key, state=State.OPEN, sentence=ladder.next_step)
    stands = max((one for one in readings if one.volume == ceiling.volume), key=lambda one: one.taken_at)
    spoiled = list(spoiled_by(stands.settings, step.settings))
    now = ladder.by_volts if ceiling.basis is Basis.JUDGED else ladder.last_clean
    if ceiling.basis in (Basis.MARKED, Basis.JUDGED) and (now is None or now.volume != ceiling.volume):
        told = str(now.volume) if now else "none"
        spoiled.append(Spoiled(label="last clean number by the readings", was=str(ceiling.volume), now=told))
    return StepState(
        step=step.key,
        state=State.STALE if spoiled else State.DONE,
        sentence=f"{ceiling.volume} gives {format_value(ceiling.voltage_v, 'V')}" + BASIS_WORDS[ceiling.basis],
        spoiled=tuple(spoiled),
        reading=stands,
    )


def _gain_state(step: Step, readings: list[Reading], marks: list[Mark]) -> StepState:
    if not readings or step.target is None:
        return StepState(step=step.key, state=State.OPEN, sentence=step.waits_for or "No reading yet.")
    last = readings[-1]
    outcomes = [mark for mark in marks if mark.outcome is not None and mark.taken_at >= last.taken_at]
    outcome = outcomes[-1].outcome if outcomes else None
    comparison = compare(last.voltage_v, last.uncertainty_v, step.target.value, step.target.limits)
    settled = outcome is not None or comparison.fit in (Fit.INSIDE, Fit.UNSURE)
    spoiled = spoiled_by(last.settings, step.settings)
    # A spoiled reading says so whether or not it happens to meet the new target.
    state = State.STALE if spoiled else State.DONE if settled else State.OPEN
    told = OUTCOME_WORDS[outcome] if outcome else comparison.sentence
    return StepState(
        step=step.key,
        state=state,
        sentence=f"{format_value(last.voltage_v, 'V')}: {told}",
        spoiled=spoiled,
        reading=last,
        comparison=comparison,
        outcome=outcome,
    )
