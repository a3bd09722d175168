"""
The run as data: every step in trade order, with what to play, where to probe, what to accept and what can hurt.

The same list guides, prints, simulates and is checked; `docs/adding-a-step.md` shows how to add one.
"""

from dataclasses import dataclass
from enum import StrEnum

from upper_rook.core.common import cautions
from upper_rook.core.common.cautions import Caution
from upper_rook.core.common.units import Frozen, Key, format_hertz, format_signed, format_value, volts_for
from upper_rook.core.plan.gain_tone import habit_tone
from upper_rook.core.plan.plan import PathPlan, Plan
from upper_rook.core.plan.target import Target
from upper_rook.core.run.records import Setting
from upper_rook.core.signal.tones import Tone
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.ceiling import Ceiling, start_volume
from upper_rook.core.system.chain import Path
from upper_rook.core.system.choices import BlendSchool, GainSchool, LoadSchool
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.source import INPUT_WORDS, OutputKind, Sides, Source


class StepKind(StrEnum):
    """How a step is worked."""

    CHECKLIST = "checklist"
    LADDER = "ladder"
    GAIN = "gain"
    """Turn the gain until the target shows."""
    MATCH = "match"
    """The other channel of the same knob: look, turn nothing."""


class CheckItem(Frozen):
    """One line of a checklist."""

    key: Key
    text: str
    why: str = ""


class Step(Frozen):
    """One step of the run."""

    key: Key
    kind: StepKind
    path: Key | None = None
    """The path it sets, or None for the whole system."""
    name: str
    """One or two words, for the battlement."""
    title: str
    do: tuple[str, ...] = ()
    """Short orders, in sequence."""
    probe: str | None = None
    probe_at: Key | None = None
    """The measuring point, for the map and for instruments."""
    tone: Tone | None = None
    play: str | None = None
    """The tone in words."""
    volume: int | None = None
    """Volume number to set, or to start from, when it is known."""
    target: Target | None = None
    items: tuple[CheckItem, ...] = ()
    cautions: tuple[Caution, ...] = ()
    settings: tuple[Setting, ...] = ()
    """What a reading of this step depends on, as it is now."""
    waits_for: str | None = None
    """What must be done first, or None."""


CEILING = "ceiling"
"""Key of the step that finds the source's clean maximum; every gain depends on it."""

SAFE_ITEMS = (
    CheckItem(
        key="speakers-off",
        text="Speakers and subwoofers are off the amplifier",
        why="Tones burn them. If any speaker plays, stop and find out which.",
    ),
    CheckItem(key="power-off", text="Everything was off before leads were moved"),
    CheckItem(
        key="running",
        text="Engine running, or a charger on",
        why="An unregulated amplifier makes 15–20 % more at running voltage than on a resting battery.",
    ),
    CheckItem(
        key="tone-loops",
        text="The tone plays and repeats",
        why="A short gap when the track restarts is not a fault. Trust the frequency the meter shows, not the title.",
    ),
)

SOURCE_ITEMS = (
    CheckItem(key="tone-controls", text="Bass, mid and treble at zero"),
    CheckItem(key="balance", text="Fader and balance centred"),
    CheckItem(key="loudness", text="Loudness and every sound improver, expander and leveller off"),
    CheckItem(key="crossovers", text="Crossovers off, subwoofer level and input trims at zero"),
    CheckItem(
        key="player",
        text="Phone at full volume, its loudness normalisation off",
        why="It hides in the phone's settings and again in each app, and costs a great deal of voltage.",
    ),
)

AMPLIFIER_ITEMS = (
    CheckItem(key="gain-down", text="Gain fully down"),
    CheckItem(key="boost", text="Bass boost at zero"),
    CheckItem(
        key="filters",
        text="Filters wide open",
        why="High-pass and subsonic fully down, low-pass fully up, or the switch at flat.",
    ),
    CheckItem(key="input", text="Input at low level, routing right for the number of leads"),
    CheckItem(key="remote-level", text="Remote level knob unplugged, or at full"),
)

_BLEND = {
    BlendSchool.EAR: "Groups blended by ear: the louder one turned down, never the quieter one up",
    BlendSchool.VOLTS: "Groups blended to equal volts: the higher one turned down, never the lower one up",
    BlendSchool.SPECTRUM: "Groups blended by the spectrum of pink noise: the louder one turned down, never up",
}

LISTEN_ITEMS = (
    CheckItem(key="volume-down", text="Volume down, everything off"),
    CheckItem(key="speakers-on", text="Speakers back on, polarity right, no bare strands"),
    CheckItem(key="music", text="Music at moderate level: every speaker plays and nothing sounds harsh"),
    CheckItem(key="blend", text=_BLEND[BlendSchool.EAR]),
    CheckItem(
        key="told",
        text="The customer knows the number never to pass, and that boosting bass later undoes this work",
    ),
    CheckItem(key="marked", text="Knobs marked, the sheet kept"),
)


def _checklist(key: str, name: str, title: str, items: tuple[CheckItem, ...], *warn: Caution) -> Step:
    return Step(key=key, kind=StepKind.CHECKLIST, name=name, title=title, items=items, cautions=warn)


def run_sheet(sheet: JobSheet, plan: Plan, ceiling: Ceiling | None) -> tuple[Step, ...]:
    """Every step for `sheet` in the order of the trade."""
    steps = [
        _checklist(
            "safe",
            "Safe",
            "Make it safe",
            SAFE_ITEMS,
            cautions.SPEAKERS_OFF,
            cautions.POWER_OFF_FIRST,
            cautions.ENGINE,
            cautions.HIGH_VOLTAGE_WIRING,
        ),
        _checklist("flat-source", "Source flat", "Make the source flat", SOURCE_ITEMS),
        _checklist("flat-amplifier", "Amp flat", "Make the amplifier flat", AMPLIFIER_ITEMS),
        _ceiling_step(sheet),
    ]
    for path in plan.paths:
        steps += _gain_steps(sheet, path, ceiling)
    steps.append(
        _checklist(
            "listen",
            "Listen",
            "Reconnect and listen",
            tuple(
                item.model_copy(update={"text": _BLEND[sheet.choices.blend]}) if item.key == "blend" else item
                for item in LISTEN_ITEMS
            ),
            cautions.POWER_OFF_FIRST,
            cautions.QUIET_LISTENING,
            cautions.MAKERS_FIRST,
        )
    )
    return tuple(steps)


def _ceiling_step(sheet: JobSheet) -> Step:
    first = sheet.chain.paths[0]
    source, output = sheet.chain.source_of(first), sheet.chain.output_of(first)
    # The ceiling is a property of full scale, so its tone is never an attenuated one.
    tone = habit_tone(sheet.choices, sheet.chain.load_of(first)).model_copy(update={"level_dbfs": 0.0})
    return Step(
        key=CEILING,
        kind=StepKind.LADDER,
        name="Clean max",
        title="Find the source's clean maximum",
        do=("Go up one number at a time. At each, type the volts and say whether the wave is clean.", *_ways(source)),
        probe=_OUTPUT_PROBES[output.kind] + (f" ({output.name})" if len(source.outputs) > 1 and output.name else ""),
        probe_at="source",
        tone=tone,
        play=tone.label,
        volume=start_volume(source.top_volume),
        # Speaker outputs have no ground side, a factory radio's neither.
        cautions=cautions.at_output(output.rated.v or 0.0)
        if output.kind is OutputKind.SPEAKER
        else (cautions.SPEAKERS_OFF,),
        settings=(
            Setting(key="source", label="source", value=source.name or "unnamed"),
            Setting(key="top-volume", label="top volume number", value=str(source.top_volume)),
            Setting(key="tone", label="tone", value=tone.label),
            Setting(key="output", label="output", value=output.name or "unnamed"),
            *_source_settings(source),
        ),
    )


_OUTPUT_PROBES = {
    OutputKind.LINE: "line output, on the plug's centre and shell, amplifier unplugged",
    OutputKind.SPEAKER: "speaker output, across its two leads, nothing else connected",
}


def _ways(source: Source) -> tuple[str, ...]:
    """Every way of playing has a clean maximum of its own."""
    if len(source.inputs) < 2:
        return ()
    ways = ", ".join(INPUT_WORDS[one.kind] for one in source.inputs)
    return (f"Do it for each way of playing ({ways}) and take the lowest clean number.",)


def _source_settings(source: Source) -> list[Setting]:
    """What moves a source's clean maximum, as it is now."""
    trims = ", ".join(f"{INPUT_WORDS[one.kind]} {format_signed(one.trim_db)} dB" for one in source.inputs) or "none"
    sub_level = source.tone.sub_level
    rows = [
        ("trims", "level trims", trims),
        ("tone-controls", "tone settings", ", ".join(source.tone.unflat) or "flat"),
        *([("sub-level", "sub level", format_signed(sub_level))] if sub_level is not None else []),
    ]
    return [Setting(key=key, label=label, value=value[:80]) for key, label, value in rows]


def _gain_steps(sheet: JobSheet, path: PathPlan, ceiling: Ceiling | None) -> list[Step]:
    volume = ceiling.gain_point.volume if ceiling else None
    settings = _gain_settings(sheet, path, ceiling)
    waits = None if ceiling else "Find the source's clean maximum first: the gain is set at that volume."
    # Strapped, the whole voltage is twice the measured one.
    warn = cautions.at_output(
        volts_for(path.power_w, path.load_ohm), on_dummy_load=sheet.choices.load is LoadSchool.DUMMY
    )
    joined = _joined(sheet, path)
    mode, stereo = joined.mode, _is_stereo(sheet, joined)
    bridged = mode is Mode.BRIDGED
    other = _OTHER_OUTPUT.get(mode, _OTHER_CHANNEL)
    gain = Step(
        key=f"gain-{path.path}"[:40],
        kind=StepKind.GAIN,
        path=path.path,
        name=f"{path.name} gain",
        title=f"Set the gain: {path.name}",
        do=_gain_orders(sheet, path),
        probe=f"left channel, {path.probe}" if stereo else path.probe,
        probe_at="bridge" if bridged else "left",
        tone=path.tone,
        play=path.play,
        volume=volume,
        target=path.target,
        cautions=warn,
        settings=settings,
        waits_for=waits,
    )
    if not stereo and mode is not Mode.STRAPPED:
        return [gain]
    match = Step(
        key=f"match-{path.path}"[:40],
        kind=StepKind.MATCH,
        path=path.path,
        name=f"{path.name} {other.name}",
        title=f"Check the other {other.what}: {path.name}",
        do=(other.do,),
        probe=other.probe,
        probe_at="right",
        tone=path.tone,
        play=path.play,
        volume=volume,
        target=path.target,
        cautions=warn,
        settings=settings,
        waits_for=waits,
    )
    return [gain, match]


@dataclass(frozen=True)
class _Other:
    """What is looked at after the output that was set."""

    what: str
    name: str
    do: str
    probe: str


_OTHER_CHANNEL = _Other(
    "channel",
    "right",
    "Move the probe to the right channel. Turn nothing: it proves the lead, the socket and the balance.",
    "right channel, across the speaker terminals",
)
_OTHER_OUTPUT = {
    Mode.STRAPPED: _Other(
        "amplifier",
        "second",
        "Move the probe to the other amplifier's own output. Both must give the same half: "
        "if it has a gain of its own, set that to the same volts.",
        "on the other amplifier's own output, both strapped together",
    )
}


_TURN = {
    GainSchool.RATINGS: "Turn the gain up slowly until the wanted volts show.",
    GainSchool.CLEAN_WAVE: "Turn the gain up slowly, past the wanted volts, until the wave clips; then back to clean.",
    GainSchool.CLIP_LAMP: "Turn the gain up slowly until the clip lamp lights, then back a hair.",
    GainSchool.SOFT_CLIP: "Turn the gain up slowly until the wanted volts show: the tops just begin to flatten.",
    GainSchool.LOWEST_GAIN: "Set the gain by its scale and leave it there.",
}


def _gain_orders(sheet: JobSheet, path: PathPlan) -> tuple[str, ...]:
    amplifier = sheet.chain.amplifier_of(_joined(sheet, path))
    orders = [_TURN[sheet.choices.gain]]
    if path.knob.state not in (KnobState.UNMARKED, KnobState.UNKNOWN):
        orders.append(path.knob.sentence)
    if amplifier.limiter:
        orders.append("Volts that refuse to rise, or fall, at one more click are its limiter: go one click back.")
    if sheet.choices.load is LoadSchool.DUMMY:
        orders.append(f"On a dummy load of {format_value(path.load_ohm, 'Ω')}; a minute at a time, then let it cool.")
    return tuple(orders)


def _joined(sheet: JobSheet, path: PathPlan) -> Path:
    return next(one for one in sheet.chain.paths if one.id == path.path)


def _is_stereo(sheet: JobSheet, path: Path) -> bool:
    """Whether one knob sets two channels that are measured one after the other."""
    pair = sheet.chain.amplifier_of(path).channels == 2 and sheet.chain.output_of(path).sides is Sides.PAIR
    return pair and path.mode is Mode.PER_CHANNEL


def _processing(sheet: JobSheet, path: Path) -> list[tuple[str, str, str]]:
    """What the way to the amplifier is set to, where there is something on it."""
    through = sheet.chain.processors_of(path)
    if not through:
        return []
    names = ", ".join(one.name or "unnamed" for one in through)
    bands = sorted((one.frequency_hz, one.gain_db) for one in path.equaliser if one.gain_db)
    # Readings carry these words and are held against them later: they keep their form.
    shaped = ", ".join(f"{gain:+g} dB at {format_hertz(hertz)}" for hertz, gain in bands) or "flat"
    return [
        ("through", "converter or processor", names[:80]),
        ("channel-gain", "its channel gain", f"{path.channel_gain_db:+g} dB"),
        ("equaliser", "its equaliser", shaped if len(shaped) <= 80 else f"{shaped[:79]}…"),
    ]


def _gain_settings(sheet: JobSheet, path: PathPlan, ceiling: Ceiling | None) -> tuple[Setting, ...]:
    joined = _joined(sheet, path)
    rows = [
        ("source", "source", sheet.chain.source_of(joined).name or "unnamed"),
        ("output", "source's output", sheet.chain.output_of(joined).name or "unnamed"),
        ("amplifier", "amplifier", sheet.chain.amplifier_of(joined).name or "unnamed"),
        ("mode", "channels used", joined.mode.value.replace("_", " ")),
        ("input", "amplifier's input", f"{joined.input.value} level"),
        ("boost", "amplifier's boost", _boost_in_words(joined)),
        ("load", "load", format_value(path.load_ohm, "Ω")),
        ("target", "wanted volts", format_value(path.target.value, "V")),
        ("tone", "tone", path.tone.label),
        *_processing(sheet, joined),
    ]
    if ceiling:
        rows.append(("volume", "source's clean maximum", str(ceiling.volume)))
        if ceiling.held_back:
            rows.append(("gain-volume", "volume gains are set at", str(ceiling.held_back.volume)))
    return tuple(Setting(key=key, label=label, value=value) for key, label, value in rows)


def _boost_in_words(path: Path) -> str:
    boost = path.boost
    if boost is None or not boost.gain_db:
        return "zero"
    return f"{format_signed(boost.gain_db)} dB at {format_hertz(boost.frequency_hz)}"
