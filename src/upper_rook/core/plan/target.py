"""The volts that a gain is set to, the band accepted around them, and why."""

from upper_rook.core.common.units import Frozen, format_signed, format_value, from_db, volts_for
from upper_rook.core.metrology.comparison import Limits
from upper_rook.core.plan.figures import SOFT_CLIP_DB, Figures
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.choices import Choices, GainSchool
from upper_rook.core.system.loads import Load, Wiring

BAND_DB = (-0.5, 0.2)
"""How far from its target a gain may stand (common practice, no source)."""
_LOWEST_GAIN_DB = -6.0
"""How far a printed scale may leave the output below what it promises (common practice, no source)."""
METHODS = {
    GainSchool.RATINGS: "√(watts × ohms)",
    GainSchool.CLEAN_WAVE: "highest clean wave",
    GainSchool.CLIP_LAMP: "clip lamp, then back a hair",
    GainSchool.SOFT_CLIP: "√(watts × ohms) and 1 % of distortion",
    GainSchool.LOWEST_GAIN: "printed volts matched to the source",
}
_UNTIL_IT_CLIPS = (GainSchool.CLEAN_WAVE, GainSchool.CLIP_LAMP)


class Target(Frozen):
    """A wanted value, the band accepted around it, and why."""

    value: float
    unit: str
    limits: Limits
    method: str
    because: tuple[str, ...]


def target_of(found: Figures, choices: Choices) -> Target:
    """What to set the gain of a path to, at its measuring point."""
    share = 2 if found.path.mode is Mode.STRAPPED else 1
    low_db, high_v = _limits(found, choices.gain)
    return Target(
        value=found.target_v / share,
        unit="V",
        limits=Limits(low=found.target_v * from_db(low_db) / share, high=high_v * from_db(BAND_DB[1]) / share),
        method=METHODS[choices.gain],
        because=tuple(_because(found, choices, high_v)),
    )


def _limits(found: Figures, school: GainSchool) -> tuple[float, float]:
    """How far below the target is accepted, in dB, and the volts never to pass."""
    if school is GainSchool.LOWEST_GAIN:
        return _LOWEST_GAIN_DB, found.target_v
    if school in _UNTIL_IT_CLIPS and found.amplifier_limits:
        return BAND_DB[0], volts_for(found.speakers_w, found.load.total_ohm)
    return BAND_DB[0], found.target_v


def _because(found: Figures, choices: Choices, high_v: float) -> list[str]:
    watts, ohms = format_value(found.aimed_w, "W"), format_value(found.load.total_ohm, "Ω")
    limit = "amplifier" if found.amplifier_limits else "speakers"
    told = [
        *_load_in_words(found),
        found.power.because,
        _speakers_in_words(found.load, choices.allowance_percent),
        f"aim for the lesser: {watts}, set by the {limit}",
        f"√({watts} × {ohms}) = {format_value(found.clean_v, 'V')}",
        *_by_school(found, choices.gain, high_v),
    ]
    if found.path.mode is Mode.STRAPPED:
        half = format_value(found.target_v / 2, "V")
        told.append(f"strapped: each amplifier gives half of the voltage, {half}, into half of the load")
    if choices.gain is GainSchool.RATINGS:
        told.append(f"accepted from {format_signed(BAND_DB[0])} dB to {format_signed(BAND_DB[1])} dB (common practice)")
    return told


def _by_school(found: Figures, school: GainSchool, high_v: float) -> list[str]:
    top = format_value(high_v, "V")
    if school in _UNTIL_IT_CLIPS and not found.amplifier_limits:
        return ["the speakers are the limit: stop there, however clean it still is"]
    if school is GainSchool.CLEAN_WAVE:
        return [f"by the scope: on past it while the wave stays clean, never past {top}, the speakers' limit"]
    if school is GainSchool.CLIP_LAMP:
        return [f"by the lamp: up until it lights, back a hair, never past {top}, the speakers' limit"]
    if school is GainSchool.SOFT_CLIP and found.amplifier_limits:
        return [f"1 % of distortion is {SOFT_CLIP_DB:.2f} dB more volts: {format_value(found.target_v, 'V')}"]
    if school is GainSchool.LOWEST_GAIN:
        return ["set by its scale and left there: anything from half of these volts up is accepted, nothing above"]
    return []


def _load_in_words(found: Figures) -> list[str]:
    load, told = found.load, []
    where = {Mode.BRIDGED: "across the bridge", Mode.STRAPPED: "across both amplifiers"}.get(
        found.path.mode, "on the channel"
    )
    if load.coils > 1:
        coils = f"{load.coils} coils of {format_value(load.impedance_ohm or 0, 'Ω')} {_joined(load.coil_wiring)}"
        told.append(f"one speaker: {coils} = {format_value(load.speaker_ohm, 'Ω')}")
    each = format_value(load.speaker_ohm, "Ω")
    if load.count == 1:
        return [*told, f"load: one speaker of {each} {where}"]
    group = f"{load.count} × {each} {_joined(load.wiring)}"
    return [*told, f"load: {group} = {format_value(load.total_ohm, 'Ω')} {where}"]


def _joined(wiring: Wiring) -> str:
    return f"in {wiring.value.replace('_', '-')}"


def _speakers_in_words(load: Load, allowance: float) -> str:
    group = f"{load.count} × " if load.count > 1 else ""
    told = f"speakers: {group}{format_value(load.power_w or 0, 'W')}"
    if not allowance:
        return told if load.count == 1 else f"{told} = {format_value(load.total_w, 'W')}"
    return f"{told} {format_signed(allowance)} % by choice = {format_value(load.total_w * (1 + allowance / 100), 'W')}"
