"""The source's clean maximum: volume numbers and volts, judged by what a person saw, or by the volts themselves."""

from functools import lru_cache
from itertools import pairwise

from upper_rook.core.common.units import Frozen, format_value, from_db
from upper_rook.core.judge.examination import LadderView, judge_rungs
from upper_rook.core.judge.ladder import LadderFinding, Rung
from upper_rook.core.run.records import Eye, Mark, Reading
from upper_rook.core.system.ceiling import Basis, Ceiling, GainPoint, fallback_volume, start_volume
from upper_rook.core.system.choices import TopVolumeSchool


class Offer(Frozen):
    """A clean maximum that can be taken."""

    basis: Basis
    volume: int
    words: str


class Ladder(Frozen):
    """What the readings of a source say so far."""

    last_clean: Ceiling | None
    first_clipped: int | None
    fallback: Ceiling | None
    """The reading at the three-quarter number, when there is one."""
    fallback_volume: int
    judged: LadderView | None = None
    """What the volts alone say, once there are a few."""
    by_volts: Ceiling | None = None
    """The reading at the last clean number that the volts give, when there is one."""
    offers: tuple[Offer, ...] = ()
    """What can be taken, that of the chosen school first."""
    questions: tuple[str, ...]
    """What does not fit together and should be looked at."""
    next_step: str


def latest_by_volume(readings: list[Reading]) -> dict[int, Reading]:
    """The last reading taken at each volume number, by number."""
    return {reading.volume: reading for reading in sorted(readings, key=lambda one: one.taken_at)}


def climb(
    readings: list[Reading],
    top_volume: int,
    school: TopVolumeSchool = TopVolumeSchool.MEASURED,
    rated_v: float | None = None,
) -> Ladder:
    """
    What `readings` (of one step, none struck) say about a source whose scale ends at `top_volume`.

    `school` and the output's rated volts decide which number is offered first.
    """
    rungs = latest_by_volume(readings)
    clipped = [number for number, one in rungs.items() if one.seen is Eye.CLIPPED]
    first_clipped = min(clipped, default=None)
    clean = [
        number
        for number, one in rungs.items()
        if one.seen is Eye.CLEAN and (first_clipped is None or number < first_clipped)
    ]
    guess = fallback_volume(top_volume)
    judged = _judged(tuple(Rung(volume=one.volume, voltage_v=one.voltage_v) for one in rungs.values()), top_volume)
    number = judged.report.clean_volume if judged else None
    at_rated = min((one for one, row in rungs.items() if rated_v and row.voltage_v >= 0.98 * rated_v), default=None)
    return Ladder(
        last_clean=_ceiling(rungs[max(clean)], Basis.MARKED) if clean else None,
        first_clipped=first_clipped,
        fallback=_ceiling(rungs[guess], Basis.GUESS) if guess in rungs else None,
        fallback_volume=guess,
        judged=judged,
        by_volts=_ceiling(rungs[number], Basis.JUDGED) if number in rungs else None,
        offers=_offers(
            school,
            max(clean, default=None),
            number if number in rungs else None,
            at_rated,
            guess if guess in rungs else None,
        ),
        questions=(
            *_questions(rungs, first_clipped),
            *_disagreements(judged, max(clean, default=None), first_clipped),
        ),
        next_step=_next_step(rungs, max(clean, default=None), first_clipped, top_volume)
        or _next_by_volts(judged, top_volume),
    )


def _offers(
    school: TopVolumeSchool, marked: int | None, judged: int | None, rated: int | None, guess: int | None
) -> tuple[Offer, ...]:
    seen = marked is not None
    rows = (
        (Basis.MARKED, marked, f"Take {marked} as the clean maximum", True),
        (Basis.JUDGED, judged, f"Take {judged}, judged from the volts", not seen),
        (Basis.RATED, rated, f"Take {rated}, where it reaches its rated volts", False),
        (Basis.GUESS, guess, f"Take {guess}: three quarters, a guess", not seen and judged is None),
    )
    wanted = {TopVolumeSchool.RATED_VOLTS: Basis.RATED, TopVolumeSchool.THREE_QUARTERS: Basis.GUESS}.get(school)
    offered = [
        Offer(basis=basis, volume=volume, words=words)
        for basis, volume, words, usual in rows
        if volume is not None and (usual or basis is wanted)
    ]
    return tuple(sorted(offered, key=lambda one: one.basis is not wanted))


def held_back(ceiling: Ceiling, readings: list[Reading], clicks: int) -> Ceiling:
    """
    `ceiling` with the gains set `clicks` numbers below it.

    The volts there are read off the readings, as a straight line in dB between two of them; without one below, by a
    decibel a number (common practice, no source).
    """
    if not clicks:
        return ceiling
    volume = max(1, ceiling.volume - clicks)
    rungs = {number: one.voltage_v for number, one in latest_by_volume(readings).items() if number <= ceiling.volume}
    below = max((number for number in rungs if number <= volume), default=None)
    if below is None:
        voltage_v = ceiling.voltage_v * from_db(volume - ceiling.volume)
    else:
        above = min(number for number in rungs if number >= volume)
        part = (volume - below) / (above - below) if above > below else 0.0
        voltage_v = rungs[below] * (rungs[above] / rungs[below]) ** part
    return ceiling.model_copy(update={"held_back": GainPoint(volume=volume, voltage_v=voltage_v)})


@lru_cache(maxsize=64)
def _judged(rungs: tuple[Rung, ...], top_volume: int) -> LadderView | None:
    """The same ladder is asked for again by every screen."""
    return judge_rungs(rungs, top_volume)


def taken(mark: Mark | None, readings: list[Reading]) -> Ceiling | None:
    """The clean maximum that `mark` took, or None when nothing was taken or its reading no longer stands."""
    if mark is None or mark.basis is None or mark.volume is None:
        return None
    reading = latest_by_volume(readings).get(mark.volume)
    return _ceiling(reading, mark.basis) if reading else None


def _ceiling(reading: Reading, basis: Basis) -> Ceiling:
    return Ceiling(volume=reading.volume, voltage_v=reading.voltage_v, uncertainty_v=reading.uncertainty_v, basis=basis)


def _questions(rungs: dict[int, Reading], first_clipped: int | None) -> list[str]:
    found = []
    numbers = sorted(rungs)
    for lower, higher in pairwise(numbers):
        below, above = rungs[lower], rungs[higher]
        if above.voltage_v < below.voltage_v:
            found.append(
                f"{format_value(above.voltage_v, 'V')} at {higher} is less than {format_value(below.voltage_v, 'V')} "
                f"at {lower}. Is the probe still on, and was it the same tone? Kept as it is; undo it if it was a slip."
            )
    if first_clipped is not None:
        higher_clean = [n for n in numbers if n > first_clipped and rungs[n].seen is Eye.CLEAN]
        if higher_clean:
            found.append(
                f"{higher_clean[0]} is marked clean but {first_clipped}, below it, clipped. "
                f"Only numbers below {first_clipped} count until one of the two is undone."
            )
    return found


def _disagreements(judged: LadderView | None, last_clean: int | None, first_clipped: int | None) -> list[str]:
    """Where the eye and the volts are more than one number apart: both can be fooled."""
    number = judged.report.clean_volume if judged else None
    if number is None:
        return []
    if last_clean is not None and last_clean > number + 1:
        return [f"{last_clean} is marked clean, but the volts fall short from {number + 1} on: look at the wave again."]
    if first_clipped is not None and first_clipped < number:
        return [
            f"{first_clipped} is marked clipped, but the volts go up evenly to {number}. "
            "Was the trace larger than the screen, or stepped?"
        ]
    return []


def _next_step(rungs: dict[int, Reading], last_clean: int | None, first_clipped: int | None, top_volume: int) -> str:
    if not rungs:
        return f"Set the volume to {start_volume(top_volume)}, half of the scale, and take the first reading."
    if first_clipped is not None and last_clean is None:
        return "It clips at the lowest number so far: go down until the wave is clean."
    if first_clipped is not None and last_clean is not None:
        if first_clipped - last_clean > 1:
            return f"Clean at {last_clean}, clipped at {first_clipped}: try {last_clean + 1} to be exact."
        return f"{last_clean} is the last clean number. Take it."
    if last_clean is not None and last_clean >= top_volume:
        return f"Clean to the top of the scale. Take {last_clean}."
    return f"Still clean at {last_clean}: go up one number." if last_clean is not None else ""


def _next_by_volts(judged: LadderView | None, top_volume: int) -> str:
    """What to do when nobody sees the wave."""
    guess = f"or take {fallback_volume(top_volume)}, three quarters of the scale: a guess, and not to be passed."
    if judged is None:
        return f"Nobody has seen the wave yet. Go up one number at a time until the volts tell, {guess}"
    if judged.report.verdict is LadderFinding.FOUND:
        return f"By the volts alone {judged.report.clean_volume} is the last clean number."
    if judged.report.verdict is LadderFinding.NOT_REACHED:
        return f"The volts still follow the volume: {' '.join(judged.report.reasons[1:]) or 'go on.'}"
    return f"The volts can't tell yet. {' '.join(judged.report.reasons)} Or {guess.removeprefix('or ')}"
