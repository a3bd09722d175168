"""
Figures in the text of a data sheet, typed or pasted: "75 W x 4 @ 4 ohm (1 % THD, 14.4 V)".

Nothing is guessed: a line whose figures can be read in two ways, or whose watts are a peak, is given back with the
reason. The ways of writing are common practice of data sheets, no source.
"""

import re
from collections.abc import Iterator
from typing import NamedTuple

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen, Hertz, Ohms, SignalToNoise, Watts, format_value, parse_quantity
from upper_rook.core.system.amplifier import Driven, GainRange, Mode, NoiseAt, Rating
from upper_rook.core.system.loads import SensitivityAt

LONGEST_TEXT = 20_000
MOST_RATINGS = 8
_NUMBER = r"[0-9]+(?:[.,][0-9]+)*"
_WATTS = re.compile(rf"({_NUMBER}\s?k?)\s?w(?:atts?)?(?:\s?\(?rms\)?)?(?![a-z/])")
_OHMS = re.compile(rf"({_NUMBER})\s?(?:-\s?)?ohms?\b")
_VOLTS = re.compile(rf"({_NUMBER}\s?m?)\s?v(?:olts?|rms|dc|ac)?\b")
_PERCENT = re.compile(rf"({_NUMBER})\s?%")
_DECIBELS = re.compile(rf"({_NUMBER})\s?db")
_HERTZ = re.compile(rf"({_NUMBER}\s?k?)\s?hz")
_COUNT_BEFORE = re.compile(r"([0-9]+)\s?(?:ch\w*\.?\s?)?x\s?(?=[0-9])")
_COUNT_AFTER = re.compile(r"x\s?([0-9]+)(?![0-9.,]*\s?(?:k?w|ohm|v|hz|m?m)\b)|\b([0-9]+)[\s-]?ch(?:annels?|\.|\b)")
_SEPARATORS = re.compile(r"[;|\t]|(?<![0-9]),|,(?![0-9])|\s/\s|\s{3,}")
_NEXT_WATTS = re.compile(rf"(?<=ohm)\)?\s+(?=(?:[0-9]+\s?x\s?)?{_NUMBER}\s?k?\s?w)")
"""Where a second rating follows the ohms of the first without a mark between them."""
_PEAK = re.compile(r"\b(?:max(?:imum|\.)?|peak|pmpo|music|burst|dynamic)\b")
_RANGE = re.compile(rf"({_NUMBER}\s?k?)\s?(hz)?\s?(?:-|to|\.\.\.?)\s?({_NUMBER}\s?k?)\s?hz")
_VOLTS_RANGE = re.compile(rf"({_NUMBER}\s?m?)\s?v?\w{{0,3}}\s?(?:-|to|\.\.\.?)\s?({_NUMBER}\s?m?)\s?v")


class SpecRating(Frozen):
    """A rating as a line has it."""

    rating: Rating
    channels: int | None
    """Channels or bridged pairs that give it; None where the line doesn't say."""
    line: str
    words: str


class Unread(Frozen):
    """A line that was left, and why."""

    line: str
    reason: str


class AmplifierSpec(Frozen):
    """Figures of an amplifier in a text; None for what it doesn't say."""

    ratings: tuple[SpecRating, ...] = ()
    lowest_load_ohm: Ohms | None = None
    gain_range: GainRange | None = None
    high_level_range: GainRange | None = None
    signal_to_noise_db: SignalToNoise | None = None
    signal_to_noise_at: NoiseAt | None = None
    unread: tuple[Unread, ...] = ()


class SpeakerSpec(Frozen):
    """Figures of a speaker in a text; None for what it doesn't say."""

    impedance_ohm: Ohms | None = None
    coils: int | None = None
    power_w: Watts | None = None
    sensitivity_db: float | None = None
    sensitivity_at: SensitivityAt | None = None
    lowest_hz: Hertz | None = None
    highest_hz: Hertz | None = None
    unread: tuple[Unread, ...] = ()


class _Left(Exception):
    """A line can't be used; the sentence says why."""


class _Condition(NamedTuple):
    """Circumstances that a heading gives the lines below it."""

    supply_v: float | None = None
    distortion_percent: float | None = None
    bridged: bool = False
    peak: bool = False
    loads: tuple[str, ...] = ()
    """Ohms of a table's columns."""


def amplifier_spec(text: str) -> AmplifierSpec:
    """The figures of an amplifier in `text`. Raises BadInput for more than 20,000 characters."""
    found: dict[str, object] = {}
    ratings: list[SpecRating] = []
    unread: list[Unread] = []
    heading = _Condition()
    for line, plain in _lines(text):
        if not plain:
            heading = _Condition()
            continue
        try:
            if (figures := _other_figures(plain)) is not None:
                found |= {name: value for name, value in figures.items() if name not in found}
            elif _WATTS.search(plain):
                ratings += _ratings(line, plain, heading)
            elif _is_heading(plain):
                heading = _condition(plain)
            elif re.search("[0-9]", plain):
                raise _Left("No figure of an amplifier was recognised in it.")
        except (_Left, BadInput) as error:
            unread.append(Unread(line=line, reason=str(error)))
    once = _fullest(ratings)
    unread += [Unread(line=extra.line, reason="An amplifier keeps eight ratings.") for extra in once[MOST_RATINGS:]]
    return AmplifierSpec.model_validate({**found, "ratings": once[:MOST_RATINGS], "unread": unread})


def _fullest(ratings: list[SpecRating]) -> list[SpecRating]:
    """Of ratings with the same watts, ohms and mode the one whose line says most about them."""
    kept: dict[tuple[float, float, Mode], SpecRating] = {}
    for found in ratings:
        key = (found.rating.power_w, found.rating.load_ohm, found.rating.mode)
        if key not in kept or len(found.words) > len(kept[key].words):
            kept[key] = found
    return list(kept.values())


def speaker_spec(text: str) -> SpeakerSpec:
    """The figures of a speaker in `text`. Raises BadInput for more than 20,000 characters."""
    found: dict[str, object] = {}
    unread: list[Unread] = []
    for line, plain in _lines(text):
        left = ""
        figures: dict[str, object] = {}
        for part in _parts(plain):
            try:
                figures |= _speaker_figures(part)
            except (_Left, BadInput) as error:
                left = str(error)
        if not figures and re.search("[0-9]", plain):
            left = left or "No figure of a speaker was recognised in it."
        if left:
            unread.append(Unread(line=line, reason=left))
        found |= {name: value for name, value in figures.items() if name not in found}
    lowest, highest = found.get("lowest_hz"), found.get("highest_hz")
    if isinstance(lowest, float) and isinstance(highest, float) and lowest >= highest:
        del found["lowest_hz"], found["highest_hz"]
    return SpeakerSpec.model_validate({**found, "unread": unread})


def _lines(text: str) -> Iterator[tuple[str, str]]:
    """Each line as it is, and with one way of writing for each sign."""
    if len(text) > LONGEST_TEXT:
        raise BadInput("This text has more than 20,000 characters: paste the part with the figures.", "text")
    for line in text.splitlines():
        plain = line.strip().lower()
        for signs, one in (("ωΩω", " ohm "), ("×✕*", "x"), ("–—−~", "-"), ("\u00a0\u202f", " "), ("≤≥<>±", "")):
            plain = re.sub(f"[{signs}]", one, plain)
        plain = re.sub(r"(?<=[0-9]) +ohm", " ohm", plain)
        yield line.strip()[:200], plain


def _number(text: str, kind: str) -> float:
    return parse_quantity(text.strip(), kind)


def _is_heading(plain: str) -> bool:
    """Whether a line without watts says what holds for the lines below it."""
    return bool(re.search("power|output|watt|bridg", plain) or _OHMS.search(plain)) or plain.endswith(":")


def _condition(plain: str) -> _Condition:
    volts = [_number(match[1], "volts") for match in _VOLTS.finditer(plain)]
    supplies = [value for value in volts if 9 <= value <= 60]
    percent = _PERCENT.search(plain)
    return _Condition(
        supply_v=supplies[0] if len(supplies) == 1 else None,
        distortion_percent=_number(percent[1], "percent") or None if percent else None,
        bridged="bridg" in plain,
        peak=bool(_PEAK.search(plain)) and "rms" not in plain,
        loads=tuple(_OHMS.findall(plain)),
    )


def _ratings(line: str, plain: str, heading: _Condition) -> Iterator[SpecRating]:
    """Every rating of a line; what only one of its parts says holds for all of them."""
    whole = _condition(plain)
    loads, parts = _OHMS.findall(plain), [part for part in _parts(plain) if _WATTS.search(part)]
    peak = heading.peak or bool(_PEAK.match(plain) and "rms" not in plain)
    columns = heading.loads if not loads and len(heading.loads) == len(parts) else ()
    for number, part in enumerate(parts):
        if peak or (_PEAK.search(re.sub(r"\([^)]*\)", "", part)) and "rms" not in part):
            raise _Left("A peak or maximum power is no rating: the continuous watts (RMS) are wanted.")
        watts = _WATTS.findall(part)
        if len(watts) > 1:
            raise _Left("The ohms that belong to each of the watts aren’t clear: put each rating on a line of its own.")
        own = [columns[number]] if columns else _OHMS.findall(part)
        within = own or (loads if len(set(loads)) == 1 else [])
        if len(set(within)) != 1:
            said = "Several ohms stand beside these watts" if within or loads else "It says no ohms"
            raise _Left(f"{said}: add them, for example “75 W x 4 @ 4 ohm”.")
        said_in = plain if len(parts) == 1 else part
        yield _rating(line, said_in, (watts[0], within[0]), (_condition(part), whole, heading))


def _parts(plain: str) -> list[str]:
    """A line's parts between commas, bars, slashes and wide spaces; what is in brackets stays with what it follows."""
    inside = re.sub(r"\([^)]*\)", lambda match: _SEPARATORS.sub(" ", match[0]), plain)
    return [piece for part in _SEPARATORS.split(inside) if part.strip() for piece in _NEXT_WATTS.split(part)]


def _rating(line: str, part: str, figures: tuple[str, str], told: tuple[_Condition, ...]) -> SpecRating:
    supply = next((one.supply_v for one in told if one.supply_v is not None), None)
    percent = next((one.distortion_percent for one in told if one.distortion_percent is not None), None)
    # A line with several parts may name the bridged one among them: then the others aren't.
    bridged = "bridg" in part or told[2].bridged
    counted = _COUNT_BEFORE.search(part) or _COUNT_AFTER.search(part)
    channels = next((int(group) for group in counted.groups() if group), None) if counted else None
    rating = Rating(
        power_w=_number(figures[0], "watts"),
        load_ohm=_number(figures[1], "ohms"),
        mode=Mode.BRIDGED if bridged else Mode.PER_CHANNEL,
        supply_v=supply,
        distortion_percent=percent if percent and percent <= 20 else None,
        driven=Driven.ONE if re.search(r"\b(?:one|1|single) channel driven", part) else Driven.ALL,
    )
    return SpecRating(rating=rating, channels=channels, line=line, words=_in_words(rating, channels))


def _in_words(rating: Rating, channels: int | None) -> str:
    words = [f"{format_value(rating.power_w, 'W', 3)} into {format_value(rating.load_ohm, 'Ω', 3)}"]
    what = "bridged pair" if rating.mode is Mode.BRIDGED else "channel"
    words.append(
        f"each of {channels} {what}s" if channels and channels > 1 else f"{'one' if channels else 'each'} {what}"
    )
    if rating.supply_v is not None:
        words.append(f"at {format_value(rating.supply_v, 'V', 3)}")
    if rating.distortion_percent is not None:
        words.append(f"{format_value(rating.distortion_percent, '%', 2)} distortion")
    if rating.driven is Driven.ONE:
        words.append("one channel driven")
    return ", ".join(words)


def _other_figures(plain: str) -> dict[str, object] | None:
    """Figures of a line that is about something else than watts; None where it is about none of these."""
    if re.search(r"signal[\s-]*(?:to|/)[\s-]*noise|\bs\s?/\s?n\b|\bsnr\b", plain):
        ratio = _one(_DECIBELS, plain, "decibels")
        at = NoiseAt.ONE_WATT if re.search(r"\b1\s?w(?:att)?\b", plain) else NoiseAt.RATED_OUTPUT
        return {"signal_to_noise_db": ratio, "signal_to_noise_at": at}
    if re.search(
        r"sensitivity|input (?:level|range|voltage)|gain (?:range|control)|(?:high|low|speaker)[\s-]level", plain
    ):
        return {_input_of(plain): _gain_range(plain)}
    if re.search(r"min\w*\.? (?:load|impedance|ohm|speaker)|lowest (?:load|impedance)|\bstable\b", plain):
        loads = {_number(found, "ohms") for found in _OHMS.findall(re.sub(r"\([^)]*\)", "", plain))}
        if len(loads) != 1 or "bridg" in re.sub(r"\([^)]*\)", "", plain):
            raise _Left("The lowest load of one channel isn’t clear in it: type it into its field.")
        return {"lowest_load_ohm": loads.pop()}
    return None


def _input_of(plain: str) -> str:
    return "high_level_range" if re.search(r"high[\s-]?level|speaker[\s-]?level", plain) else "gain_range"


def _gain_range(plain: str) -> GainRange:
    match = _VOLTS_RANGE.search(plain)
    if match is None:
        raise _Left("Two volts are wanted, those at either end of the gain: for example “0.2 V - 5 V”.")
    low, high = match[1], match[2]
    # "0.2 - 5 V" has its unit once; "200 mV - 5 V" twice.
    values = sorted(_number(f"{text}V", "volts") for text in (low, high))
    return GainRange(down_v=values[1], up_v=values[0])


def _speaker_figures(plain: str) -> dict[str, object]:
    if match := _RANGE.search(plain):
        low, own_unit, high = match.groups()
        lowest = _number(f"{low}Hz", "hertz") if own_unit or "k" in low else _number(low, "ratio")
        # "55-22 kHz" is written for 55 Hz, "2-20 kHz" for 2 kHz: no speaker is said to begin below 20 Hz.
        kilo = lowest < 20 and "k" in high and not own_unit and "k" not in low
        return {"lowest_hz": lowest * 1000 if kilo else lowest, "highest_hz": _number(f"{high}Hz", "hertz")}
    if _DECIBELS.search(plain):
        loud = _one(_DECIBELS, plain, "decibels")
        if not 60 <= loud <= 120:
            raise _Left("Its decibels are no speaker’s sensitivity.")
        volts = bool(re.search(r"2[.,]83\s?v", plain))
        return {"sensitivity_db": loud, "sensitivity_at": SensitivityAt.VOLTS if volts else SensitivityAt.WATT}
    if _WATTS.search(plain):
        if _PEAK.search(plain) and "rms" not in plain:
            raise _Left("A peak or maximum power isn’t what a speaker takes for long: the continuous watts are wanted.")
        return {"power_w": _one(_WATTS, plain, "watts")}
    if _OHMS.search(plain):
        coils = re.search(r"\b(2|4)\s?x\s?(?=[0-9])", plain)
        dual = 2 if re.search(r"\bdvc\b|dual", plain) else None
        return {"impedance_ohm": _one(_OHMS, plain, "ohms"), "coils": int(coils[1]) if coils else dual}
    return {}


def _one(pattern: re.Pattern[str], plain: str, kind: str) -> float:
    """The only figure of its kind in a line. Raises _Left for several that differ, or none."""
    values = {_number(found, kind) for found in pattern.findall(plain)}
    if len(values) != 1:
        several = "It has several figures of this kind: type the one that counts into its field."
        raise _Left(several if values else "Its figure can’t be read.")
    return values.pop()
