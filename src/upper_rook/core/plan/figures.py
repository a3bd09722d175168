"""The numbers worked out for one path, before they are put in words."""

from dataclasses import dataclass
from typing import NamedTuple

from upper_rook.core.common.errors import Lacking, SetByEar
from upper_rook.core.common.units import format_value, from_db, volts_for
from upper_rook.core.plan.gain_tone import GainTone, gain_tone
from upper_rook.core.signal import clipped_sine
from upper_rook.core.stages.knob import Knob, predict, volume_only
from upper_rook.core.stages.levels import Levels, levels
from upper_rook.core.stages.loaded import load_takes_db
from upper_rook.core.stages.power import Power, amplifier_power
from upper_rook.core.stages.ratings import scale_volts
from upper_rook.core.stages.shape import Shape, shapes
from upper_rook.core.system.amplifier import Amplifier, Housing, Rating
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.clean_maxima import PathCleanMaximum
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.loads import Load
from upper_rook.core.system.methods import GAIN, LOAD
from upper_rook.core.system.path import Path
from upper_rook.core.system.processor import ProcessorKind
from upper_rook.core.system.source import Output, Sides, Source

SOFT_CLIP_DB = float(clipped_sine.rms_above_db(clipped_sine.EDGE_DB))
"""How far the volts of a sine clipped to 1 % distortion lie above the highest clean one."""


@dataclass(frozen=True)
class Figures:
    """One path in numbers: volts RMS, watts, ohms."""

    path: Path
    source: Source
    output: Output
    outputs: tuple[Output, ...]
    """That one, and those summed with it."""
    amplifier: Amplifier
    load: Load
    power: Power
    """Power that the amplifier gives clean."""
    speakers_w: float
    """Power that the speakers take, the allowance counted; the amplifier's where nobody knows it."""
    speakers_unknown: bool
    """Whether nobody knows the speakers' power, and the plan goes by the amplifier or by typed volts."""
    rated_target_v: float
    """The volts by the ratings, whatever was typed."""
    aimed_w: float
    clean_v: float
    """The volts that put those watts into the load."""
    target_v: float
    """The volts to set, by the method chosen."""
    rated_v: float
    """The amplifier's rated output into this load."""
    scale_v: float
    """The full output that the volts printed around its gain mean."""
    channel_ohm: float
    """Load on one channel."""
    load_takes_db: float
    """How much lower it clips with its load than at open terminals; 0 where a dummy load is on them for the gain."""
    sides: Sides
    """Band that its outputs carry together."""
    other_side: bool
    """Whether another path plays the side that this one doesn't, into speakers of the same band."""
    is_pair: bool
    """Whether one knob sets two channels, each with speakers of its own."""
    clean_maximum: PathCleanMaximum | None
    source_v: float | None
    """Volts of the source at its clean maximum; None while neither a data sheet nor a meter gives them."""
    turn_down: float
    """How many times the volts printed at fully down its gain can still turn down to the target."""
    levels: Levels
    """On the way through converters and processors."""
    gain_tone: GainTone
    input_v: float | None
    """Volts at the amplifier then, at the frequency of the tone, played at full scale."""
    tone_v: float | None
    """Volts at the amplifier while the gain is set: tone level and numbers kept in hand counted."""
    driven_v: float | None
    """The same as if the amplifier's boost were before it: what the gain has to make the target of."""
    overlap_db: float
    """How far full scale goes past the target: tone level and numbers kept in hand."""
    knob: Knob

    @property
    def volume_only(self) -> bool:
        """Whether its amplifier sits inside the source, without a gain."""
        return self.amplifier.place is Housing.SOURCE

    @property
    def amplifier_limits(self) -> bool:
        """Whether the amplifier is the lesser of it and the speakers."""
        return self.power.power_w <= self.speakers_w


def figures(sheet: JobSheet, path: Path, clean_maximum: PathCleanMaximum | None, shape: Shape | None = None) -> Figures:
    """
    The numbers of `path`; `clean_maximum` (CleanMaxima.of_path) replaces the source's rated volts once it is measured.

    `shape` is the path's of shape.shapes(), where that is at hand already.

    Raises:
        Lacking: when what the target rests on isn't known.
    """
    chain, choices = sheet.chain, sheet.choices_of(path)
    amplifier, load = _rated(chain, path), chain.load_of(path)
    _reachable(chain, path, amplifier)
    power = amplifier_power(amplifier, path.mode, load.total_ohm)
    speakers_unknown = load.power_w is None and not load.others and _may_lack_watts(path, choices)
    if speakers_unknown:
        load = load.model_copy(update={"power_w": power.power_w / load.count})
    aim = _aim(path, choices, power.power_w, load, known=not speakers_unknown)
    target_v = aim.target_v
    rated_v = volts_for(power.power_w, load.total_ohm)
    source_v = _source_v(chain, path, clean_maximum)
    overlap_db = (clean_maximum.in_hand_db if clean_maximum else 0.0) - choices.tone_level_dbfs
    shape = shape or shapes(chain, choices, (path,))[0]
    knob_db = amplifier.bass_knob.stands_db if amplifier.bass_knob else 0.0
    # What the gain can still turn down: at the tone, with the amplifier's boost and its level knob on top.
    gain_range = amplifier.range_of(path.input)
    scale_v, scale_words = scale_volts(amplifier, path.mode, gain_range, rated_v)
    turn_down = target_v / scale_v * from_db(overlap_db - knob_db - max(0.0, float(shape.boost_db.max())))
    through = levels(chain, path, source_v, choices, shape=shape, turn_down=turn_down)
    tone = gain_tone(choices, load, through)
    input_v, tone_v, driven_v = _driven(path, through, tone, knob_db, overlap_db)
    return Figures(
        path=path,
        source=chain.source_of(path),
        output=chain.output_of(path),
        amplifier=amplifier,
        load=load,
        power=power,
        speakers_w=aim.speakers_w,
        speakers_unknown=speakers_unknown,
        rated_target_v=aim.rated_v,
        aimed_w=aim.watts,
        clean_v=aim.clean_v,
        target_v=target_v,
        rated_v=rated_v,
        scale_v=scale_v,
        channel_ohm=load.total_ohm / path.mode.amplifiers,
        load_takes_db=0.0
        if LOAD.of(choices).dummy
        else load_takes_db(amplifier, path.mode, load.total_ohm / path.mode.amplifiers),
        sides=chain.sides_of(path),
        outputs=chain.outputs_of(path),
        other_side=_has_other_side(chain, path),
        is_pair=chain.is_pair(path),
        clean_maximum=clean_maximum,
        source_v=source_v,
        turn_down=turn_down,
        levels=through,
        gain_tone=tone,
        input_v=input_v,
        tone_v=tone_v,
        driven_v=driven_v,
        overlap_db=overlap_db,
        knob=volume_only(source_v, target_v)
        if amplifier.place is Housing.SOURCE
        else _explained(predict(gain_range, driven_v, scale_v, target_v, printed=amplifier.gain_printed), scale_words),
    )


class _Aim(NamedTuple):
    """Watts and volts that a path is set for."""

    speakers_w: float
    watts: float
    rated_v: float
    """The volts by the ratings."""
    clean_v: float
    target_v: float


def _aim(path: Path, choices: Choices, amplifier_w: float, load: Load, *, known: bool) -> _Aim:
    """The lesser of amplifier and speakers, or the volts that were typed."""
    # Nobody allows more on what nobody knows.
    speakers_w = load.total_w * (1 + choices.allowance_percent / 100) if known else amplifier_w
    watts = min(amplifier_w, speakers_w)
    rated_v = volts_for(watts, load.total_ohm)
    if path.wanted_v is not None:
        return _Aim(speakers_w, path.wanted_v**2 / load.total_ohm, rated_v, path.wanted_v, path.wanted_v)
    # Only an amplifier clips softly; speakers that are the limit stay at their watts.
    soft = GAIN.of(choices).clips_softly and amplifier_w <= speakers_w
    return _Aim(speakers_w, watts, rated_v, rated_v, rated_v * from_db(SOFT_CLIP_DB) if soft else rated_v)


def _may_lack_watts(path: Path, choices: Choices) -> bool:
    """Whether speakers of unknown power are planned all the same: by choice, or since volts were typed."""
    return GAIN.of(choices).by_amplifier or path.wanted_v is not None


def _has_other_side(chain: Chain, path: Path) -> bool:
    side, band = chain.sides_of(path), chain.load_of(path).band
    if side not in {Sides.LEFT, Sides.RIGHT}:
        return False
    others = [other for other in chain.paths if other.id != path.id and chain.load_of(other).band is band]
    return any(chain.sides_of(path) in {Sides.LEFT, Sides.RIGHT} - {side} for path in others)


def _driven(
    path: Path, through: Levels, tone: GainTone, knob_db: float, overlap_db: float
) -> tuple[float | None, float | None, float | None]:
    """Volts at the amplifier at full scale, while the gain is set, and then with its boost; see Figures."""
    if through.input_v is None:
        return None, None, None
    hertz = tone.tone.frequency_hz
    # What a source's own filters leave of its rated volts isn't known but in proportion.
    away_db = through.before_db(hertz) - through.peak_db if through.shaped else 0.0
    input_v = through.input_v * from_db(min(0.0, away_db))
    tone_v = input_v * from_db(knob_db - overlap_db)
    return input_v, tone_v, tone_v * from_db(through.boost_db(hertz)) if path.boost else tone_v


def _rated(chain: Chain, path: Path) -> Amplifier:
    """The amplifier of `path`; one inside its source is rated by the output that it drives."""
    amplifier, rated = chain.amplifier_of(path), chain.output_of(path).rated
    if amplifier.place is not Housing.SOURCE or amplifier.ratings or rated.watts is None:
        return amplifier
    own = Rating(power_w=rated.watts, load_ohm=rated.load_ohm)
    return amplifier.model_copy(update={"ratings": (own,)})


def _reachable(chain: Chain, path: Path, amplifier: Amplifier) -> None:
    """Raises Lacking where no volts can be set at its terminals."""
    if amplifier.place is Housing.SPEAKER:
        down = amplifier.range_of(path.input)
        least = f", which takes {format_value(down.down_v, 'V', 3)} fully down" if down else ""
        raise SetByEar(
            "Its amplifier sits inside the speaker and its terminals can’t be reached: begin with its gain fully "
            f"down{least}, and turn it up by ear until it balances with the rest."
        )
    processors = chain.processors_of(path)
    if chain.is_digital(path) and (not processors or processors[0].kind is not ProcessorKind.PROCESSOR):
        raise Lacking(
            "A digital output gives numbers, not volts: put the processor that turns them into volts into its path.",
            "processors",
        )


def _explained(knob: Knob, scale_words: tuple[str, ...]) -> Knob:
    """With what its scale means, where that counts."""
    told = knob.because and scale_words
    return knob.model_copy(update={"because": (*knob.because, *scale_words)}) if told else knob


def _source_v(chain: Chain, path: Path, clean_maximum: PathCleanMaximum | None) -> float | None:
    """
    The volts of the path's output at the source's clean maximum; its rated volts until that is measured.

    Of summed outputs the highest counts: each plays its own part of the band, or its own side.
    """
    if chain.is_digital(path):
        return None
    measured = clean_maximum.voltage_v if clean_maximum else None
    if measured is not None:
        return measured
    return max((output.clean_v for output in chain.outputs_of(path) if output.clean_v is not None), default=None)
