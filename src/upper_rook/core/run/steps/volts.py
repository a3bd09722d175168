"""Common ground of gain and match: wanted volts at the terminals of one path."""

from collections.abc import Iterator
from uuid import UUID

from upper_rook.core.common.units import format_hertz, format_value, from_db, ratio_db, watts_for
from upper_rook.core.metrology.comparison import TURN, Comparison, Fit, Turn, compare
from upper_rook.core.plan.plan import PROBES, PathPlan
from upper_rook.core.plan.target import Target, lowered, target_of
from upper_rook.core.run.freshness.dependencies import (
    FREQUENCY_WITHIN,
    Dependencies,
    Dependency,
    DependencyKind,
    Spoiled,
    spoiled_by,
)
from upper_rook.core.run.freshness.dependency_places import on_the_way, output_of, source_settings
from upper_rook.core.run.freshness.effects import Effect, effect
from upper_rook.core.run.readings import other_tone
from upper_rook.core.run.readings.circumstances import Circumstances, Hanging
from upper_rook.core.run.readings.other_tone import is_other
from upper_rook.core.run.readings.points import Terminals, TerminalsPoint
from upper_rook.core.run.readings.records import (
    Answer,
    Eye,
    Mark,
    Outcome,
    Quantity,
    Reading,
    last_verdict,
    standing,
    standing_volts,
)
from upper_rook.core.run.readings.step_keys import BLEND_KEY, prove_key
from upper_rook.core.run.snapshot.converters import trims
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps import diagnostics, rows
from upper_rook.core.run.steps.extra_readings import (
    CLIPS,
    HALF,
    KNOB,
    LOADED,
    extra_rows,
    fell_db,
    knob_elsewhere,
    noted,
    read_since,
)
from upper_rook.core.run.steps.kind import Measured
from upper_rook.core.run.steps.needs import clean_maximum, is_digital, lacks_maximum
from upper_rook.core.run.steps.step import Need, State, Step, StepKind, StepState
from upper_rook.core.run.steps.with_load import WithLoad, with_load
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.stages.levels import FLAT_DB
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.methods import GAIN, LOAD
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import INPUT_WORDS, InputKind, Side

OUTCOME_WORDS = {
    Outcome.CLIPPED_FIRST: "it clips before the target: the amplifier’s real maximum",
    Outcome.AT_STOP: "knob at its end before the target: the source is too weak",
    Outcome.LIMITED: "the limiter acts before the target: one click below is the most it gives",
    Outcome.ABOVE_AT_LOWEST: "too much with the gain fully down: attenuate, or use the high-level input",
}
_SETTLED = (Fit.INSIDE, Fit.UNSURE)
_AT = {Mode.PER_CHANNEL: Terminals.LEFT, Mode.BRIDGED: Terminals.BRIDGE, Mode.STRAPPED: Terminals.OWN}
SIDES = {Side.LEFT: Terminals.LEFT, Side.RIGHT: Terminals.RIGHT}
_CALCULABLE = frozenset({"target", "tone", "tone.level", "volume", "source.volts", "response", "through"})
"""Dependencies that `stages` can follow to the terminals; the converters' trims as well."""


def planned(snapshot: JobSnapshot) -> Iterator[tuple[int, Path, PathPlan]]:
    """Every path that could be planned and whose gain can be turned, with its place among them."""
    paths = {path.id: path for path in snapshot.sheet.chain.paths}
    for number, plan in enumerate(snapshot.plan.paths):
        if plan.knob.state is not KnobState.NONE:
            yield number, paths[plan.path], plan


def gain_volume(snapshot: JobSnapshot, path: Path) -> int | None:
    """Where a gain is set; a source that gives numbers only is clean to its top."""
    governing = snapshot.clean_maxima.gain_volume(path.source)
    if governing is not None or not is_digital(snapshot, path):
        return governing
    return snapshot.sheet.chain.source_of(path).top_volume


def gain_way(snapshot: JobSnapshot, path: Path) -> InputKind | None:
    """
    The way of playing that a path's volts are set by; None where nobody named one.

    Another way may give less at the same number, and would then clip what was set by it.
    """
    clean_maximum = snapshot.clean_maxima.of_path(snapshot.sheet.chain, path)
    return clean_maximum.way if clean_maximum else None


def _wants(snapshot: JobSnapshot, path: Path, plan: PathPlan) -> Circumstances:
    """Circumstances that a path's volts should be read under."""
    dummy = LOAD.of(snapshot.sheet.choices).dummy
    return Circumstances(
        tone=plan.tone,
        volume=gain_volume(snapshot, path),
        way=gain_way(snapshot, path),
        hanging=Hanging.DUMMY if dummy else Hanging.NOTHING,
    )


def volume_step_sets_of(snapshot: JobSnapshot, path: Path) -> tuple[str, ...]:
    """The volume steps that a path's volts rest on."""
    return tuple(point.key for point in snapshot.asked if point.source.id == path.source)


def terminals_of(snapshot: JobSnapshot, path: Path) -> Terminals:
    """Where a path's gain is set: of a pair the louder side."""
    return SIDES[path.louder] if snapshot.sheet.chain.is_pair(path) else _AT[path.mode]


def probe_of(snapshot: JobSnapshot, path: Path) -> str:
    """The same in words."""
    where = PROBES[path.mode]
    return f"{path.louder.value} channel, {where}" if snapshot.sheet.chain.is_pair(path) else where


def builds_on(snapshot: JobSnapshot, path: Path) -> tuple[UUID, ...]:
    """The records that the clean maximum of a path was taken from."""
    clean_maximum = snapshot.clean_maxima.of_path(snapshot.sheet.chain, path)
    return clean_maximum.records if clean_maximum else ()


def needs(snapshot: JobSnapshot, path: Path) -> tuple[Need, ...]:
    """Steps that must be done before a path's volts can be set."""
    first = clean_maximum(snapshot, path, "the gain is set at that volume")
    return (first,) if first else ()


def volts_step(
    snapshot: JobSnapshot,
    path: Path,
    plan: PathPlan,
    *,
    key: str,
    kind: StepKind,
    name: str,
    title: str,
    do: tuple[str, ...],
    probe: str,
    terminals: Terminals,
    below_db: float = 0.0,
    turn: Turn = TURN,
    after: tuple[str, ...] = (),
    outcomes: tuple[Outcome, ...] = (),
) -> Step:
    """A step that wants volts at a path's terminals; before it, besides `after`, come its volume steps and trims."""
    converters = (trim.key for trim in trims(snapshot) if path.id in trim.paths)
    point, wants = TerminalsPoint(path=path.id, terminals=terminals), _wants(snapshot, path, plan)
    return Step(
        key=key,
        kind=kind,
        path=path.id,
        along=path.id,
        name=name,
        title=title,
        do=do,
        probe=probe,
        point=point,
        wants=wants,
        beside=tuple(extra_rows(plan, snapshot.figures(path.id), point, wants)) if outcomes else (),
        top_volume=snapshot.sheet.chain.source_of(path).top_volume,
        play=wants.play,
        outcomes=outcomes,
        target=lowered(plan.target, below_db).model_copy(update={"turn": turn}),
        cautions=snapshot.plan.cautions_of(path.id),
        builds_on=builds_on(snapshot, path),
        after=(*volume_step_sets_of(snapshot, path), *converters, *after),
        needs=needs(snapshot, path),
    )


def rests_on(snapshot: JobSnapshot, path_id: str) -> Dependencies:
    """Dependencies of the volts at a path's terminals: the target there, and all that is measured there."""
    path, figures = snapshot.path(path_id), snapshot.figures(path_id)
    if path is None or figures is None:
        return ()
    chain, choices = snapshot.sheet.chain, snapshot.sheet.choices_of(path)
    target, tone = target_of(figures, choices), figures.gain_tone.tone
    governing, volume = snapshot.clean_maxima.governing(path.source), gain_volume(snapshot, path)
    level, volts, hertz = DependencyKind.LEVEL, DependencyKind.VOLTS, DependencyKind.HERTZ
    # The band is held against the target, or every new target would tell three changes.
    low_db, high_db = (ratio_db(edge, target.value) for edge in (target.limits.low, target.limits.high))
    return (
        Dependency(place="target", label="Target volts", value=target.value, kind=volts),
        Dependency(place="band.low", label="lowest accepted, of that", value=low_db, kind=level),
        Dependency(place="band.high", label="highest accepted, of that", value=high_db, kind=level),
        Dependency(place="tone", label="tone", value=tone.frequency_hz, kind=hertz),
        Dependency(place="tone.level", label="level of the tone", value=tone.level_dbfs, kind=level),
        Dependency(place="tone.swept", label="sweep", value=tone.swept, kind=DependencyKind.FLAG),
        Dependency(place="hanging", label="load while setting", value=choices.load.value),
        Dependency(place="volume", label="Clean maximum for gains", value=volume, unknown="not measured"),
        Dependency(
            place="source.volts",
            label="Source volts there",
            unknown="not measured",
            value=governing.volts_at(volume) if governing and volume else None,
            kind=volts,
            within_v=(governing.clean_maximum.uncertainty_v or 0.0) if governing else 0.0,
        ),
        *output_of(chain.source_of(path), path.output),
        *source_settings(chain.source_of(path)),
        *on_the_way(chain, path, figures),
    )


def state(snapshot: JobSnapshot, step: Step) -> StepState:
    """How volts at the terminals stand."""
    readings, position = standing_volts(snapshot.readings, step.key), noted(snapshot, step.key, KNOB)
    marks = standing(snapshot.marks, step.key)
    heard = last_verdict(snapshot.readings, step.key)
    if heard is not None and step.path is not None:
        return _heard(snapshot, step, step.path, heard)
    if not readings or step.target is None or step.path is None:
        return StepState(step=step.key, state=State.OPEN, sentence=step.to_do, position=position)
    last = readings[-1]
    then = snapshot.at(last.sheet_version, last.builds_on or ())
    if is_too_early(then, step.path):
        return StepState(step=step.key, state=State.OPEN, sentence=rows.TOO_EARLY, reading=last, position=position)
    comparison = compare(last.value, last.uncertainty, step.target.value, step.target.limits, step.target.turn)
    load = with_load(snapshot, step)
    outcome = _outcome(marks, last, comparison, load)
    spoiled: tuple[Spoiled, ...] = spoiled_by(rests_on(then, step.path), rests_on(snapshot, step.path))
    otherwise = _otherwise(then, step.path, last)
    half = read_since(last, noted(snapshot, step.key, HALF))
    fell = fell_db(last, half)
    clips = last.seen is Eye.CLIPPED or (fell is not None and diagnostics.clips_by_half(fell))
    softly = clips and _clips_by_choice(snapshot, step) and comparison.fit in _SETTLED
    otherwise = otherwise or (_CLIPPED if clips and not softly else "")
    above = load if load and load.is_above and outcome is not Outcome.ABOVE_AT_LOWEST else None
    # A gain that ended by clipping was done before anybody was asked where that is, and stays so.
    waits = above is not None and above.saved
    settled = not otherwise and not waits and (outcome is not None or comparison.fit in _SETTLED)
    proof = _over_in_the_proof(snapshot, step, last)
    spoiled = (*spoiled, *proof)
    sentence = otherwise or _in_words(outcome, comparison, above, waits=waits)
    if softly:
        sentence = f"{sentence.rstrip('.')}, {SLIGHTLY}"
    # A knob at its stop explains nothing: what kept the volts away may still be told by them.
    missed = comparison.fit in (Fit.BELOW, Fit.ABOVE) and outcome not in (Outcome.CLIPPED_FIRST, Outcome.LIMITED)
    return StepState(
        step=step.key,
        # A spoiled reading says so whether or not it happens to meet the new target.
        state=State.OUTDATED if spoiled else State.DONE if settled else State.OPEN,
        sentence=f"{format_value(last.value, 'V')}: {sentence}",
        spoiled=spoiled,
        effect=_effect(snapshot, then, step, last, spoiled),
        reading=last,
        comparison=comparison,
        outcome=outcome,
        turn_down_to_v=above.loaded_v if above else None,
        clips_at=noted(snapshot, step.key, CLIPS),
        clips_with_resistors=noted(snapshot, step.key, LOADED),
        position=position,
        half=half,
        meanings=(
            *(diagnostics.of_half(fell) if half else ()),
            *(_meanings(snapshot, step, last) if missed else ()),
            *knob_elsewhere(snapshot, step.path, position),
        ),
    )


def _heard(snapshot: JobSnapshot, step: Step, path_id: str, last: Reading) -> StepState:
    """A gain that was only heard: clean, or harsh and to be turned down."""
    then = snapshot.at(last.sheet_version, last.builds_on or ())
    if is_too_early(then, path_id):
        return StepState(step=step.key, state=State.OPEN, sentence=rows.TOO_EARLY, reading=last)
    spoiled = spoiled_by(rests_on(then, path_id), rests_on(snapshot, path_id))
    otherwise = _otherwise(then, path_id, last)
    clean = last.seen is Eye.CLEAN and not otherwise
    told = HEARD_CLEAN if clean else "Harsh. Turn the gain down until it is clean, and save that."
    return StepState(
        step=step.key,
        state=State.OUTDATED if spoiled else State.DONE if clean else State.OPEN,
        sentence=otherwise or told,
        spoiled=spoiled,
        reading=last,
        position=noted(snapshot, step.key, KNOB),
    )


HEARD_CLEAN = "Clean by ear, no volts read"


def is_too_early(then: JobSnapshot, path_id: str) -> bool:
    """Whether a reading was taken before there was a clean maximum that it could be compared with."""
    path = then.path(path_id)
    return path is not None and lacks_maximum(then, path)


_CLIPPED = "clipped: turn it down until it is clean, and save that"


SLIGHTLY = "slightly clipped, by choice"


def _clips_by_choice(snapshot: JobSnapshot, step: Step) -> bool:
    """Whether the gain's method accepts slight clipping and the amplifier sets this path's target."""
    figures = snapshot.figures(step.path or "")
    return (
        figures is not None
        and figures.amplifier_limits
        and GAIN.of(snapshot.sheet.choices_of(figures.path)).clips_softly
    )


def _over_in_the_proof(snapshot: JobSnapshot, step: Step, last: Reading) -> Iterator[Spoiled]:
    """Tones of the path's proof that were too high since its gain was set, unless left so with a reason."""
    if step.kind is not StepKind.GAIN or step.path is None or step.target is None:
        return
    key, limit_v = prove_key(step.path), proof_limit_v(snapshot, step.path, step.target)
    figures = snapshot.figures(step.path)
    boosted = figures is not None and figures.levels.shape.lifted
    softly = _clips_by_choice(snapshot, step)
    left = {mark.item: mark.arrival for mark in standing(snapshot.marks, key) if mark.answer is Answer.LEFT}
    for row, reading in rows.last_readings(snapshot, key).items():
        stays = left.get(row, -1) > reading.arrival
        over = is_over(reading, limit_v) or (reading.seen is Eye.CLIPPED and not softly)
        if over and not stays and reading.arrival > last.arrival and reading.tone is not None:
            yield Spoiled(
                place=f"proof.{row}",
                label=f"Proof at {format_hertz(reading.tone.frequency_hz)}",
                was=f"limit {format_value(limit_v, 'V')}",
                now=f"{format_value(reading.value, 'V')}{', clipped' if reading.seen is Eye.CLIPPED else ''}",
                remedy="Turn the gain down, or remove the boost." if boosted else "Turn the gain down.",
            )


def is_over(reading: Reading, limit_v: float) -> bool:
    """Whether a reading is above a limit by more than its doubt, as a gain is accepted within its doubt."""
    return reading.value - (reading.uncertainty or 0.0) > limit_v


def proof_limit_v(snapshot: JobSnapshot, path_id: str, target: Target) -> float:
    """
    The most volts that a tone of the proof may read.

    The tone of a gain may lie up to FLAT_DB below the highest of its path. A knob that is accepted there is accepted in
    the proof too, or a healthy system could never be completed.
    """
    figures = snapshot.figures(path_id)
    below_db = min(FLAT_DB, figures.gain_tone.below_peak_db) if figures else 0.0
    return target.limits.high * from_db(below_db)


def _meanings(snapshot: JobSnapshot, step: Step, reading: Reading) -> tuple[str, ...]:
    if step.target is None:
        return ()
    if step.kind is StepKind.MATCH:
        return diagnostics.of_the_other_side(reading.value, step.target)
    path = snapshot.path(step.path or "")
    bridged = path is not None and path.mode is Mode.BRIDGED
    return diagnostics.at_terminals(reading.value, step.target, bridged=bridged)


def _outcome(marks: list[Mark], last: Reading, comparison: Comparison, load: WithLoad | None) -> Outcome | None:
    """Why the reading counts although it missed; which end a knob's stop is, the reading says."""
    said = [mark.outcome for mark in marks if mark.outcome is not None and mark.arrival >= last.arrival]
    if said:
        too_much = comparison.fit is Fit.ABOVE or (load is not None and load.is_above)
        return Outcome.ABOVE_AT_LOWEST if said[-1] is Outcome.AT_STOP and too_much else said[-1]
    turned_down = comparison.fit is Fit.BELOW and load is not None and load.is_there
    return Outcome.CLIPPED_FIRST if turned_down else None


def _in_words(outcome: Outcome | None, comparison: Comparison, above: WithLoad | None, *, waits: bool) -> str:
    """A gain's reading in a sentence; `above` where its load leaves less clean."""
    if above and waits:
        return above.order
    told = OUTCOME_WORDS[outcome] if outcome else comparison.sentence
    if above is None:
        return told
    lower = format_value(above.loaded_v, "V", 3)
    if outcome is Outcome.LIMITED:
        return f"{told}. With the speakers on it acts at about {lower}"
    return f"{told}. With the speakers on it clips lower: turn the gain down to {lower}, and save that"


def _otherwise(then: JobSnapshot, path_id: str, reading: Reading) -> str:
    """That a reading was taken under other circumstances than the step wanted, in words, or nothing."""
    path, figures = then.path(path_id), then.figures(path_id)
    if path is None or figures is None:
        return ""
    volume, tone = gain_volume(then, path), figures.gain_tone.tone
    if volume is not None and reading.volume is not None and reading.volume != volume:
        return f"read at volume {reading.volume}. Set the volume to {volume} and read again"
    played = reading.tone
    if played and (abs(played.frequency_hz / tone.frequency_hz - 1) > FREQUENCY_WITHIN or is_other(played, tone)):
        return other_tone.in_words(played, tone)
    wanted, way = gain_way(then, path), reading.circumstances.way
    if wanted and way and way is not wanted:
        return f"read by {INPUT_WORDS[way]}. {INPUT_WORDS[wanted]} clips first: play that and read again"
    return ""


def _effect(
    snapshot: JobSnapshot, then: JobSnapshot, step: Step, reading: Reading, spoiled: tuple[Spoiled, ...]
) -> Effect | None:
    calculable = all(other.place in _CALCULABLE or other.place.startswith("processors.") for other in spoiled)
    if not spoiled or not calculable or step.target is None or step.path is None:
        return None
    was, now = then.figures(step.path), snapshot.figures(step.path)
    if was is None or now is None:
        return None
    share = 2 if now.path.mode is Mode.STRAPPED else 1
    return effect(reading.value, was, now, share, step.target.limits)


def _blended_db(snapshot: JobSnapshot, step: Step) -> float:
    """By how much a path was turned down when the groups were blended."""
    down = rows.last_readings(snapshot, BLEND_KEY).get(step.path or "")
    return down.value if down else 0.0


def measured(snapshot: JobSnapshot, step: Step, state: StepState) -> Measured | None:
    """The line of the result for one output."""
    if step.target is None:
        return None
    power_ohm = next(plan.power_ohm for plan in snapshot.plan.paths if plan.path == step.path)
    reading = state.reading
    down_db = _blended_db(snapshot, step)
    part = from_db(-down_db)
    if reading is not None and reading.quantity is Quantity.VERDICT:
        reading = None
    power = watts_for(reading.value * part, power_ohm) if reading else None
    doubt = reading.uncertainty if reading else None
    blended = f"turned down by {down_db:g} dB in blending" if down_db and reading else ""
    return Measured(
        name=step.name,
        probe=step.probe or "",
        target_v=step.target.value,
        voltage_v=reading.value * part if reading else None,
        uncertainty_v=doubt * part if doubt is not None else None,
        power_w=power,
        # To first order the power's relative doubt is twice the voltage's (JCGM 100).
        power_uncertainty_w=2 * power * doubt / reading.value if reading and power and doubt is not None else None,
        volume=reading.volume if reading else None,
        taken_on=reading.taken_at.date() if reading else None,
        tone_hz=reading.tone.frequency_hz if reading and reading.tone else None,
        comparison=state.comparison,
        instrument=reading.instrument if reading else None,
        remark="; ".join(
            text
            for text in (
                OUTCOME_WORDS[state.outcome] if state.outcome else "",
                SLIGHTLY if reading and reading.seen is Eye.CLIPPED and _clips_by_choice(snapshot, step) else "",
                blended,
            )
            if text
        )
        or ("" if reading else state.sentence),
        outdated=state.state is State.OUTDATED,
    )
