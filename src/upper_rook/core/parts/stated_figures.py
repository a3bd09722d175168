"""Figures of a part's data sheet, a line each."""

from collections.abc import Iterator

from upper_rook.core.common.units import format_db, format_hertz, format_value
from upper_rook.core.parts.shop_part import ShopPart
from upper_rook.core.system.amplifier import Amplifier
from upper_rook.core.system.loads import Load
from upper_rook.core.system.processor import Processor


def stated_figures(part: ShopPart) -> tuple[str, ...]:
    """All that the data sheet says of a part; what it doesn't say has no line."""
    stated = part.stated
    if isinstance(stated, Amplifier):
        return tuple(_of_amplifier(stated))
    return tuple(_of_speakers(stated) if isinstance(stated, Load) else _of_processor(stated))


def _of_amplifier(amplifier: Amplifier) -> Iterator[str]:
    for rating in (*amplifier.ratings, *(rating for section in amplifier.sections for rating in section.ratings)):
        yield rating.words
    if amplifier.sections:
        yield f"{len(amplifier.sections)} sections"
    if amplifier.lowest_load_ohm is not None:
        yield f"Lowest load of a channel {format_value(amplifier.lowest_load_ohm, 'Ω')}"
    for name, scale in (("Gain", amplifier.gain_range), ("High-level input", amplifier.high_level_range)):
        if scale is not None:
            yield f"{name}: {format_value(scale.down_v, 'V')} fully down, {format_value(scale.up_v, 'V')} fully up"
    if amplifier.signal_to_noise_db is not None:
        yield f"Signal-to-noise ratio {format_db(amplifier.signal_to_noise_db, 0)}"


def _of_speakers(load: Load) -> Iterator[str]:
    if load.impedance_ohm is not None:
        coils = f"{load.coils} coils of " if load.coils > 1 else ""
        yield f"{coils}{format_value(load.impedance_ohm, 'Ω')}"
    if load.power_w is not None:
        yield f"{format_value(load.power_w, 'W')} continuous"
    if load.sensitivity_db is not None:
        yield f"{format_db(load.sensitivity_db)} at 1 m"
    if load.lowest_hz is not None:
        yield f"Plays from {format_hertz(load.lowest_hz)}"
    if load.highest_hz is not None:
        yield f"Plays to {format_hertz(load.highest_hz)}"


def _of_processor(processor: Processor) -> Iterator[str]:
    if processor.highest_input.v is not None:
        yield f"Takes up to {format_value(processor.highest_input.v, 'V')}"
    yield f"Gives up to {format_value(processor.highest_output_v, 'V')}"
