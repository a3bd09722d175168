"""
Figures of an amplifier in the text of a data sheet, typed or pasted: "75 W x 4 @ 4 ohm (1 % THD, 14.4 V)".

A line whose watts are a peak, or whose figures can be read in two ways, is given back with the reason.
"""

import re
from collections.abc import Iterator
from typing import NamedTuple

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen, Ohms, SignalToNoise
from upper_rook.core.system import spec_lines
from upper_rook.core.system.amplifier import Driven, GainRange, Mode, NoiseAt, Rating
from upper_rook.core.system.spec_lines import (
    DECIBELS,
    NUMBER,
    OHMS,
    PEAK,
    WATTS,
    Left,
    Unread,
    number,
    without_brackets,
)

MOST_RATINGS = 8
_HIGHEST_PERCENT = 20
_SUPPLY_V = (9.0, 60.0)
"""Volts within which a line tells a supply."""
_VOLTS = re.compile(rf"({NUMBER}\s?m?)\s?v(?:olts?|rms|dc|ac)?\b")
_PERCENT = re.compile(rf"({NUMBER})\s?%")
_COUNT_BEFORE = re.compile(r"([0-9]+)\s?(?:ch\w*\.?\s?)?x\s?(?=[0-9])")
_COUNT_AFTER = re.compile(r"x\s?([0-9]+)(?![0-9.,]*\s?(?:k?w|ohm|v|hz|m?m)\b)|\b([0-9]+)[\s-]?ch(?:annels?|\.|\b)")
_BRIDGED = re.compile(r"bridg(?!e?able)")
_VOLTS_RANGE = re.compile(rf"({NUMBER}\s?m?)\s?v?\w{{0,3}}\s?(?:-|to|\.\.\.?)\s?({NUMBER}\s?m?)\s?v")
_NOISE = re.compile(r"signal[\s-]*(?:to|/)[\s-]*noise|\bs\s?/\s?n\b|\bsnr\b")
_INPUT = re.compile(r"sensitivity|input (?:level|range|voltage)|gain (?:range|control)|(?:high|low|speaker)[\s-]level")
_LOWEST_LOAD = re.compile(r"min\w*\.? (?:load|impedance|ohm|speaker)|lowest (?:load|impedance)|\bstable\b")


class SpecRating(Frozen):
    """A rating as a line has it."""

    rating: Rating
    channels: int | None
    """Channels or bridged pairs that give it; None where the line doesn't say."""
    line: str
    words: str


class AmplifierSpec(Frozen):
    """Figures of an amplifier in a text; None for what it doesn't say."""

    ratings: tuple[SpecRating, ...] = ()
    lowest_load_ohm: Ohms | None = None
    gain_range: GainRange | None = None
    high_level_range: GainRange | None = None
    signal_to_noise_db: SignalToNoise | None = None
    signal_to_noise_at: NoiseAt | None = None
    unread: tuple[Unread, ...] = ()


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
    for line, plain in spec_lines.lines(text):
        if not plain:
            heading = _Condition()
            continue
        try:
            if _is_other(plain):
                spec_lines.keep(AmplifierSpec, _other_figures(plain), found)
            elif WATTS.search(plain):
                ratings += _ratings(line, plain, heading)
            elif _is_heading(plain):
                heading = _condition(plain)
            elif spec_lines.has_digits(plain):
                raise Left("No figure of an amplifier was recognised in it.")
        except (Left, BadInput) as error:
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


def _is_heading(plain: str) -> bool:
    """Whether a line without watts says what holds for the lines below it."""
    return bool(re.search("power|output|watt|bridg", plain) or OHMS.search(plain)) or plain.endswith(":")


def _condition(plain: str) -> _Condition:
    volts = [number(match[1], "volts") for match in _VOLTS.finditer(plain)]
    supplies = [value for value in volts if _SUPPLY_V[0] <= value <= _SUPPLY_V[1]]
    percent = _PERCENT.search(plain)
    return _Condition(
        supply_v=supplies[0] if len(supplies) == 1 else None,
        distortion_percent=number(percent[1], "percent") or None if percent else None,
        bridged=bool(_BRIDGED.search(plain)),
        peak=bool(PEAK.search(plain)) and "rms" not in plain,
        loads=tuple(OHMS.findall(plain)),
    )


def _ratings(line: str, plain: str, heading: _Condition) -> Iterator[SpecRating]:
    """Every rating of a line; what only one of its parts says holds for all of them."""
    whole = _condition(plain)
    loads, parts = OHMS.findall(plain), [part for part in spec_lines.parts(plain) if WATTS.search(part)]
    peak = heading.peak or bool(PEAK.match(plain) and "rms" not in plain)
    columns = heading.loads if not loads and len(heading.loads) == len(parts) else ()
    for column, part in enumerate(parts):
        if peak or (PEAK.search(without_brackets(part)) and "rms" not in part):
            raise Left("A peak or maximum power is no rating: the continuous watts (RMS) are wanted.")
        spec_lines.refuse_watts_range(part)
        watts = WATTS.findall(part)
        if len(watts) > 1:
            raise Left("The ohms that belong to each of the watts aren’t clear: put each rating on a line of its own.")
        own = [columns[column]] if columns else OHMS.findall(part)
        within = own or (loads if len(set(loads)) == 1 else [])
        if len(set(within)) != 1:
            said = "Several ohms stand beside these watts" if within or loads else "It says no ohms"
            raise Left(f"{said}: add them, for example “75 W x 4 @ 4 ohm”.")
        said_in = plain if len(parts) == 1 else part
        yield _rating(line, said_in, (watts[0], within[0]), (_condition(part), whole, heading))


def _rating(line: str, part: str, figures: tuple[str, str], told: tuple[_Condition, ...]) -> SpecRating:
    supply = next((condition.supply_v for condition in told if condition.supply_v is not None), None)
    percent = next(
        (condition.distortion_percent for condition in told if condition.distortion_percent is not None), None
    )
    # A line with several parts may name the bridged one among them: then the others aren't.
    bridged = bool(_BRIDGED.search(part)) or told[2].bridged
    counted = _COUNT_BEFORE.search(part) or _COUNT_AFTER.search(part)
    channels = next((int(group) for group in counted.groups() if group), None) if counted else None
    rating = Rating(
        power_w=number(figures[0], "watts"),
        load_ohm=number(figures[1], "ohms"),
        mode=Mode.BRIDGED if bridged else Mode.PER_CHANNEL,
        supply_v=supply,
        distortion_percent=percent if percent and percent <= _HIGHEST_PERCENT else None,
        driven=Driven.ONE if re.search(r"\b(?:one|1|single) channel driven", part) else Driven.ALL,
    )
    return SpecRating(rating=rating, channels=channels, line=line, words=f"{rating.words}{_each_of(rating, channels)}")


def _each_of(rating: Rating, channels: int | None) -> str:
    """Channels that give it, behind its words; empty where the line doesn't say."""
    if channels is None:
        return ""
    noun = "bridged pair" if rating.mode is Mode.BRIDGED else "channel"
    return f"; {channels} {noun}{'' if channels == 1 else 's'}"


def _is_other(plain: str) -> bool:
    """Whether a line is about something else than watts."""
    return any(pattern.search(plain) for pattern in (_NOISE, _INPUT, _LOWEST_LOAD))


def _other_figures(plain: str) -> dict[str, object]:
    """Figures of such a line. Raises Left."""
    if _NOISE.search(plain):
        at = NoiseAt.ONE_WATT if re.search(r"\b1\s?w(?:att)?\b", plain) else NoiseAt.RATED_OUTPUT
        return {"signal_to_noise_db": spec_lines.only(DECIBELS, plain, "decibels"), "signal_to_noise_at": at}
    if _INPUT.search(plain):
        return {_input_of(plain): _gain_range(plain)}
    bare = without_brackets(plain)
    if _BRIDGED.search(bare):
        raise Left("The lowest load of one channel isn’t clear in it: type it into its field.")
    return {"lowest_load_ohm": spec_lines.only(OHMS, bare, "ohms")}


def _input_of(plain: str) -> str:
    return "high_level_range" if re.search(r"high[\s-]?level|speaker[\s-]?level", plain) else "gain_range"


def _gain_range(plain: str) -> dict[str, float]:
    match = _VOLTS_RANGE.search(plain)
    if match is None:
        raise Left("Two volts are wanted, those at either end of the gain: for example “0.2 V - 5 V”.")
    low, high = match[1], match[2]
    # "0.2 - 5 V" has its unit once; "200 mV - 5 V" twice.
    values = sorted(number(f"{text}V", "volts") for text in (low, high))
    return {"down_v": values[1], "up_v": values[0]}
