"""Ways of playing that play no tone, such as radio: how much quieter each sounds than a way that was measured."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common import cautions
from upper_rook.core.run.freshness.dependencies import Dependencies, Dependency
from upper_rook.core.run.freshness.dependency_places import source_settings
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import OutputPoint
from upper_rook.core.run.readings.records import Quantity
from upper_rook.core.run.readings.step_keys import other_ways_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.snapshot.number_by_ear import known_way, toneless, way_row
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.kind import LISTEN, Place
from upper_rook.core.run.steps.step import Row, Step, StepKind
from upper_rook.core.system.playing import INPUT_WORDS
from upper_rook.core.system.source import Source

_AFTER_BLEND = 1


def _step(snapshot: JobSnapshot, source: Source) -> Step | None:
    ways, output = toneless(source), next(iter(snapshot.sheet.chain.voltage_outputs_used(source)), None)
    if not ways or output is None:
        return None
    known = known_way(snapshot, source)
    against = INPUT_WORDS[known] if known else "a way that was measured"
    wants = Circumstances(hanging=Hanging.SPEAKERS)
    found = tuple(
        Row(
            key=way_row(way),
            name=f"{INPUT_WORDS[way].capitalize()}: numbers further up",
            quantity=Quantity.NUMBERS,
            unit="",
            point=OutputPoint(source=source.id, output=output.id),
            wants=wants.model_copy(update={"way": way}),
            note=f"against {against}",
            optional=True,
        )
        for way in ways
    )
    return Step(
        key=other_ways_key(source.id),
        kind=StepKind.OTHER_WAYS,
        name="By ear",
        title=f"Compare by ear: {', '.join(INPUT_WORDS[way] for way in ways)}",
        do=(
            f"Play the same kind of music by {against}, at a moderate number. Change over and turn the volume until "
            "both sound alike.",
            "Type how many numbers further up that is. Below zero if it had to be turned down.",
        ),
        point=found[0].point,
        wants=wants,
        rows=found,
        cautions=(cautions.QUIET_LISTENING,),
        optional=True,
    )


class OtherWays(rows.RowsKind):
    kind = StepKind.OTHER_WAYS

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, source in enumerate(snapshot.sheet.chain.feeding()):
            step = _step(snapshot, source)
            if step:
                yield (LISTEN, _AFTER_BLEND, number), step

    @override
    def rests_on(self, snapshot: JobSnapshot, step: Step) -> Dependencies:
        source = next(
            (source for source in snapshot.sheet.chain.feeding() if other_ways_key(source.id) == step.key), None
        )
        if source is None:
            return ()
        top = Dependency(
            place=f"sources.{source.id}.top_volume", label="end of the volume scale", value=source.top_volume
        )
        return (top, *source_settings(source))
