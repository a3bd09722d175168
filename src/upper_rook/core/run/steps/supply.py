"""The supply: its volts while it runs, and at rest where somebody wants to know."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.metrology.comparison import Limits, Turn
from upper_rook.core.plan.target import Target
from upper_rook.core.run.readings.circumstances import Circumstances
from upper_rook.core.run.readings.points import SupplyPoint
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import diagnostics, rows
from upper_rook.core.run.steps.kind import PREPARE, Place
from upper_rook.core.run.steps.step import Row, Step, StepKind

KEY = "supply"
RUNNING, REST = "running", "rest"
_TURN = Turn(below="lower than usual", above="higher than usual")
# Common practice, no source.
_TARGETS = {
    RUNNING: Target(value=14.2, unit="V", limits=Limits(low=13.0, high=15.0), method="", because=(), turn=_TURN),
    REST: Target(value=12.6, unit="V", limits=Limits(low=12.2, high=13.2), method="", because=(), turn=_TURN),
}


class Supply(rows.RowsKind):
    kind = StepKind.SUPPLY

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
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

    @override
    def meaning(self, snapshot: JobSnapshot, step: Step, row: Row, reading: Reading) -> tuple[str, ...]:
        return diagnostics.of_supply(reading.value, running=row.key == RUNNING)
