"""Figures of a speaker in the text of a data sheet: "4 ohm, 80 W RMS, 89 dB (2.83 V / 1 m), 55 Hz - 22 kHz"."""

import re

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import Frozen, Hertz, Ohms, Watts
from upper_rook.core.system import spec_lines
from upper_rook.core.system.loads import Coils, Sensitivity, SensitivityAt
from upper_rook.core.system.spec_lines import DECIBELS, NUMBER, OHMS, PEAK, WATTS, Left, Unread

_RANGE = re.compile(rf"({NUMBER}\s?k?)\s?(hz)?\s?(?:-|to|\.\.\.?)\s?({NUMBER}\s?k?)\s?hz")
_COILS = re.compile(r"(?<![0-9])(2|4)\s?x\s?(?=[0-9])")
_LOWEST_HZ = 20.0
"""No speaker is said to begin below (common practice, no source)."""


class SpeakerSpec(Frozen):
    """Figures of a speaker in a text; None for what it doesn't say."""

    impedance_ohm: Ohms | None = None
    coils: Coils | None = None
    power_w: Watts | None = None
    sensitivity_db: Sensitivity | None = None
    sensitivity_at: SensitivityAt | None = None
    lowest_hz: Hertz | None = None
    highest_hz: Hertz | None = None
    unread: tuple[Unread, ...] = ()


def speaker_spec(text: str) -> SpeakerSpec:
    """The figures of a speaker in `text`. Raises BadInput for more than 20,000 characters."""
    found: dict[str, object] = {}
    unread: list[Unread] = []
    for line, plain in spec_lines.lines(text):
        reasons, read = [], False
        for part in spec_lines.parts(plain):
            try:
                figures = _figures(part)
                spec_lines.keep(SpeakerSpec, figures, found)
                read = read or bool(figures)
            except (Left, BadInput) as error:
                reasons.append(str(error))
        if not read and not reasons and spec_lines.has_digits(plain):
            reasons.append("No figure of a speaker was recognised in it.")
        unread += [Unread(line=line, reason=reason) for reason in reasons[:1]]
    return SpeakerSpec.model_validate({**found, "unread": unread})


def _figures(plain: str) -> dict[str, object]:
    """The figures in a part of a line; empty where it has none of a speaker."""
    if match := _RANGE.search(plain):
        return _range(*match.groups())
    if DECIBELS.search(plain):
        stated_with_volts = bool(re.search(r"2[.,]83\s?v", plain))
        at = SensitivityAt.VOLTS if stated_with_volts else SensitivityAt.WATT
        return {"sensitivity_db": spec_lines.only(DECIBELS, plain, "decibels"), "sensitivity_at": at}
    if WATTS.search(plain):
        if PEAK.search(plain) and "rms" not in plain:
            raise Left("A peak or maximum power isn’t what a speaker takes for long: the continuous watts are wanted.")
        spec_lines.refuse_watts_range(plain)
        return {"power_w": spec_lines.only(WATTS, plain, "watts")}
    if OHMS.search(plain):
        return {"impedance_ohm": spec_lines.only(OHMS, plain, "ohms")} | _coils(plain)
    return {}


def _coils(plain: str) -> dict[str, object]:
    if counted := _COILS.search(plain):
        return {"coils": int(counted[1])}
    return {"coils": 2} if re.search(r"\bdvc\b|\bdual\b", plain) else {}


def _range(low: str, own_unit: str | None, high: str) -> dict[str, object]:
    """The usable range: "55-22 kHz" is written for 55 Hz, "2-20 kHz" for 2 kHz."""
    highest = spec_lines.number(f"{high}Hz", "hertz")
    if own_unit or "k" in low or "k" not in high:
        lowest = spec_lines.number(f"{low}Hz", "hertz")
    else:
        bare = spec_lines.number(low, "ratio")
        lowest = bare if bare >= _LOWEST_HZ else 1000 * bare
    if lowest >= highest:
        raise Left("Its range doesn’t go up: type both ends into their fields.")
    return {"lowest_hz": lowest, "highest_hz": highest}
