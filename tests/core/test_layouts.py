"""The layouts, part by part, as somebody who begins with one is shown them (common practice, no source)."""

import pytest

from tests.core.helpers import LAYOUTS
from upper_rook.core.signal.filters import ChannelFilter
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path

PAIR, PAIR_TOO, MONO = "75 into 4", "75 into 4, 120 into 2", "300 into 4, 480 into 2"
SUB = "1×400 W 4 Ω 28–200 Hz tuned 34"
SUBSONIC, SUB_TOP = "high 28 Hz 24 dB (10–60)", "low 80 Hz 24 dB (40–250)"
TABLE = {
    "front": {"front": (PAIR, "1×60 W 4 Ω")},
    "two-way": {"front": (PAIR, "1×60 W 4 Ω 65–20000 Hz passive 3500", "high 70 Hz 12 dB (30–250)")},
    "front-rear": {
        "front": (PAIR_TOO, "1×60 W 4 Ω 70–20000 Hz", "high 80 Hz 12 dB (30–250)"),
        "rear": (PAIR_TOO, "1×60 W 4 Ω 80–20000 Hz", "high 100 Hz 12 dB (30–250)"),
    },
    "front-rear-sub": {
        "front": (PAIR_TOO, "1×60 W 4 Ω 70–20000 Hz", "high 80 Hz 12 dB (30–250)"),
        "rear": (PAIR_TOO, "1×60 W 4 Ω 80–20000 Hz", "high 100 Hz 12 dB (30–250)"),
        "sub": (MONO, SUB, SUBSONIC, SUB_TOP),
    },
    "front-sub": {
        "front": (PAIR_TOO, "1×60 W 4 Ω 70–20000 Hz", "high 80 Hz 12 dB (30–250)"),
        "sub": (MONO, SUB, SUBSONIC, SUB_TOP),
    },
    "four-channel": {
        "front": (PAIR_TOO, "1×60 W 4 Ω 70–20000 Hz", "high 80 Hz 12 dB (30–250)"),
        "rear": (PAIR_TOO, "1×60 W 4 Ω 80–20000 Hz", "high 100 Hz 12 dB (30–250)"),
    },
    "four-channel-sub": {
        "front": (PAIR_TOO, "1×60 W 4 Ω 70–20000 Hz", "high 80 Hz 12 dB (30–250)"),
        "rear": (PAIR_TOO, "1×60 W 4 Ω 80–20000 Hz", "high 100 Hz 12 dB (30–250)"),
        "sub": (MONO, SUB, SUBSONIC, SUB_TOP),
    },
    "active-two-sub": {
        "bass": (PAIR_TOO, "1×60 W 4 Ω 60–5000 Hz", "high 70 Hz 24 dB digital", "low 2500 Hz 24 dB digital"),
        "tweeter": (PAIR_TOO, "1×60 W 4 Ω 2000–20000 Hz", "high 2500 Hz 24 dB digital"),
        "sub": (MONO, SUB, "high 28 Hz 24 dB digital", "low 70 Hz 24 dB digital"),
    },
    "five-channel": {
        "front": (PAIR_TOO, "1×60 W 4 Ω 70–20000 Hz", "high 80 Hz 12 dB (30–250)"),
        "rear": (PAIR_TOO, "1×60 W 4 Ω 80–20000 Hz", "high 100 Hz 12 dB (30–250)"),
        "sub": (MONO, SUB, SUBSONIC, SUB_TOP),
    },
    "sub": {"sub": (MONO, SUB, SUBSONIC, SUB_TOP)},
    "strapped-sub": {
        "sub": ("1000 into 2, 2000 into 4 strapped", "1×2500 W 4 Ω 28–200 Hz tuned 34", SUBSONIC, SUB_TOP)
    },
    "active-two": {
        "bass": (PAIR_TOO, "1×60 W 4 Ω 60–5000 Hz", "high 70 Hz 24 dB digital", "low 2500 Hz 24 dB digital"),
        "tweeter": (PAIR_TOO, "1×60 W 4 Ω 2000–20000 Hz", "high 2500 Hz 24 dB digital"),
    },
    "active-three": {
        "bass": (PAIR_TOO, "1×60 W 4 Ω 60–5000 Hz", "high 70 Hz 24 dB digital", "low 400 Hz 24 dB digital"),
        "mid": (PAIR_TOO, "1×60 W 4 Ω 300–8000 Hz", "high 400 Hz 24 dB digital", "low 3500 Hz 24 dB digital"),
        "tweeter": (PAIR_TOO, "1×60 W 4 Ω 2000–20000 Hz", "high 3500 Hz 24 dB digital"),
    },
    "bi-amplified-three": {
        "bass": (PAIR_TOO, "1×60 W 4 Ω 60–4000 Hz", "high 70 Hz 12 dB (30–250)", "low 450 Hz 12 dB"),
        "mids": (PAIR_TOO, "1×60 W 4 Ω 300–20000 Hz passive 3500", "high 400 Hz 12 dB"),
    },
    "high-level": {"front": (PAIR, "1×60 W 4 Ω")},
    "converter": {"front": (PAIR, "1×60 W 4 Ω")},
}


def described(chain: Chain, path: Path) -> tuple[str, ...]:
    amplifier, load = chain.amplifier_of(path), chain.load_of(path)
    ratings = ", ".join(
        f"{rating.power_w:g} into {rating.load_ohm:g}"
        + ("" if rating.mode.value == "per_channel" else f" {rating.mode.value}")
        for rating in amplifier.ratings
    )
    speakers = f"{load.count}×{load.power_w:g} W {load.impedance_ohm:g} Ω"
    if load.lowest_hz and load.highest_hz:
        speakers += f" {load.lowest_hz:g}–{load.highest_hz:g} Hz"
    speakers += f" tuned {load.tuning_hz:g}" if load.tuning_hz else ""
    speakers += f" passive {load.passive_hz[0]:g}" if load.passive_hz else ""
    return (ratings, speakers, *(filter_in_words(channel_filter) for channel_filter in path.filters))


def filter_in_words(channel_filter: ChannelFilter) -> str:
    cut = channel_filter.crossover
    words = f"{cut.kind.value} {cut.corner_hz:g} Hz {6 * cut.order} dB"
    if channel_filter.dial:
        words += f" ({channel_filter.dial.lowest_hz:g}–{channel_filter.dial.highest_hz:g})"
    return words + (" digital" if channel_filter.place.value == "processor" else "")


@pytest.mark.parametrize("layout", LAYOUTS)
def test_a_layout_is_what_its_table_says(layout: str) -> None:
    chain = LAYOUTS[layout]
    assert {path.id: described(chain, path) for path in chain.paths} == TABLE[layout]
    for path in chain.paths:
        amplifier = chain.amplifier_of(path)
        assert amplifier.gain_range is not None
        assert (amplifier.gain_range.down_v, amplifier.gain_range.up_v) == (6.0, 0.2)
        mono = amplifier.channels == 1
        assert amplifier.lowest_load_ohm == (1 if mono else 2)
        assert not amplifier.regulated
        assert chain.source_of(path).top_volume == (30 if layout in ("high-level", "converter") else 40)
        assert path.channel_gain_db == 0
        # With these slopes neighbours are out of step where they meet, unless one of them is turned.
        turned = {("bi-amplified-three", "mids")}
        turned |= {(text, "sub") for text in ("front-sub", "front-rear-sub", "four-channel-sub", "five-channel")}
        assert path.inverted == ((layout, path.id) in turned)


def test_one_chassis_drives_front_and_rear_where_a_layout_says_four_channels() -> None:
    for layout in ("four-channel", "four-channel-sub"):
        chain = LAYOUTS[layout]
        front, rear = (next(path for path in chain.paths if path.id == key) for key in ("front", "rear"))
        assert front.amplifier == rear.amplifier
        sections = next(amplifier.sections for amplifier in chain.amplifiers if amplifier.id == front.amplifier)
        assert [(section.id, section.name) for section in sections] == [
            ("front", "Channels 1 + 2"),
            ("rear", "Channels 3 + 4"),
        ]
        assert (front.section, rear.section) == ("front", "rear")


def test_high_level_and_converter_begin_with_a_factory_radio() -> None:
    for layout in ("high-level", "converter"):
        (output,) = LAYOUTS[layout].sources[0].outputs
        assert output.kind.value == "speaker"
    ranged = LAYOUTS["high-level"].amplifiers[0].high_level_range
    assert ranged is not None
    assert (ranged.down_v, ranged.up_v, LAYOUTS["high-level"].paths[0].input.value) == (20, 1, "high")
    (converter,) = LAYOUTS["converter"].processors
    assert (converter.highest_input.v, converter.highest_output_v) == (20, 5)
