"""The gain: turn until the target shows at the terminals of one path."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common import cautions
from upper_rook.core.common.units import format_db, format_value
from upper_rook.core.plan.plan import PathPlan
from upper_rook.core.run.readings.records import Outcome, Quantity
from upper_rook.core.run.readings.step_keys import gain_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import volts
from upper_rook.core.run.steps.kind import GAINS, Kind, Place
from upper_rook.core.run.steps.step import Step, StepKind, StepState
from upper_rook.core.run.steps.volume_steps import HEARD_LATE
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.system.choices import Meter
from upper_rook.core.system.methods import GAIN, LOAD
from upper_rook.core.system.path import Path

_TAKEN_DB = 0.1


def _outcomes(snapshot: JobSnapshot, path: Path) -> tuple[Outcome, ...]:
    limited = snapshot.sheet.chain.amplifier_of(path).limiter
    return (Outcome.CLIPPED_FIRST, Outcome.AT_STOP, *((Outcome.LIMITED,) if limited else ()))


def _orders(snapshot: JobSnapshot, path: Path, plan: PathPlan) -> tuple[str, ...]:
    choices = snapshot.sheet.choices_of(path)
    if choices.meter is Meter.EAR:
        return (BY_EAR,)
    orders = [GAIN.of(choices).turn]
    if plan.knob.state not in (KnobState.UNMARKED, KnobState.UNKNOWN):
        orders.append(plan.knob.sentence)
    if snapshot.sheet.chain.amplifier_of(path).limiter:
        orders.append("If the volts stop rising or fall at the next click, the limiter acts: go one click back.")
    figures = snapshot.figures(path.id)
    if figures and figures.load_takes_db >= _TAKEN_DB:
        orders.append(
            f"With the speakers on it clips {format_db(figures.load_takes_db)} lower: save where it just clips "
            "too, and "
            "the step says how far to turn down."
        )
    orders.append("Meter only: the tone 6 dB lower must read half of the volts. More means it clips.")
    if LOAD.of(choices).order:
        orders.append(LOAD.of(choices).order.format(ohms=format_value(plan.load_ohm, "Ω")))
    return tuple(orders)


def _heard(snapshot: JobSnapshot, step: Step) -> Step:
    """The same step where nothing but ears is at hand."""
    if snapshot.sheet.choices.meter is not Meter.EAR:
        return step
    heard = {"by_ear": True, "cautions": (cautions.QUIET_LISTENING,), "probe": "one speaker of this path", "beside": ()}
    return step.model_copy(update=heard)


BY_EAR = (
    "One speaker on, everything else off. From fully down turn the gain up until the tone turns harsh, then back until "
    "it is clean. The tone on for five seconds at most; a speaker that is driven hard burns before it is loud."
)


class Gains(Kind):
    kind = StepKind.GAIN
    state = staticmethod(volts.state)
    measured = staticmethod(volts.measured)

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, path, plan in volts.planned(snapshot):
            yield (
                (GAINS, number, 0),
                _heard(
                    snapshot,
                    volts.volts_step(
                        snapshot,
                        path,
                        plan,
                        key=gain_key(path.id),
                        kind=StepKind.GAIN,
                        name=f"{plan.name} gain",
                        title=f"Set the gain: {plan.name}",
                        do=_orders(snapshot, path, plan),
                        probe=volts.probe_of(snapshot, path),
                        terminals=volts.terminals_of(snapshot, path),
                        outcomes=_outcomes(snapshot, path),
                    ),
                ),
            )

    @override
    def guessed(self, snapshot: JobSnapshot, step: Step, state: StepState) -> Iterator[str]:
        if state.reading is not None and state.reading.quantity is Quantity.VERDICT:
            yield f"{step.title}: {HEARD_LATE}"
