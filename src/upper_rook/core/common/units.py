"""Volts, watts, ohms, hertz and dB; and strict reading of what people type ("18,4", "950 mV", "1.2k")."""

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints

from upper_rook.core.common.errors import BadInput


class Frozen(BaseModel):
    """Base of every domain value: immutable, and a field that isn't known is refused rather than dropped."""

    model_config = ConfigDict(
        frozen=True,
        extra="forbid",
        allow_inf_nan=False,
        use_attribute_docstrings=True,
        # A field with an alias is stored and sent by that name: the one it had when documents with it were first kept.
        validate_by_name=True,
        validate_by_alias=True,
        serialize_by_alias=True,
    )


def _printable(text: str) -> str:
    for character in text:
        if not character.isprintable() and character not in "\n\t":
            raise ValueError(f"contains a character that can’t be stored (code {ord(character)}): remove it")
        if 0xD800 <= ord(character) <= 0xDFFF:
            raise ValueError("contains half a character: remove it")
    return text


LONGEST_NAME = 80
Name = Annotated[str, StringConstraints(strip_whitespace=True, max_length=LONGEST_NAME), AfterValidator(_printable)]
Text = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000), AfterValidator(_printable)]
Key = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
LongKey = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9.-]{0,199}$")]
"""Several keys joined by dots, which no key holds: two of them are never the same by accident, and none is cut."""

Volts = Annotated[float, Field(ge=1e-5, le=1000)]
Ohms = Annotated[float, Field(ge=0.1, le=1000)]
Watts = Annotated[float, Field(ge=0.1, le=20000)]
SignalToNoise = Annotated[float, Field(ge=40, le=150)]
"""Decibels of an output over its own noise."""
Hertz = Annotated[float, Field(ge=5, le=40000)]


@dataclass(frozen=True)
class Quantity:
    """Rules for a typed number: its unit, the ways it is written, and the bounds in that unit."""

    unit: str
    """Symbol as shown."""
    spellings: tuple[str, ...]
    """Accepted after the number, lower case."""
    lowest: float
    highest: float


_VOLTS = ("v", "volt", "volts", "v rms", "vrms", "volt rms", "volts rms", "v ac", "vac")
QUANTITIES: dict[str, Quantity] = {
    "volts": Quantity("V", _VOLTS, 1e-5, 1000),
    "ohms": Quantity("Ω", ("ω", "ohm", "ohms", "r"), 0.1, 1000),
    "watts": Quantity("W", ("w", "watt", "watts", "w rms", "wrms", "watt rms", "watts rms"), 0.1, 20000),
    "hertz": Quantity("Hz", ("hz", "hertz"), 5, 40000),
    "percent": Quantity("%", ("%", "percent", "per cent", "% thd"), -50, 100),
    "count": Quantity("", (), 1, 500),
    "steps": Quantity("", (), -20, 20),
    "decibels": Quantity("dB", ("db", "decibel", "decibels", "db spl", "dbspl"), -60, 120),
    "width": Quantity("Q", ("q",), 0.1, 50),
    "milliseconds": Quantity("ms", ("ms",), 0, 100),
    "centimetres": Quantity("cm", ("cm", "centimetre", "centimetres"), 1, 3000),
    "millimetres": Quantity("mm", ("mm", "millimetre", "millimetres"), 0, 300),
    "kilometres": Quantity("km", ("km", "kilometre", "kilometres"), 0, 5_000_000),
    "microfarads": Quantity("µF", ("µf", "μf", "uf"), 0.1, 1000),
    "direct_volts": Quantity("V", ("v", "volt", "volts", "v dc", "vdc"), -1000, 1000),
    "ratio": Quantity("", ("x", "×"), 0.001, 999),
    "seconds": Quantity("s", ("s", "sec", "seconds"), 0, 86_400),
}

_PREFIXES = {"u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "k": 1e3, "K": 1e3, "M": 1e6}
_TIMES = re.compile(r"([0-9]+)\s*[x×*]\s*([0-9].*)", re.DOTALL)
_THOUSANDS = re.compile(r"[1-9][0-9]{0,2}[.,][0-9]{3}")
"""Characters that may be a decimal mark or a mark between thousands."""
_NUMBER = re.compile(r"([+\-−]?)([0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)\s*(.*)", re.DOTALL)


def parse_quantity(text: str, kind: str) -> float:
    """
    The value of `text` in the base unit of `kind` (a key of QUANTITIES).

    Understands a decimal point or comma, a unit prefix (µ, m, k, M) and the unit's name; everything else is refused.
    A single mark before three digits is read as the bounds allow, and asked about where they allow both ways.

    Raises:
        BadInput: with a sentence that says what is wrong and what to type instead.
    """
    quantity = QUANTITIES[kind]
    shown = text.strip().replace("\u00a0", " ").replace("\u202f", " ")
    sign, digits, rest = _parts(shown, _example(quantity))
    value = float(digits.replace(",", ".")) * _factor(rest, quantity, shown)
    if _THOUSANDS.fullmatch(digits) and quantity.lowest <= 1000 * value <= quantity.highest:
        if value >= quantity.lowest:
            ways = " or ".join(format_value(other, quantity.unit) for other in (value, 1000 * value))
            raise BadInput(f"“{_short(shown)}” can be read in more than one way: type {ways}.")
        value *= 1000
    if sign in ("-", "−"):
        value = -value
    if kind == "count" and value != int(value):
        raise BadInput(f"“{_short(shown)}” isn’t a whole number.")
    if not quantity.lowest <= value <= quantity.highest:
        low, high = (format_value(edge, quantity.unit) for edge in (quantity.lowest, quantity.highest))
        raise BadInput(f"{format_value(value, quantity.unit)} is out of bounds: it must be from {low} to {high}.")
    return value


def _parts(shown: str, example: str) -> tuple[str, str, str]:
    """Sign, digits and what follows them. Raises BadInput where there is no number, or more than one."""
    if not shown:
        raise BadInput(f"Nothing typed yet: {example}.")
    if times := _TIMES.fullmatch(shown):
        raise BadInput(
            f"“{_short(shown)}” is a count and a value: type {_short(times[2])} here, "
            f"and the {times[1]} where it is asked how many there are."
        )
    found = _NUMBER.fullmatch(shown)
    if found is None:
        raise BadInput(f"“{_short(shown)}” isn’t a number: {example}.")
    rest = found[3]
    if rest[:1] in (".", ",") or (rest[:1].isdigit() and rest):
        raise BadInput(f"“{_short(shown)}” can be read in more than one way: use one decimal mark and no spaces.")
    if rest[:1] in ("e", "E") and len(rest) > 1:
        raise BadInput(f"“{_short(shown)}” has an exponent: {example}.")
    return found[1], found[2], rest


def _factor(rest: str, quantity: Quantity, shown: str) -> float:
    """The prefix's factor for what follows the digits."""
    rest = " ".join(rest.split())
    if not rest or rest.lower() in quantity.spellings:
        return 1.0
    tail = rest[1:].strip().lower()
    if quantity.spellings and rest[0] in _PREFIXES and (not tail or tail in quantity.spellings):
        return _PREFIXES[rest[0]]
    wanted = quantity.unit or "a plain number"
    raise BadInput(f"“{_short(rest)}” in “{_short(shown)}” isn’t a unit that fits here: {wanted} is wanted.")


def _example(quantity: Quantity) -> str:
    if quantity.lowest < 0 and not quantity.unit:
        return "type for example 0 or -2"
    if not quantity.unit:
        return "type a whole number, for example 27"
    if quantity.unit == "V":
        return "type for example 18.4 or 950 mV"
    return f"type for example 4 or 4 {quantity.unit}"


def _short(text: str) -> str:
    return text if len(text) <= 24 else text[:23] + "…"


@lru_cache(maxsize=4096)
def format_value(value: float, unit: str, figures: int = 4) -> str:
    """`value` with its unit and a true minus, to `figures` significant figures and never in exponent form."""
    if value < 0:
        return f"−{format_value(-value, unit, figures)}"
    if value == 0 or not math.isfinite(value):
        return f"{value:g} {unit}".strip()
    if 0.01 <= value < 10**figures - 1:
        return f"{value:.{figures}g} {unit}".strip()
    decimals = max(0, figures - 1 - math.floor(math.log10(value)))
    text = f"{value:.{min(decimals, 9)}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return f"{text} {unit}".strip()


@lru_cache(maxsize=4096)
def format_signed(value: float, decimals: int | None = None) -> str:
    """`value` with its sign, a true minus; with as many decimals as given, or as many as it has."""
    rounded = value if decimals is None else round(value, decimals)
    if rounded == 0:
        return f"{0:.{decimals or 0}f}"
    figures = f"{abs(rounded):g}" if decimals is None else f"{abs(rounded):.{decimals}f}"
    return ("+" if rounded > 0 else "−") + figures


def format_db(value: float, decimals: int = 1) -> str:
    """
    Decibels with so many decimals, a true minus, and none before a zero.

    >>> format_db(-0.04), format_db(-6.02), format_db(0.125, 2)
    ('0.0 dB', '−6.0 dB', '0.12 dB')
    """
    text = f"{abs(value):.{decimals}f} dB"
    return f"−{text}" if round(value, decimals) < 0 else text


def format_hertz(value: float, figures: int = 3) -> str:
    """A frequency in Hz or kHz."""
    return format_value(value, "Hz", figures) if value < 1000 else format_value(value / 1000, "kHz", figures)


def volts_for(power_w: float, load_ohm: float) -> float:
    """V = √(P·R): volts RMS that put `power_w` watts into `load_ohm` ohms (Joule, Ohm)."""
    return math.sqrt(power_w * load_ohm)


def watts_for(voltage_v: float, load_ohm: float) -> float:
    """P = V²/R: watts that `voltage_v` volts RMS put into `load_ohm` ohms (Joule, Ohm)."""
    return voltage_v**2 / load_ohm


def ratio_db(value: float, reference: float) -> float:
    """20·log10(value/reference): a ratio of voltages in dB (ISO 80000-3)."""
    return 20 * math.log10(value / reference)


def from_db(level_db: float) -> float:
    """The ratio of voltages that is `level_db` dB: 10^(L/20)."""
    return float(10 ** (level_db / 20))
