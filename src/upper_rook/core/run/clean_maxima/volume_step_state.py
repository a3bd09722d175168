"""The source's clean maximum: volume numbers and volts, judged by what a person saw, or by the volts themselves."""

import math
from collections import Counter
from collections.abc import Iterator
from functools import lru_cache
from itertools import pairwise

from upper_rook.core.common.units import Frozen, format_db, format_value, ratio_db
from upper_rook.core.judge.examination import VolumeStepsView, judge_volume_readings
from upper_rook.core.judge.volume_steps_report import VolumeReading, VolumeStepsFinding
from upper_rook.core.metrology.meters import is_averaging
from upper_rook.core.run.clean_maxima.against_sheet import SheetCheck
from upper_rook.core.run.readings.records import Evidence, Eye, Quantity, Reading, latest_by_volume
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum, fallback_volume, start_volume


class Offer(Frozen):
    """A clean maximum that can be taken."""

    basis: Basis
    volume: int
    words: str
    note: str = ""
    """Why it isn't the highest one, where it isn't."""


class NextNumbers(Frozen):
    """
    Where to turn the volume after a reading, for every number of the scale: `clean[n]` after a clean one at `n`.

    A table, so that a device that can't reach anybody knows it too. Each has top volume + 1 entries.
    """

    clean: tuple[int, ...]
    clipped: tuple[int, ...]
    unseen: tuple[int, ...]


class VolumeSteps(Frozen):
    """State of the volume steps of a source."""

    last_clean: CleanMaximum | None
    first_clipped: int | None
    fallback: CleanMaximum | None
    """The reading at the three-quarter number, when there is one."""
    fallback_volume: int
    judged: VolumeStepsView | None = None
    """Verdict of the volts alone, once there are a few."""
    by_volts: CleanMaximum | None = None
    """The reading at the clean maximum that the volts give, when there is one."""
    offers: tuple[Offer, ...] = ()
    """Clean maxima that can be taken, that of the chosen method first."""
    sheet: SheetCheck | None = None
    """Comparison with the source's sheet at this point, where there is one."""
    questions: tuple[str, ...]
    """Contradictions that should be looked at."""
    next_step: str
    next_volume: int
    """Where to go on."""
    next_after: NextNumbers


_LOOKED_AT = 2
"""Readings of a kind at one number that are set side by side."""


def volume_step_state(
    readings: list[Reading],
    top_volume: int,
    wanted: Basis | None = None,
    rated_v: float | None = None,
) -> VolumeSteps:
    """
    State of a source whose scale ends at `top_volume`, from `readings` of one step, none struck.

    `wanted` is what the chosen method offers first, `rated_v` the output's rated volts.
    """
    readings = _still_said(readings)
    volume_readings = latest_by_volume(readings)
    clipped = [number for number, reading in volume_readings.items() if reading.seen is Eye.CLIPPED]
    first_clipped = min(clipped, default=None)
    clean = [
        number
        for number, reading in volume_readings.items()
        if reading.seen is Eye.CLEAN and (first_clipped is None or number < first_clipped)
    ]
    guess = fallback_volume(top_volume)
    # What was only heard has the volts of a rating, which say nothing of where it bends.
    read = [
        (number, reading) for number, reading in volume_readings.items() if reading.quantity is not Quantity.VERDICT
    ]
    judged = _judged(tuple(_volume_reading(number, reading) for number, reading in read), top_volume)
    number = _by_volts(judged)
    at_rated = min((number for number, row in read if rated_v and row.value >= 0.98 * rated_v), default=None)
    return VolumeSteps(
        last_clean=_clean_maximum(volume_readings[max(clean)], Basis.MARKED) if clean else None,
        first_clipped=first_clipped,
        fallback=_clean_maximum(volume_readings[guess], Basis.GUESS) if guess in volume_readings else None,
        fallback_volume=guess,
        judged=judged,
        by_volts=_clean_maximum(volume_readings[number], Basis.JUDGED) if number in volume_readings else None,
        offers=_offers(
            wanted,
            max(clean, default=None),
            number if number in volume_readings else None,
            at_rated,
            guess if guess in volume_readings else None,
        )
        + _safer(clean, first_clipped),
        questions=(
            *((judged.report.odd.sentence,) if judged and judged.report.odd else ()),
            *_questions(volume_readings, first_clipped),
            *_volts_apart(readings),
            *_apart(readings),
            *_seen_otherwise(readings),
            *_disagreements(judged, max(clean, default=None), first_clipped),
            *_unusual(_bends_at(judged, max(clean, default=None), first_clipped, top_volume), top_volume),
        ),
        next_step=_next_step(volume_readings, max(clean, default=None), first_clipped, top_volume)
        or _next_by_volts(judged, top_volume),
        next_volume=_next_volume(readings, max(clean, default=None), first_clipped, top_volume),
        next_after=_next_after(volume_readings, top_volume),
    )


def _still_said(readings: list[Reading]) -> list[Reading]:
    """
    The readings of one step that say anything yet, oldest first.

    Of each number those are the last two with each version of the sheet, and the last two looks in each way.
    """
    left: Counter[tuple[int | None, object]] = Counter()
    found = []
    for reading in reversed(readings):
        number, looked = reading.circumstances.volume, reading.seen is not Eye.UNSEEN
        taken, seen = (number, reading.sheet_version), (number, reading.evidence)
        if left[taken] < _LOOKED_AT or (looked and left[seen] < _LOOKED_AT):
            found.append(reading)
            left[taken] += 1
            left[seen] += looked
    return found[::-1]


def _by_volts(judged: VolumeStepsView | None) -> int | None:
    """The clean maximum by the volts alone; None where its own reading is the one that doesn't fit."""
    if judged is None or (judged.report.odd and judged.report.odd.volume == judged.report.usable_volume):
        return None
    return judged.report.usable_volume


def _next_volume(readings: list[Reading], last_clean: int | None, first_clipped: int | None, top_volume: int) -> int:
    """On above the last reading, or back at the clean maximum once it has clipped."""
    numbers = [reading.volume for reading in readings if reading.volume is not None]
    if not numbers:
        return start_volume(top_volume)
    if first_clipped is None:
        return min(numbers[-1] + 1, top_volume)
    return last_clean if last_clean is not None else first_clipped - 1


def _next_after(volume_readings: dict[int, Reading], top_volume: int) -> NextNumbers:
    """Up one after a clean one; down one after a clipped one, unless that was read already."""
    up = tuple(min(number + 1, top_volume) for number in range(top_volume + 1))
    down = tuple(number if number - 1 in volume_readings else max(0, number - 1) for number in range(top_volume + 1))
    return NextNumbers(clean=up, clipped=down, unseen=up)


def _offers(
    wanted: Basis | None, marked: int | None, judged: int | None, rated: int | None, guess: int | None
) -> tuple[Offer, ...]:
    seen = marked is not None
    rows = (
        (Basis.MARKED, marked, f"Save {marked} as the clean maximum", True),
        (Basis.JUDGED, judged, f"Save {judged}, judged from the volts", not seen),
        (Basis.RATED, rated, f"Save {rated}, at its rated volts", False),
        (Basis.GUESS, guess, f"Save {guess}: three quarters, a guess", not seen and judged is None),
    )
    offered = [
        Offer(basis=basis, volume=volume, words=words)
        for basis, volume, words, usual in rows
        if volume is not None and (usual or basis is wanted)
    ]
    return tuple(sorted(offered, key=lambda offer: offer.basis is not wanted))


SAFER = "on the safe side"
"""Why a number below the highest clean one is taken."""


def _safer(clean: list[int], first_clipped: int | None) -> tuple[Offer, ...]:
    """The clean number below the highest one: for a wave at the top that nobody is quite sure of."""
    below = max((number for number in clean if number < max(clean)), default=None)
    if below is None or first_clipped is None:
        return ()
    return (Offer(basis=Basis.MARKED, volume=below, words=f"Save {below}, {SAFER}", note=SAFER),)


def _volume_reading(number: int, reading: Reading) -> VolumeReading:
    return VolumeReading(volume=number, voltage_v=reading.value, averaging=is_averaging(reading.instrument))


@lru_cache(maxsize=64)
def _judged(volume_readings: tuple[VolumeReading, ...], top_volume: int) -> VolumeStepsView | None:
    """The same volume steps are asked for again by every screen."""
    return judge_volume_readings(volume_readings, top_volume)


def _clean_maximum(reading: Reading, basis: Basis) -> CleanMaximum:
    return CleanMaximum(
        volume=reading.volume or 0, voltage_v=reading.value, uncertainty_v=reading.uncertainty, basis=basis
    )


_BY = {
    Evidence.EYE: "the eye",
    Evidence.EAR: "the ear",
    Evidence.LAMP: "the clip light",
    Evidence.CAPTURE: "the capture",
    Evidence.VOLUME_STEPS: "the volts",
    Evidence.SECOND_METER: "the second meter",
}


_REASONS = (
    "A clip light may come on early with hum or DC. A coarse screen hides little clipping, and a trace larger than "
    "the screen looks clipped. Ears notice it late. Use the lower number until they agree."
)


def _apart(readings: list[Reading]) -> list[str]:
    """
    Numbers at which two ways of telling disagree, with the usual reasons (common practice, no source).

    Both readings are kept; the newer one counts until one of them is struck out.
    """
    said: dict[int, dict[Evidence, Eye]] = {}
    for reading in sorted(readings, key=lambda reading: reading.arrival):
        if reading.volume is not None and reading.evidence is not None and reading.seen is not Eye.UNSEEN:
            said.setdefault(reading.volume, {})[reading.evidence] = reading.seen
    found = []
    for number, told in sorted(said.items()):
        clean = [_BY[evidence] for evidence, seen in told.items() if seen is Eye.CLEAN]
        clipped = [_BY[evidence] for evidence, seen in told.items() if seen is Eye.CLIPPED]
        if clean and clipped:
            found.append(f"At {number} {' and '.join(clipped)} says clipped, {' and '.join(clean)} clean. {_REASONS}")
    return found


_SAME_DB = 0.5
"""Two readings of one number differ by no more on a source that nobody touched (common practice, no source)."""


def _volts_apart(readings: list[Reading]) -> Iterator[str]:
    """Numbers whose last two volts differ by more than their doubts, as the same sheet has them; the later counts."""
    own: dict[tuple[int, int], list[Reading]] = {}
    for reading in sorted(readings, key=lambda reading: reading.arrival):
        if reading.volume is not None:
            own.setdefault((reading.volume, reading.sheet_version), []).append(reading)
    for (number, _), found in sorted(own.items()):
        if len(found) < 2:
            continue
        before, after = found[-2:]
        doubt = math.hypot(before.uncertainty or 0.0, after.uncertainty or 0.0)
        low, high = sorted((before.value, after.value))
        if high - low > doubt and (low <= 0 or ratio_db(high, low) > _SAME_DB):
            yield (
                f"At {number} the meter showed {format_value(before.value, 'V')} before and "
                f"{format_value(after.value, 'V')} now, which counts. Check the probe, the tone and the meter’s range. "
                "Undo the reading that was wrong."
            )


def _seen_otherwise(readings: list[Reading]) -> Iterator[str]:
    """Numbers at which a second look in the same way says something else than the first; the later one counts."""
    looks: dict[tuple[int, Evidence], list[Eye]] = {}
    for reading in sorted(readings, key=lambda reading: reading.arrival):
        if reading.volume is not None and reading.seen is not Eye.UNSEEN:
            looks.setdefault((reading.volume, reading.evidence or Evidence.EYE), []).append(reading.seen)
    for (number, how), seen in sorted(looks.items()):
        if len(set(seen[-2:])) > 1:
            before, after = (eye.value for eye in seen[-2:])
            yield (
                f"At {number} {_BY[how]} said {before} before and {after} now, which counts. Look again, or undo the "
                "one that was wrong."
            )


def _questions(volume_readings: dict[int, Reading], first_clipped: int | None) -> list[str]:
    found = []
    numbers = sorted(volume_readings)
    for lower, higher in pairwise(numbers):
        below, above = volume_readings[lower], volume_readings[higher]
        if above.value < below.value:
            found.append(
                f"{format_value(above.value, 'V')} at {higher} is less than {format_value(below.value, 'V')} "
                f"at {lower}. Check the probe and the tone. Undo the reading if it was a slip."
            )
    found += _uneven(volume_readings, first_clipped)
    if first_clipped is not None:
        higher_clean = [n for n in numbers if n > first_clipped and volume_readings[n].seen is Eye.CLEAN]
        if higher_clean:
            found.append(
                f"{higher_clean[0]} is marked clean but {first_clipped}, below it, clipped. "
                f"Only numbers below {first_clipped} count until one of the two is undone."
            )
    return found


_MORE_DB = 1.0
"""A step up the scale never grows by so much from one number to the next (common practice, no source)."""


def _uneven(volume_readings: dict[int, Reading], first_clipped: int | None) -> Iterator[str]:
    """A short step with a long one after it: what a reading taken before the meter has settled looks like."""
    numbers = [reading for reading in sorted(volume_readings) if first_clipped is None or reading < first_clipped]
    for lower, middle, higher in zip(numbers, numbers[1:], numbers[2:], strict=False):
        low, mid, high = (volume_readings[number].value for number in (lower, middle, higher))
        if not low < mid < high:
            continue
        short, long = ratio_db(mid, low) / (middle - lower), ratio_db(high, mid) / (higher - middle)
        if long - short > _MORE_DB:
            yield (
                f"{lower} to {middle} is {format_db(short)} a number, {middle} to {higher} is {format_db(long)}. "
                f"The reading at {middle} may have come before the meter had settled: read {middle} again."
            )


def _disagreements(judged: VolumeStepsView | None, last_clean: int | None, first_clipped: int | None) -> list[str]:
    """Where the eye and the volts are more than one number apart: both can be fooled."""
    number = judged.report.clean_volume if judged else None
    if number is None:
        return []
    if last_clean is not None and last_clean > number + 1:
        return [f"{last_clean} is marked clean, but the volts fall short from {number + 1} on. Look at the wave again."]
    if first_clipped is not None and first_clipped < number:
        return [
            f"{first_clipped} is marked clipped, but the volts rise evenly to {number}. "
            "The trace may be larger than the screen, or stepped."
        ]
    return []


_EARLY, _LATE = 0.62, 0.9
"""Of the scale: most sources bend at 75 to 85 % of it (common practice, no source)."""


def _bends_at(
    judged: VolumeStepsView | None, last_clean: int | None, first_clipped: int | None, top_volume: int
) -> int | None:
    """The clean maximum as far as it is known for certain."""
    if last_clean is not None and (first_clipped == last_clean + 1 or last_clean == top_volume):
        return last_clean
    return judged.report.clean_volume if judged and first_clipped is None else None


def _unusual(number: int | None, top_volume: int) -> list[str]:
    """Possible meaning of a bend away from its usual place."""
    if number is None:
        return []
    if number > _LATE * top_volume:
        return [
            f"Clean to {number} of {top_volume}, later than most. Some line outputs never clip. Or the signal is "
            "low: player volume, loudness normaliser, level trim, or a track below full scale."
        ]
    if number < _EARLY * top_volume:
        return [
            f"It clips above {number} of {top_volume}, earlier than most. Check loudness, tone controls, expander and "
            "trims: one of them may be above zero."
        ]
    return []


def _next_step(
    volume_readings: dict[int, Reading], last_clean: int | None, first_clipped: int | None, top_volume: int
) -> str:
    if not volume_readings:
        return f"Set the volume to {start_volume(top_volume)}, half of the scale, and save the first reading."
    if first_clipped is not None and last_clean is None:
        return "It clips at the lowest number so far: go down until the wave is clean."
    if first_clipped is not None and last_clean is not None:
        if first_clipped - last_clean > 1:
            return f"Clean at {last_clean}, clipped at {first_clipped}: try {last_clean + 1} to be exact."
        return f"{last_clean} is the clean maximum. Save it."
    if last_clean is not None and last_clean >= top_volume:
        return f"Clean to the top of the scale. Save {last_clean}."
    return f"Still clean at {last_clean}: go up one number." if last_clean is not None else ""


def _next_by_volts(judged: VolumeStepsView | None, top_volume: int) -> str:
    """Advice for when nobody sees the wave."""
    guess = f"or save {fallback_volume(top_volume)}, three quarters of the scale: a guess, never to be passed."
    if judged is None:
        return f"The wave hasn’t been seen. Go up one number at a time until the volts show where it clips, {guess}"
    if judged.report.verdict is VolumeStepsFinding.FOUND:
        return f"By the volts alone the clean maximum is {judged.report.clean_volume}."
    if judged.report.verdict is VolumeStepsFinding.BOUNDED:
        return f"By the volts alone: {' '.join(judged.report.reasons)}"
    if judged.report.verdict is VolumeStepsFinding.NOT_REACHED:
        return f"The volts still rise evenly: {' '.join(judged.report.reasons[1:]) or 'go on.'}"
    return f"The volts can’t tell yet. {' '.join(judged.report.reasons)} Or {guess.removeprefix('or ')}"
