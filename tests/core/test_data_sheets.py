"""
Figures read from the text of a data sheet.

Truth: the figure that a line was written from. The ways of writing are common practice, no source.
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from upper_rook.core.common.errors import BadInput
from upper_rook.core.system.amplifier import Driven, Mode, NoiseAt
from upper_rook.core.system.amplifier_spec import amplifier_spec
from upper_rook.core.system.loads import SensitivityAt
from upper_rook.core.system.speaker_spec import speaker_spec
from upper_rook.core.system.spec_lines import LONGEST_TEXT

OHMS = st.sampled_from(["{} ohm", "{} Ω", "{}Ω", "{} Ohms", "{}-ohm"])
WAYS = st.sampled_from(
    [
        "{n} x {w} W @ {r}{c}",
        "{w} W x {n} @ {r}{c}",
        "{n}×{w}W RMS into {r}{c}",
        "RMS power @ {r}: {n} x {w} Watts{c}",
        "{r} | {w} W | {n} ch{c}",
        "{n} channels, {w} watts rms at {r}{c}",
        "• Continuous power {r}\t{w} W x {n}{c}",
    ]
)


@given(
    way=WAYS,
    ohm=OHMS,
    watts=st.integers(5, 5000).filter(lambda watts: watts < 1000 or watts % 1000),
    load=st.sampled_from(["0.5", "0,5", "1", "2", "4", "8"]),
    channels=st.integers(1, 6),
    at=st.tuples(st.sampled_from([None, 12.6, 13.8, 14.4]), st.sampled_from([None, 0.1, 1, 10])),
)
def test_a_rating_is_read_as_it_was_written(
    *, way: str, ohm: str, watts: int, load: str, channels: int, at: tuple[float | None, float | None]
) -> None:
    supply, percent = at
    said = [f"{percent} % THD"] * (percent is not None) + [f"{supply} V"] * (supply is not None)
    brackets = f" ({', '.join(said)})" if said else ""
    line = way.format(n=channels, w=watts, r=ohm.format(load), c=brackets)
    spec = amplifier_spec(line)
    (found,) = spec.ratings
    assert (found.rating.power_w, found.rating.load_ohm, found.rating.mode) == (
        watts,
        float(load.replace(",", ".")),
        Mode.PER_CHANNEL,
    )
    assert (found.rating.supply_v, found.rating.distortion_percent, found.channels) == (supply, percent, channels)
    assert spec.unread == ()


WORDS = """
    0 1 2 4 5 9 20 75 120 1.2 1,5 1.200 30000 W watts kW ohm Ω V mV Hz kHz dB % x @ - to ( ) , ; / | ± rms max bridged
    bridgeable channels S/N sensitivity input high-level minimum load stable range impedance DVC 2.83
"""
TOKENS = st.sampled_from([*WORDS.split(), "\n", "\n\n", "   "])


@given(st.lists(TOKENS, max_size=40))
def test_words_and_figures_of_data_sheets_in_any_order_are_read_or_given_back(tokens: list[str]) -> None:
    text = " ".join(tokens)
    for spec in (amplifier_spec(text), speaker_spec(text)):
        assert all(left.reason and left.line for left in spec.unread)


@given(st.text(max_size=400))
def test_nothing_but_numbers_that_stand_there_is_ever_read(text: str) -> None:
    spec = amplifier_spec(text)
    assert bool(spec.ratings) <= any(sign.isdigit() for sign in text)
    speaker_spec(text)


def test_a_table_gives_its_columns_and_a_heading_its_conditions() -> None:
    spec = amplifier_spec(
        "                  4 Ω    2 Ω    1 Ω\nRMS power (12.6 V, 1 % THD)    80 W   140 W   210 W\n"
        "Max power   160 W   280 W   420 W\n"
    )
    assert [(rating.rating.power_w, rating.rating.load_ohm, rating.rating.supply_v) for rating in spec.ratings] == [
        (80, 4, 12.6),
        (140, 2, 12.6),
        (210, 1, 12.6),
    ]
    assert ["peak" in left.reason for left in spec.unread] == [True]
    spec = amplifier_spec("Power at 14.4 V, 1 % THD, bridged:\n2 x 150 W @ 4 ohm\n\n4 x 75 W @ 4 ohm")
    assert [(rating.rating.mode, rating.rating.supply_v) for rating in spec.ratings] == [
        (Mode.BRIDGED, 14.4),
        (Mode.PER_CHANNEL, None),
    ]


def test_what_else_an_amplifiers_sheet_says() -> None:
    spec = amplifier_spec(
        "Input sensitivity 200 mV – 5 V\nHigh level input: 2 - 15 V\nS/N ratio (1 W): >78 dB\n"
        "Minimum load: 2 ohm (4 ohm bridged)\n1 x 500 W @ 1 ohm, one channel driven"
    )
    assert (spec.gain_range.up_v, spec.gain_range.down_v) == (0.2, 5.0)  # type: ignore[union-attr]
    assert (spec.high_level_range.up_v, spec.high_level_range.down_v) == (2.0, 15.0)  # type: ignore[union-attr]
    assert (spec.signal_to_noise_db, spec.signal_to_noise_at, spec.lowest_load_ohm) == (78, NoiseAt.ONE_WATT, 2)
    assert (spec.ratings[0].rating.driven, spec.ratings[0].channels, spec.unread) == (Driven.ONE, 1, ())


@pytest.mark.parametrize(
    ("line", "word"),
    [
        ("75 W x 4", "says no ohms"),
        ("75 W x 4 @ 4 or 2 ohm @ 4 ohm @ 2 ohm", "Several ohms"),
        ("Max. power 300 W @ 4 ohm", "peak"),
        ("1200 W PMPO @ 4 ohm", "peak"),
        ("1.200 W @ 1 ohm", "more than one way"),
        ("90000 W @ 4 ohm", "out of bounds"),
        ("75 W 150 W @ 4 ohm @ 2 ohm", "aren’t clear"),
        ("Weight 4.2 kg", "No figure"),
        ("Input sensitivity 5 V", "Two volts"),
        ("Input sensitivity 5 V - 5 V", "must be more than"),
        ("S/N ratio 30 dB", "can’t be taken"),
        ("Recommended power 50-100 W @ 4 ohm", "a recommendation"),
    ],
)
def test_a_line_that_can_be_read_in_two_ways_is_given_back_with_the_reason(line: str, word: str) -> None:
    spec = amplifier_spec(line)
    assert spec.ratings == ()
    assert spec.gain_range is None
    assert word in spec.unread[0].reason
    assert spec.unread[0].line == line


def test_a_speakers_sheet() -> None:
    spec = speaker_spec(
        "Impedance: DVC 2 x 4 Ω\nPower 300 W RMS / 600 W max\nSensitivity 87,5 dB (2.83 V / 1 m)\n"
        "Frequency response 28 Hz – 1.2 kHz (-3 dB)\nMounting depth 140 mm"
    )
    assert (spec.impedance_ohm, spec.coils, spec.power_w) == (4, 2, 300)
    assert (spec.sensitivity_db, spec.sensitivity_at) == (87.5, SensitivityAt.VOLTS)
    assert (spec.lowest_hz, spec.highest_hz) == (28, 1200)
    assert [left.line for left in spec.unread] == ["Power 300 W RMS / 600 W max", "Mounting depth 140 mm"]
    for text, lowest in (("55-22 kHz", 55), ("2-20 kHz", 2000), ("2 kHz - 20 kHz", 2000), ("2 k to 20 kHz", 2000)):
        assert speaker_spec(text).lowest_hz == lowest


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("200 Hz - 50 Hz", "doesn’t go up"),
        ("3-5 Hz", "out of bounds"),
        ("Recommended amplifier 20-120 W", "a recommendation"),
        ("Sensitivity 30 dB", "can’t be taken"),
        ("Impedance 4 ohm\nImpedance 8 ohm", "An earlier line gives another"),
    ],
)
def test_what_a_speakers_sheet_says_amiss_is_given_back(text: str, word: str) -> None:
    spec = speaker_spec(text)
    assert word in spec.unread[0].reason
    assert (spec.lowest_hz, spec.power_w, spec.sensitivity_db) == (None, None, None)


def test_an_amplifier_that_can_be_bridged_isnt_rated_so() -> None:
    (found,) = amplifier_spec("75 W x 4 @ 4 ohm (bridgeable)").ratings
    assert (found.rating.mode, found.words) == (Mode.PER_CHANNEL, "75 W into 4 Ω; 4 channels")


def test_a_book_is_refused() -> None:
    for read in (amplifier_spec, speaker_spec):
        with pytest.raises(BadInput, match="20,000"):
            read("1" * (LONGEST_TEXT + 1))
