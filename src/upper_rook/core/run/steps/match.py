"""The match: the other channel of the same knob, or the other of two strapped amplifiers. Look, turn nothing."""

from collections.abc import Iterator
from dataclasses import dataclass

from typing_extensions import override

from upper_rook.core.metrology.comparison import Turn
from upper_rook.core.run.readings.points import Terminals
from upper_rook.core.run.readings.step_keys import gain_key, match_key
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import volts
from upper_rook.core.run.steps.kind import GAINS, Kind, Place
from upper_rook.core.run.steps.step import Step, StepKind
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import Side


@dataclass(frozen=True)
class _Other:
    """Output that is looked at after the one that was set."""

    what: str
    name: str
    do: str
    probe: str
    terminals: Terminals


_OTHER_CHANNELS = {
    side: _Other(
        "channel",
        side.value,
        f"Move the probe to the {side.value} channel. Don’t turn anything: this checks lead, socket and balance.",
        f"{side.value} channel, across the speaker terminals",
        volts.SIDES[side],
    )
    for side in Side
}
_OTHER_AMPLIFIER = _Other(
    "amplifier",
    "second",
    "Move the probe to the other amplifier’s output. Both must give the same half. "
    "If it has its own gain, set that to the same volts.",
    "on the other amplifier’s own output, both strapped together",
    Terminals.OTHER,
)


def _other(snapshot: JobSnapshot, path: Path) -> _Other | None:
    if path.mode is Mode.STRAPPED:
        return _OTHER_AMPLIFIER
    softer = Side.LEFT if path.louder is Side.RIGHT else Side.RIGHT
    return _OTHER_CHANNELS[softer] if snapshot.sheet.chain.is_pair(path) else None


class Matches(Kind):
    kind = StepKind.MATCH
    state = staticmethod(volts.state)
    measured = staticmethod(volts.measured)

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        for number, path, plan in volts.planned(snapshot):
            other = _other(snapshot, path)
            if other is None:
                continue
            yield (
                (GAINS, number, 1),
                volts.volts_step(
                    snapshot,
                    path,
                    plan,
                    key=match_key(path.id),
                    kind=StepKind.MATCH,
                    name=f"{plan.name} {other.name}",
                    title=f"Check the other {other.what}: {plan.name}",
                    do=(other.do,),
                    probe=other.probe,
                    terminals=other.terminals,
                    turn=Turn(below="less than it should", above="more than it should"),
                    below_db=path.sides_apart_db if path.mode is not Mode.STRAPPED else 0.0,
                    after=(gain_key(path.id),),
                ),
            )
