"""Checklists: what must be so before and after measuring."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime

from typing_extensions import override

from upper_rook.core.common import cautions
from upper_rook.core.common.cautions import Caution
from upper_rook.core.common.units import format_signed
from upper_rook.core.run.freshness.dependencies import Dependencies, Dependency, DependencyKind, Spoiled, spoiled_by
from upper_rook.core.run.freshness.dependency_places import source_settings
from upper_rook.core.run.readings.records import Answer, Mark, standing, worked_steps
from upper_rook.core.run.readings.step_keys import SAFE_KEY, SPEAKERS_OFF
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.run.steps.kind import CLEAN_MAXIMA, LISTEN, PREPARE, Kind, Place
from upper_rook.core.run.steps.step import Answered, CheckItem, State, Step, StepKind, StepState
from upper_rook.core.system.amplifier import Housing
from upper_rook.core.system.choices import Choices, Meter
from upper_rook.core.system.job_sheet import JobSheet, Subject
from upper_rook.core.system.methods import BLEND

RestsOn = Callable[[JobSheet], Dependencies]


def _nothing(_sheet: JobSheet) -> Dependencies:
    return ()


def _settings(*names: str) -> RestsOn:
    """The settings of every source that feeds a path, of these names."""

    def rests_on(sheet: JobSheet) -> Dependencies:
        return tuple(
            source_setting
            for source in sheet.chain.feeding()
            for source_setting in source_settings(source)
            if source_setting.place.rpartition(".")[2] in names
        )

    return rests_on


def _boosts(sheet: JobSheet) -> Dependencies:
    return tuple(
        Dependency(
            place=f"paths.{path.id}.boost",
            label=f"{path.name or 'Speakers'}: boost",
            value=path.boost.gain_db if path.boost else 0.0,
            kind=DependencyKind.LEVEL,
        )
        for path in sheet.chain.paths
    )


def _inputs(sheet: JobSheet) -> Dependencies:
    return tuple(
        Dependency(place=f"paths.{path.id}.{field}", label=f"{path.name or 'Speakers'}: {label}", value=value)
        for path in sheet.chain.paths
        for field, label, value in (
            ("input", "amplifier’s input", path.input.value),
            ("leads", "signal leads (RCA)", path.leads),
        )
    ) + tuple(
        Dependency(
            place=f"amplifiers.{amplifier.id}.routing",
            label=f"{amplifier.name or 'Amplifier'}: input routing",
            value=amplifier.routing.value if amplifier.routing else None,
        )
        for amplifier in sheet.chain.amplifiers
    )


def _has_level_knob(sheet: JobSheet) -> bool:
    return any(amplifier.bass_knob is not None for amplifier in sheet.chain.amplifiers)


def _knob_away(sheet: JobSheet) -> str:
    """A knob that stands at full is best unplugged while gains are set: nobody can turn it meanwhile."""
    stands = [amplifier.bass_knob for amplifier in sheet.chain.amplifiers if amplifier.bass_knob is not None]
    full = all(bass_knob.stands_db == bass_knob.highest_db == 0 for bass_knob in stands)
    return "Remote level knob unplugged, or at full" if full else _knob(sheet)


def _knob(sheet: JobSheet) -> str:
    stands = (amplifier.bass_knob for amplifier in sheet.chain.amplifiers if amplifier.bass_knob is not None)
    levels = " and ".join(
        "at full" if stand.stands_db >= stand.highest_db else f"at {format_signed(stand.stands_db)} dB"
        for stand in stands
    )
    return f"Remote level knob {levels}, as planned"


def _input_switches(sheet: JobSheet) -> str:
    """The input that each path's amplifier is planned to use."""
    levels = {path.input for path in sheet.chain.paths}
    if len(levels) == 1:
        where = f"Input at {levels.pop().value} level"
    else:
        told = (f"{path.name or 'Speakers'} at {path.input.value} level" for path in sheet.chain.paths)
        where = f"Inputs: {', '.join(told)}"
    return f"{where}, routing right for the number of leads"


def _speakers_off(sheet: JobSheet) -> str:
    by_ear = sheet.choices.meter is Meter.EAR
    which = "every speaker but the one to listen with" if by_ear else "speakers and subwoofers"
    return f"Everything off, then {which} disconnected from the amplifier"


def _on_the_bench(sheet: JobSheet) -> str:
    heard = "one amplifier with one speaker to listen with"
    return f"Only {heard if sheet.choices.meter is Meter.EAR else 'the meter'} is connected to its outputs"


def _in_vehicle(sheet: JobSheet) -> bool:
    return sheet.subject is Subject.SYSTEM


def _alone(sheet: JobSheet) -> bool:
    return sheet.subject is Subject.SOURCE


@dataclass(frozen=True)
class _Line:
    """One line of a checklist, and what on the sheet would contradict its answer."""

    item: CheckItem
    rests_on: RestsOn = _nothing
    needs: Callable[[JobSheet], bool] = lambda _sheet: True
    """Whether this system has such a thing at all."""
    says: Callable[[JobSheet], str] | None = None
    """Its text, where that hangs on the system."""
    since: datetime | None = None
    """Time from which runs ask for it; None from the first version on. A list that was complete before stays so."""


@dataclass(frozen=True)
class _List:
    """A checklist."""

    key: str
    name: str
    title: str
    place: Place
    lines: tuple[_Line, ...]
    cautions: tuple[Caution, ...] = ()
    alone: bool = False
    """Whether a source on its own asks for it too."""
    needs: Callable[[JobSheet], bool] = lambda _sheet: True
    """Whether this system has anything to do for it."""
    before: tuple[str, ...] = ()
    """Beginnings of keys of steps: once one of them was read without it, nothing waits for it any more."""


def _line(
    key: str,
    text: str,
    why: str = "",
    rests_on: RestsOn = _nothing,
    needs: Callable[[JobSheet], bool] = lambda _sheet: True,
) -> _Line:
    return _Line(CheckItem(key=key, text=text, why=why), rests_on, needs)


_AFTER_THEM_ALL = 10_000
"""Place behind every clean maximum."""


def _has_inputs(sheet: JobSheet) -> bool:
    """Whether a signal lead goes into anything that this job sets."""
    return any(path.through or sheet.chain.amplifier_of(path).place is not Housing.SOURCE for path in sheet.chain.paths)


def _signal_leads(sheet: JobSheet) -> str:
    """The inputs that signal leads go into, each with the paths behind it."""
    names: dict[str, list[str]] = {}
    for path in sheet.chain.paths:
        before = sheet.chain.processors_of(path)
        into = before[0].name or "the converter or processor" if before else sheet.chain.amplifier_of(path).name
        names.setdefault(into or "the amplifier", []).append(path.name or "speakers")
    told = "; ".join(f"{into} ({', '.join(paths)})" for into, paths in names.items())
    return f"Everything off, then signal leads in: {told}"


_LISTS = (
    _List(
        SAFE_KEY,
        "Safe",
        "Make it safe",
        (PREPARE, 0),
        (
            _Line(
                CheckItem(
                    key=SPEAKERS_OFF,
                    text="Everything off, then speakers and subwoofers disconnected from the amplifier",
                    why="Tones burn them. If any speaker plays, stop and find out which one.",
                ),
                needs=_in_vehicle,
                says=_speakers_off,
            ),
            _Line(
                CheckItem(
                    key="bare",
                    text="Only the meter is connected to its outputs",
                    why="Speaker outputs have no ground side: a short to ground can kill them.",
                ),
                needs=_alone,
                says=_on_the_bench,
            ),
            # In a vehicle it is asked where leads are moved.
            _line("power-off", "Everything switched off before moving leads", needs=_alone),
            _line(
                "running",
                "Engine running, or a charger on",
                "An unregulated amplifier makes 15–20 % more at running voltage than on a resting battery.",
                needs=_in_vehicle,
            ),
            _line(
                "bench-supply",
                "Supply steady, fused, and as the maker specifies",
                "Its own amplifier clips earlier on a low one.",
                needs=_alone,
            ),
            _line(
                "tone-loops",
                "Tone plays and repeats",
                "A short gap when the track restarts is not a fault. "
                "Trust the frequency the meter shows, not the title.",
            ),
        ),
        (cautions.SPEAKERS_OFF, cautions.POWER_OFF_FIRST, cautions.ENGINE, cautions.HIGH_VOLTAGE_WIRING),
        alone=True,
    ),
    _List(
        "flat-source",
        "Source flat",
        "Make the source flat",
        (PREPARE, 1),
        (
            _line("tone-controls", "Bass, mid and treble at zero", rests_on=_settings("bass", "mid", "treble")),
            _line("balance", "Fader and balance centred", rests_on=_settings("fader", "balance")),
            _line(
                "loudness",
                "Loudness and every sound improver, expander and leveller off",
                rests_on=_settings("loudness", "expander"),
            ),
            _line(
                "crossovers",
                "Crossovers off, subwoofer level and input trims at zero",
                rests_on=_settings("sub_level", "trim"),
            ),
            _line(
                "player",
                "Phone at full volume, its loudness normalisation off",
                "Look in the phone’s settings and in each app. It costs a lot of voltage.",
            ),
        ),
        alone=True,
    ),
    _List(
        "flat-amplifier",
        "Amp flat",
        "Make the amplifier flat",
        (PREPARE, 2),
        (
            _line("gain-down", "Gain fully down"),
            _line("boost", "Bass boost at zero", rests_on=_boosts),
            _line(
                "filters",
                "Filters wide open",
                "High-pass and subsonic fully down, low-pass fully up, or the switch at flat.",
            ),
            _Line(
                CheckItem(key="input", text="Input at low level, routing right for the number of leads"),
                rests_on=_inputs,
                says=_input_switches,
            ),
            _Line(
                CheckItem(key="remote-level", text="Remote level knob at full"), needs=_has_level_knob, says=_knob_away
            ),
        ),
    ),
    _List(
        "connect",
        "Connect",
        "Connect the source to what follows",
        (CLEAN_MAXIMA, _AFTER_THEM_ALL),
        (
            _Line(
                CheckItem(
                    key="leads",
                    text="Everything off, then signal leads in",
                    why="A lead that is plugged in live thumps, and can destroy an output or an input.",
                ),
                says=_signal_leads,
            ),
            _line("on-again", "On again, the source first: gains fully down, filters open"),
        ),
        (cautions.POWER_OFF_FIRST, cautions.SPEAKERS_OFF),
        needs=_has_inputs,
        before=("converter.", "gain."),
    ),
    _List(
        "listen",
        "Listen",
        "Reconnect and listen",
        (LISTEN,),
        (
            _line("volume-down", "Volume down, everything off"),
            _Line(
                CheckItem(key="level-knob-back", text="Remote level knob plugged in again"),
                needs=_has_level_knob,
                says=lambda sheet: f"{_knob(sheet)}, plugged in again",
                since=datetime(2026, 12, 1, tzinfo=UTC),
            ),
            _line("speakers-on", "Speakers back on, polarity right, no bare strands"),
            _line("music", "Music at moderate level: every speaker plays and nothing sounds harsh"),
            _line("blend", BLEND.of(Choices()).line),
            _line(
                "told",
                "Customer knows the number never to pass, and not to boost bass later",
            ),
            _line("marked", "Knobs marked, sheet saved"),
        ),
        (cautions.POWER_OFF_FIRST, cautions.QUIET_LISTENING, cautions.MAKERS_FIRST),
    ),
)
_OF_VEHICLES = (cautions.ENGINE, cautions.HIGH_VOLTAGE_WIRING)
_BY_KEY = {checklist.key: checklist for checklist in _LISTS}


def _cautions(sheet: JobSheet, every: tuple[Caution, ...]) -> Iterator[Caution]:
    """Those that hold here: without a vehicle's on the bench; by ear one speaker is on, and stays quiet."""
    for caution in every:
        if _alone(sheet) and caution in _OF_VEHICLES:
            continue
        by_ear = caution is cautions.SPEAKERS_OFF and sheet.choices.meter is Meter.EAR
        yield cautions.QUIET_LISTENING if by_ear else caution


def _contradicted(snapshot: JobSnapshot, rests_on: RestsOn, mark: Mark) -> Iterator[Spoiled]:
    if rests_on is _nothing or mark.answer is Answer.ABSENT or snapshot.history is None:
        return
    yield from spoiled_by(rests_on(snapshot.history(mark.sheet_version)), rests_on(snapshot.sheet))


def _lines(snapshot: JobSnapshot, checklist: _List) -> list[_Line]:
    """The lines of a list that this job is asked; not those that came when all others were answered already."""
    lines = [line for line in checklist.lines if line.needs(snapshot.sheet)]
    said = {mark.item: mark for mark in standing(snapshot.marks, checklist.key)}
    came = sorted({line.since for line in lines if line.since})
    for moment in came:
        before = [line for line in lines if line.since is None or line.since < moment]
        answers = [said.get(line.item.key) for line in before]
        if all(mark is not None and mark.taken_at < moment for mark in answers):
            return [line for line in lines if line in before or line.item.key in said]
    return lines


def _is_past(snapshot: JobSnapshot, checklist: _List) -> bool:
    """Whether a run had got past a list before anybody answered it, as those of earlier versions have."""
    return not standing(snapshot.marks, checklist.key) and any(
        step.startswith(checklist.before) for step in worked_steps(snapshot.readings)
    )


class Checklists(Kind):
    kind = StepKind.CHECKLIST

    @override
    def steps(self, snapshot: JobSnapshot) -> Iterator[tuple[Place, Step]]:
        sheet = snapshot.sheet
        blend = BLEND.of(sheet.choices).line
        for checklist in _LISTS:
            if not checklist.needs(sheet) or (_alone(sheet) and not checklist.alone):
                continue
            items = tuple(
                line.item.model_copy(update={"text": blend})
                if line.item.key == "blend"
                else line.item.model_copy(update={"text": line.says(sheet)})
                if line.says
                else line.item
                for line in _lines(snapshot, checklist)
            )
            yield (
                checklist.place,
                Step(
                    key=checklist.key,
                    kind=StepKind.CHECKLIST,
                    name=checklist.name,
                    title=checklist.title,
                    items=items,
                    optional=_is_past(snapshot, checklist),
                    cautions=tuple(_cautions(sheet, checklist.cautions)),
                ),
            )

    @override
    def state(self, snapshot: JobSnapshot, step: Step) -> StepState:
        said = {mark.item: mark for mark in standing(snapshot.marks, step.key) if mark.answer is not None}
        answered = [item for item in step.items if item.key in said]
        answers = tuple(
            Answered(item=item.key, answer=said[item.key].answer or Answer.DONE, note=said[item.key].note)
            for item in answered
        )
        lines = {line.item.key: line for line in _BY_KEY[step.key].lines}
        spoiled = tuple(
            spoiled
            for item in answered
            for spoiled in _contradicted(snapshot, lines[item.key].rests_on, said[item.key])
        )
        left = len(step.items) - len(answers)
        sentence = f"{left} of {len(step.items)} to answer." if left else "Every line answered."
        return StepState(
            step=step.key,
            state=State.OUTDATED if spoiled else State.OPEN if left else State.DONE,
            sentence=sentence,
            spoiled=spoiled,
            answers=answers,
        )
