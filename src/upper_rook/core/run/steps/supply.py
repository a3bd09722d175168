"""The supply: its volts while it runs, and at rest where somebody wants to know."""

from collections.abc import Iterator

from upper_rook.core.metrology.comparison import Limits, Turn
from upper_rook.core.plan.target import Target
from upper_rook.core.run import diagnostics
from upper_rook.core.run.circumstances import Circumstances
from upper_rook.core.run.job_snapshot import JobSnapshot
from upper_rook.core.run.points import SupplyPoint
from upper_rook.core.run.records import Quantity, Reading
from upper_rook.core.run.step import Row, Step, StepKind, StepState
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.kind import PREPARE, Kind, Place

KEY = "supply"
RUNNING, REST = "running", "rest"
_TURN = Turn(below="lower than usual", above="higher than usual")
# Common practice, no source.
_TARGETS = {
    RUNNING: Target(value=14.2, unit="V", limits=Limits(low=13.0, high=15.0), method="", because=(), turn=_TURN),
    REST: Target(value=12.6, unit="V", limits=Limits(low=12.2, high=13.2), method="", because=(), turn=_TURN),
}


def _steps(_situation: JobSnapshot) -> Iterator[tuple[Place, Step]]:
    names = {RUNNING: "Running, at the amplifier", REST: "At rest, engine off"}
    yield (
        (PREPARE, 3),
        Step(
            key=KEY,
            kind=StepKind.SUPPLY,
            name="Supply",
            title="Measure the supply",
            do=(
                "Meter at DC volts. Red probe on the amplifier’s supply terminal, black probe on its ground.",
                "An unregulated amplifier’s output follows its supply. Every later reading carries this voltage.",
            ),
            probe="the amplifier’s supply and ground terminals",
            point=SupplyPoint(),
            wants=Circumstances(),
            optional=True,
            rows=tuple(
                Row(
                    key=key,
                    name=names[key],
                    quantity=Quantity.DC_VOLTS,
                    point=SupplyPoint(),
                    wants=Circumstances(),
                    target=target,
                    optional=key == REST,
                )
                for key, target in _TARGETS.items()
            ),
        ),
    )


def _state(snapshot: JobSnapshot, step: Step) -> StepState:
    return rows.state_of(snapshot, step, lambda _situation: (), _meaning)


def _meaning(row: Row, reading: Reading) -> tuple[str, ...]:
    return diagnostics.of_supply(reading.value, running=row.key == RUNNING)


KIND = Kind(StepKind.SUPPLY, _steps, _state, left=rows.left_in_words)
