"""The blend: the louder group down by so much, by ear or as the method says, and what its volts come to then."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common import cautions
from upper_rook.core.common.units import format_value, from_db
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import TerminalsPoint
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.run.readings.step_keys import BLEND_KEY
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows, volts
from upper_rook.core.run.steps.kind import LISTEN, Place
from upper_rook.core.run.steps.step import Row, Step, StepKind
from upper_rook.core.system.methods import BLEND


class Blend(rows.RowsKind):
    kind = StepKind.BLEND

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        planned = list(volts.planned(snapshot))
        if len(planned) < 2:
            return
        wants = Circumstances(hanging=Hanging.SPEAKERS)
        found = tuple(
            Row(
                key=path.id,
                name=plan.name,
                quantity=Quantity.DECIBELS,
                unit="dB",
                point=TerminalsPoint(path=path.id, terminals=volts.terminals_of(snapshot, path)),
                wants=wants,
                note="down by",
                optional=True,
            )
            for _, path, plan in planned
        )
        yield (
            (LISTEN, 1),
            Step(
                key=BLEND_KEY,
                kind=StepKind.BLEND,
                name="Blend",
                title="Blend: turn the louder group down",
                do=(
                    f"{BLEND.of(snapshot.sheet.choices).line}.",
                    "Type by how many decibels each group was turned down. Leave the others empty.",
                ),
                point=found[0].point,
                wants=wants,
                rows=found,
                cautions=(cautions.QUIET_LISTENING,),
                optional=True,
            ),
        )

    @override
    def in_words(self, snapshot: JobSnapshot, step: Step, readings: dict[str, Reading]) -> str:
        lowered = []
        for plan in snapshot.plan.paths:
            down = readings.get(plan.path)
            if down is not None and down.value > 0:
                left = format_value(plan.target.value * from_db(-down.value), "V", 3)
                lowered.append(f"{plan.name} is {down.value:g} dB lower, at about {left}.")
        return " ".join(lowered)
