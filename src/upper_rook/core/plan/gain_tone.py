"""The tone that a gain is set with, by method, and what another would do."""

from collections.abc import Iterator

from upper_rook.core.common.units import Frozen, format_db, format_hertz, format_signed
from upper_rook.core.signal.tones import Tone
from upper_rook.core.stages.levels import FLAT_DB, Levels, habit_hz, wrong_by_db
from upper_rook.core.stages.shape import meter_edges_hz
from upper_rook.core.system.choices import Choices, Meter
from upper_rook.core.system.loads import Load
from upper_rook.core.system.methods import TONE

_WORTH_TELLING_DB, _NOTHING_DB = 0.3, 30.0
"""Between these a tone is heard on the path and would mislead."""
_METERS = {Meter.TRUE_RMS: "true-RMS meter", Meter.AVERAGE: "simple meter", Meter.SCOPE: "scope", Meter.EAR: "ear"}


class GainTone(Frozen):
    """Tone that is played while a gain is set."""

    tone: Tone
    below_peak_db: float
    """How much less passes at the tone than where most does: a gain set there is too high by as much elsewhere."""
    because: tuple[str, ...]


def habit_tone(choices: Choices, load: Load) -> Tone:
    """The same as a tone, at the level that was chosen."""
    return Tone(frequency_hz=habit_hz(choices, load), level_dbfs=choices.tone_level_dbfs)


def gain_tone(choices: Choices, load: Load, levels: Levels) -> GainTone:
    """The tone for a path: by habit, or where equaliser, gains and boost let most through."""
    frequency = _frequency(choices, load, levels)
    return GainTone(
        tone=Tone(
            frequency_hz=frequency,
            level_dbfs=choices.tone_level_dbfs,
            swept=TONE.of(choices).swept,
        ),
        # Without anything on the way that shapes the signal there is no peak to miss.
        below_peak_db=max(0.0, wrong_by_db(levels, frequency)) if levels.shaped else 0.0,
        because=(*_because(choices, levels, habit_hz(choices, load), frequency), *_opened(levels, frequency)),
    )


def _frequency(choices: Choices, load: Load, levels: Levels) -> float:
    method = TONE.of(choices)
    if method.always_hz:
        return method.always_hz
    return levels.peak_hz if method.follows_peak and levels.peak_hz else habit_hz(choices, load)


def _because(choices: Choices, levels: Levels, habit: float, frequency_hz: float) -> list[str]:
    told = []
    meter = _METERS[choices.meter]
    if not _is_read(choices, habit) and frequency_hz != habit and _is_read(choices, frequency_hz):
        told.append(f"the {meter} promises nothing at {format_hertz(habit)}, the usual tone")
    if levels.peak_hz is not None and levels.is_uneven:
        told += _peak_in_words(choices, levels, frequency_hz)
    if not _is_read(choices, frequency_hz):
        told.append(f"the {meter} promises nothing at {format_hertz(frequency_hz)}: read it on a scope")
    return told


def _peak_in_words(choices: Choices, levels: Levels, frequency_hz: float) -> Iterator[str]:
    highest = format_signed(levels.highest_db, 1)
    yield f"equaliser, channel gain and filters are highest at {format_hertz(levels.highest_hz)}: {highest} dB"
    if frequency_hz == levels.peak_hz and frequency_hz != levels.highest_hz:
        yield f"as high at {format_hertz(frequency_hz)}, to within {FLAT_DB:g} dB"
    for hertz in sorted({choices.sub_tone_hz, choices.full_tone_hz, frequency_hz}):
        off = wrong_by_db(levels, hertz)
        if _WORTH_TELLING_DB < off < _NOTHING_DB:
            yield f"a gain set at {format_hertz(hertz)} would be {format_db(off)} too high there"


def _opened(levels: Levels, frequency_hz: float) -> Iterator[str]:
    """A tone that passes better with the amplifier's filters open than anything does in use."""
    more_db = -wrong_by_db(levels, frequency_hz)
    if levels.shaped and more_db > _WORTH_TELLING_DB:
        yield (
            f"with the amplifier’s filters open {format_db(more_db)} more passes here than anywhere in use: "
            "in use the path stays that much below the target"
        )


def _is_read(choices: Choices, frequency_hz: float) -> bool:
    low, high = meter_edges_hz(choices)
    return low <= frequency_hz <= high
