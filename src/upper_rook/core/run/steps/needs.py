"""Needs before a reading counts: speakers off the amplifier, and the clean maximum that it builds on."""

from upper_rook.core.run.clean_maxima.required_points import RequiredPoint
from upper_rook.core.run.readings.records import standing
from upper_rook.core.run.readings.step_keys import SAFE_KEY, SPEAKERS_OFF
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.step import Need
from upper_rook.core.system.choices import Meter
from upper_rook.core.system.job_sheet import Subject
from upper_rook.core.system.path import Path


def speakers_off(snapshot: JobSnapshot) -> Need | None:
    """That somebody says the speakers are disconnected, as long as nobody has."""
    if snapshot.sheet.subject is Subject.SOURCE or _skipped(snapshot, SAFE_KEY):
        return None
    said = (mark.item for mark in standing(snapshot.marks, SAFE_KEY) if mark.answer is not None)
    if SPEAKERS_OFF in said:
        return None
    by_ear = snapshot.sheet.choices.meter is Meter.EAR
    which = "every speaker but the one to listen with" if by_ear else "the speakers"
    return Need(
        sentence=f"Disconnect {which} first: a steady tone burns them.",
        step=SAFE_KEY,
        item=SPEAKERS_OFF,
        answer="Only that one is on" if by_ear else "Speakers are off",
        counts=True,
    )


def clean_maximum(snapshot: JobSnapshot, path: Path, purpose: str) -> Need | None:
    """The clean maximum that a path's volts build on, as long as it isn't known; `purpose` says why it comes first."""
    if is_digital(snapshot, path):
        return None
    missing = _missing(snapshot, path)
    if missing is not None:
        output = missing.output.name if len(missing.source.outputs) > 1 else ""
        of = f" at {output}" if output else ""
        return Need(sentence=f"Find the source’s clean maximum{of} first: {purpose}.", step=missing.key, counts=False)
    left = (point for point in snapshot.unchecked if (point.source.id, point.output.id) == (path.source, path.output))
    told = next((point for point in left if point.told and not _skipped(snapshot, point.key)), None)
    if told is None or told.told is None:
        return None
    sentence = f"Check the source against its sheet first: one reading at {told.told.clean}."
    return Need(sentence=sentence, step=told.key, counts=True)


def lacks_maximum(snapshot: JobSnapshot, path: Path) -> bool:
    """Whether no clean maximum was known that a path's volts could build on."""
    return not is_digital(snapshot, path) and _missing(snapshot, path) is not None


def is_digital(snapshot: JobSnapshot, path: Path) -> bool:
    """Whether its source has no output that could be measured."""
    return not any(point.source.id == path.source for point in snapshot.asked)


def _missing(snapshot: JobSnapshot, path: Path) -> RequiredPoint | None:
    """The source point to be measured for a path: one that gives the kind of level that the path takes."""
    chain = snapshot.sheet.chain
    kind = chain.output_of(path).kind
    kinds = {output.id: output.kind for output in chain.source_of(path).outputs}
    known = {
        kinds.get(clean_maximum.point.output)
        for clean_maximum in snapshot.clean_maxima
        if clean_maximum.point.source == path.source
    }
    if kind in known:
        return None
    own = [point for point in snapshot.asked if point.source.id == path.source]
    fitting = [point for point in own if point.output.kind is kind and not point.optional]
    return next(iter(fitting or own), None)


def _skipped(snapshot: JobSnapshot, key: str) -> bool:
    """Whether a step was passed over on purpose."""
    marks = standing(snapshot.marks, key)
    return bool(marks) and marks[-1].skipped
