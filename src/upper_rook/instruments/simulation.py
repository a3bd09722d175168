"""A careful person's whole run on the simulated bench, compared with what is really so."""

import numpy as np

from upper_rook.core.common.units import Frozen, Key, ratio_db
from upper_rook.core.crossover.depth import with_depth
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.step_keys import corner_key
from upper_rook.core.run.result.progress import Run
from upper_rook.core.run.snapshot.safe_volume import safe_volume
from upper_rook.core.run.steps.step import State, Step, StepKind, StepState
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.instruments.auto_operator import AutoOperator
from upper_rook.instruments.simulated import Fault, Probe, bench_for, dials_of


class SetPath(Frozen):
    """How one path was left, and what is really so."""

    path: Key
    name: str
    wanted_v: float
    set_v: float
    """Really at its terminals, with the gain where it was left."""
    off_db: float
    settled: str
    """Why it was left though it missed; empty where it met its target."""
    clips: bool
    """Whether it clips anywhere at the number handed over."""
    clips_before: bool
    """Whether the person saw something before the amplifier clip, which no gain correct."""


class SetCorner(Frozen):
    """Where a filter was left."""

    path: Key
    name: str
    wanted_hz: float
    set_hz: float
    """Its real position."""
    off_percent: float
    settled: str


class HandedOver(Frozen):
    """The number never to pass of a source."""

    source: Key
    volume: int
    last_clean: int
    """Really the last clean one of the source."""
    because: str
    """Stage that keeps the number below that, if any."""


class Simulation(Frozen):
    """Outcome of a careful person's work at a job on the simulated bench."""

    seed: int
    scope: bool
    mistakes: int
    """Ordinary mistakes that the person made."""
    complete: bool
    paths: tuple[SetPath, ...]
    corners: tuple[SetCorner, ...]
    numbers: tuple[HandedOver, ...]
    open: tuple[str, ...]
    """Steps that couldn't be done, in words."""


def simulate(
    sheet: JobSheet,
    seed: int = 1,
    *,
    scope: bool = True,
    faults: tuple[Fault, ...] = (),
    meter: str = "simulated",
    mistakes: bool = False,
) -> Simulation:
    """
    Works the whole run of `sheet`, with a scope at hand or with a meter alone, and with `faults` on the bench.

    `meter` is the id of the profile that its meter is made by. With `mistakes` the person makes ordinary ones.

    Raises:
        BadInput: when nothing of it can be planned.
    """
    person = AutoOperator(sheet, seed, scope=scope, faults=faults, meter=meter, mistakes=mistakes)
    return compared(person, person.work())


def compared(person: AutoOperator, run: Run) -> Simulation:
    """Settings beside the truth."""
    states = {state.step: state for state in run.states}
    paths, corners = [], []
    for step in run.steps:
        if step.kind is StepKind.GAIN and step.path is not None and step.target is not None:
            paths.append(_set(person, step, states[step.key]))
        if step.kind is StepKind.CORNER and step.path is not None:
            corners.append(_corner(person, step, states[step.key]))
    return Simulation(
        seed=person.seed,
        scope=person.scope,
        mistakes=person.mistakes.count,
        complete=run.complete,
        paths=tuple(paths),
        corners=tuple(corner for corner in corners if corner is not None),
        numbers=tuple(_numbers(person, run)),
        open=tuple(
            f"{step.title}: {states[step.key].sentence}"
            for step in run.steps
            if states[step.key].state is State.OPEN and not step.optional
        ),
    )


def _set(person: AutoOperator, step: Step, state: StepState) -> SetPath:
    path, target = person.path(step.path), step.target
    wanted = target.value if target else 0.0
    person.at_terminals(step)
    person.turn(gain=person.gains.get(path.id, 0.0), speakers_on=False)
    really = float(np.sqrt(np.mean(person.wave() ** 2)))
    # At the number handed over, with the speakers connected and the engine running.
    number = safe_volume(person.snapshot(), person.sheet.chain.source_of(path))
    person.turn(volume=number.volume if number else person.state.volume, speakers_on=True)
    return SetPath(
        path=path.id,
        name=path.name or "Speakers",
        wanted_v=wanted,
        set_v=really,
        off_db=ratio_db(really, wanted) if really > 0 else -120.0,
        settled=_settled(state),
        clips_before=path.id in person.before,
        clips=not person.is_clean(),
    )


def _corner(person: AutoOperator, step: Step, state: StepState) -> SetCorner | None:
    path = person.path(step.path)
    place = next(number for number, _ in enumerate(path.filters) if corner_key(path.id, number) == step.key)
    own = dials_of(path).index(path.filters[place])
    turned = person.dials.get(path.id, [None] * (own + 1))[own]
    if turned is None:
        return None
    person.turn(path=path.id)
    model = bench_for(person.sheet, person.seed, person.state)
    dial = model.filters[own]
    deepened = with_depth(person.sheet.chain, person.sheet.choices)
    filters = next(other for other in deepened.paths if other.id == path.id).filters
    asked, wanted = filters[place].crossover, path.filters[place].crossover.corner_hz
    # Where it comes to the depth that was asked for, by its own shape.
    turned_to = dial.crossover.model_copy(update={"corner_hz": dial.corner_hz(turned)})
    really = turned_to.natural_hz * asked.corner_hz / asked.natural_hz
    return SetCorner(
        path=path.id,
        name=step.name,
        wanted_hz=wanted,
        set_hz=really,
        off_percent=100 * (really / wanted - 1),
        settled=" ".join(row.left for row in state.rows if row.left),
    )


def _numbers(person: AutoOperator, run: Run) -> list[HandedOver]:
    found = []
    for source in person.sheet.chain.feeding():
        number = safe_volume(person.snapshot(), source)
        path = next((path for path in person.sheet.chain.paths if path.source == source.id), None)
        volume_step_sets = [
            step for step in run.steps if step.kind is StepKind.VOLUME_STEPS and path and step.along == path.id
        ]
        if not volume_step_sets or number is None:
            continue
        # By whichever way it bends first.
        clean = min(_last_clean(person, step) for step in volume_step_sets)
        found.append(HandedOver(source=source.id, volume=number.volume, last_clean=clean, because=number.because))
    return found


def _last_clean(person: AutoOperator, volume_steps: Step) -> int:
    """The last number at which the wave at the volume steps' point really is clean."""
    wants = volume_steps.wants or Circumstances()
    person.turn(path=volume_steps.along, probe=Probe.SOURCE, tone=wants.tone, way=wants.way)
    clean = 0
    for volume in range(1, (volume_steps.top_volume or 0) + 1):
        person.turn(volume=volume)
        clean = volume if person.is_clean() else clean
    return clean


def _settled(state: StepState) -> str:
    if state.outcome is not None:
        return state.outcome.value
    return "" if state.state is State.DONE else "open"
