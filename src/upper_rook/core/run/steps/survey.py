"""A factory system surveyed: which speakers play, and which part of the band each plays."""

from collections.abc import Iterator

from typing_extensions import override

from upper_rook.core.common import cautions
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.points import WirePoint
from upper_rook.core.run.readings.records import Quantity, Reading
from upper_rook.core.run.readings.step_keys import survey_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import rows
from upper_rook.core.run.steps.kind import PREPARE, Place
from upper_rook.core.run.steps.step import Row, RowChoice, Step, StepKind
from upper_rook.core.system.plug import WireRole
from upper_rook.core.system.source import Source, SourceKind

_BEHIND_PLUGS = 1000
PARTS = ("nothing", "bass", "middle", "treble", "bass and middle", "middle and treble", "everything")
"""Parts of the band that somebody hears from a speaker, by the value that is kept."""
_CHOICES = tuple(RowChoice(value=float(value), text=text) for value, text in enumerate(PARTS))


def _speakers(source: Source) -> dict[str, str]:
    """The speakers that its plugs name, each once, with the wire that is its row's key."""
    wires = (wire for plug in source.plugs for wire in plug.wires)
    found: dict[str, tuple[str, str]] = {}
    for wire in wires:
        if wire.role is WireRole.SPEAKER and wire.speaker:
            found.setdefault(wire.speaker.casefold(), (wire.speaker, wire.id))
    return dict(found.values())


class Surveys(rows.RowsKind):
    kind = StepKind.SURVEY

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, source in enumerate(snapshot.sheet.chain.feeding()):
            speakers = _speakers(source) if source.kind is SourceKind.FACTORY else {}
            if not speakers:
                continue
            wants = Circumstances(hanging=Hanging.SPEAKERS)
            found = tuple(
                Row(
                    key=f"{wire}-plays",
                    name=name,
                    quantity=Quantity.CHOICE,
                    unit="",
                    point=WirePoint(wire=name),
                    wants=wants,
                    note="plays",
                    optional=True,
                    choices=_CHOICES,
                )
                for name, wire in speakers.items()
            )
            yield (
                (PREPARE, 3, _BEHIND_PLUGS, number),
                Step(
                    key=survey_key(source.id),
                    kind=StepKind.SURVEY,
                    name="Survey",
                    title="Survey the factory speakers",
                    do=(
                        "Before anything is taken apart: quiet music, balance and fader to one speaker at a time, an "
                        "ear close to it.",
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
        told = [
            f"{row.name}: {PARTS[round(reading.value)]}"
            for row in step.rows
            if (reading := readings.get(row.key)) is not None and round(reading.value) < len(PARTS)
        ]
        return f"{'; '.join(told)}." if told else ""
