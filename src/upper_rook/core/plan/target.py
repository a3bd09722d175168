"""The volts that a gain is set to, the band accepted around them, and why."""

from upper_rook.core.common.units import Frozen, format_signed, format_value, from_db, volts_for
from upper_rook.core.metrology.comparison import TURN, Limits, Turn
from upper_rook.core.plan.figures import SOFT_CLIP_DB, Figures
from upper_rook.core.plan.not_confirmed import Doubted, target_line
from upper_rook.core.system.amplifier import Mode
from upper_rook.core.system.choices import Choices
from upper_rook.core.system.loads import Load, Wiring
from upper_rook.core.system.methods import GAIN, GainEntry

HIGH_DB = 0.2
"""How far above its target a gain may stand (common practice, no source); how far below, the method says."""


class Target(Frozen):
    """A wanted value, the band accepted around it, and why."""

    value: float
    unit: str
    limits: Limits
    method: str
    because: tuple[str, ...]
    turn: Turn = TURN
    """Advice for a reading outside the band."""
    not_confirmed: tuple[Doubted, ...] = ()
    """Figures that it rests on and that nobody has confirmed."""


def target_of(figures: Figures, choices: Choices, doubts: tuple[Doubted, ...] = ()) -> Target:
    """Target of a path's gain, at its measuring point; `doubts` are the unconfirmed defaults of the path."""
    share = 2 if figures.path.mode is Mode.STRAPPED else 1
    method = GAIN.of(choices)
    high_v = _never_pass_v(figures, method)
    return Target(
        value=figures.target_v / share,
        unit="V",
        limits=Limits(low=figures.target_v * from_db(method.low_db) / share, high=high_v * from_db(HIGH_DB) / share),
        method="typed" if figures.path.wanted_v else method.method,
        because=(*_because(figures, choices, method, high_v), *target_line(doubts)),
        not_confirmed=tuple(doubt for doubt in doubts if doubt.in_target),
    )


def lowered(target: Target, below_db: float) -> Target:
    """The same for an output that is set so much lower."""
    if not below_db:
        return target
    part, limits = from_db(-below_db), target.limits
    return target.model_copy(
        update={
            "value": target.value * part,
            "limits": limits.model_copy(update={"low": limits.low * part, "high": limits.high * part}),
            "because": (*target.because, f"this side is set {below_db:g} dB lower"),
        }
    )


def _never_pass_v(figures: Figures, method: GainEntry) -> float:
    """The volts never to pass: what the speakers take where the gain goes on until it clips."""
    if method.until_it_clips and figures.amplifier_limits:
        return volts_for(figures.speakers_w, figures.load.total_ohm)
    return figures.target_v


def _because(figures: Figures, choices: Choices, method: GainEntry, high_v: float) -> list[str]:
    watts, ohms = format_value(figures.aimed_w, "W"), format_value(figures.load.total_ohm, "Ω")
    limit = "amplifier" if figures.amplifier_limits else "speakers"
    told = [
        *_load_in_words(figures),
        figures.power.because,
        *(text for text in (figures.power.chosen, figures.power.corrected) if text),
        "speakers: nobody knows what they take"
        if figures.speakers_unknown
        else _speakers_in_words(figures.load, choices.allowance_percent),
    ]
    if figures.path.wanted_v:
        told += _typed(figures, ohms)
    else:
        told += [
            f"aim for the lesser: {watts}, set by the {limit}",
            f"√({watts} × {ohms}) = {format_value(figures.clean_v, 'V')}",
            *_by_method(figures, method, high_v),
        ]
    if figures.path.mode is Mode.STRAPPED:
        half = format_value(figures.target_v / 2, "V")
        told.append(f"strapped: each amplifier gives half of the voltage, {half}, into half of the load")
    if method.tells_band:
        told.append(f"accepted from {format_signed(method.low_db)} dB to {format_signed(HIGH_DB)} dB (common practice)")
    return told


def _typed(figures: Figures, ohms: str) -> list[str]:
    whence = f", from {figures.path.wanted_from}" if figures.path.wanted_from else ""
    return [
        f"typed: {format_value(figures.target_v, 'V')}{whence}, which is {format_value(figures.aimed_w, 'W')} "
        f"into {ohms}",
        f"by the ratings it would be {format_value(figures.rated_target_v, 'V')}",
    ]


def _by_method(figures: Figures, method: GainEntry, high_v: float) -> list[str]:
    if method.until_it_clips and not figures.amplifier_limits:
        return ["the speakers are the limit: stop there, however clean it still is"]
    words = {
        "top": format_value(high_v, "V"),
        "target": format_value(figures.target_v, "V"),
        "soft_db": SOFT_CLIP_DB,
    }
    aside = method.aside if figures.amplifier_limits else ""
    return [told.format(**words) for told in (aside, method.aside_always) if told]


def _load_in_words(figures: Figures) -> list[str]:
    load, told = figures.load, []
    where = {Mode.BRIDGED: "across the bridge", Mode.STRAPPED: "across both amplifiers"}.get(
        figures.path.mode, "on the channel"
    )
    if load.coils > 1:
        coils = f"{load.coils} coils of {format_value(load.impedance_ohm or 0, 'Ω')} {_joined(load.coil_wiring)}"
        told.append(f"one speaker: {coils} = {format_value(load.speaker_ohm, 'Ω')}")
    text = format_value(load.speaker_ohm, "Ω")
    if load.others:
        among = ", ".join(
            f"{driver.name or 'a further driver'} of {format_value(driver.impedance_ohm, 'Ω')}"
            + (" behind a capacitor" if driver.series_capacitor_uf else "")
            for driver in load.others
        )
        told.append(f"in parallel with {among}" + (", each in its own band" if load.passive_hz else ""))
    if load.total_ohm != load.total_ohm_of_equal:
        equal = format_value(load.total_ohm_of_equal, "Ω")
        return [*told, f"load: {equal} and these = {format_value(load.total_ohm, 'Ω')} {where}"]
    if load.count == 1:
        return [*told, f"load: one speaker of {text} {where}"]
    group = f"{load.count} × {text} {_joined(load.wiring)}"
    return [*told, f"load: {group} = {format_value(load.total_ohm, 'Ω')} {where}"]


def _joined(wiring: Wiring) -> str:
    return f"in {wiring.value.replace('_', '-')}"


def _speakers_in_words(load: Load, allowance: float) -> str:
    group = f"{load.count} × " if load.count > 1 else ""
    told = f"speakers: {group}{format_value(load.power_w or 0, 'W')}"
    if abs(load.total_w - (load.power_w or 0) * load.count) > 0.01 * load.total_w:
        told += f", with the others in parallel {format_value(load.total_w, 'W')} until the first has all it takes"
    if not allowance:
        return told if load.count == 1 else f"{told} = {format_value(load.total_w, 'W')}"
    return f"{told} {format_signed(allowance)} % by choice = {format_value(load.total_w * (1 + allowance / 100), 'W')}"
