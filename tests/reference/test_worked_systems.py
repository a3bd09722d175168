"""The plan beside systems worked out apart from it, and beside what an experienced fitter expects to be told."""

import copy
import math

import numpy as np
import pytest
import scipy.signal

from tests.reference.worked_systems import SYSTEMS, WORKED, Worked, document, faulty
from upper_rook.core.plan.plan import Plan, plan
from upper_rook.core.plan.text import plan_text
from upper_rook.core.system.job_sheet import JobSheet


def planned(written: dict[str, object]) -> Plan:
    return plan(JobSheet.model_validate(written))


def kinds(found: Plan, *severities: str) -> set[str]:
    """The kinds of everything told, consequences included."""
    return {
        finding.kind
        for cause in found.causes
        for finding in (cause, *cause.consequences)
        if not severities or finding.severity in severities
    }


def test_there_are_enough_of_them() -> None:
    assert len(WORKED) >= 30


@pytest.mark.parametrize("worked", WORKED, ids=lambda one: one.name)
def test_a_system_comes_to_what_was_worked_out(worked: Worked) -> None:
    (path,) = planned(worked.document).paths
    assert path.target.value == pytest.approx(worked.target_v, rel=5e-4)
    assert path.channel_ohm == pytest.approx(worked.channel_ohm, rel=1e-9)
    if worked.input_v is not None:
        assert path.input_v == pytest.approx(worked.input_v, rel=1e-3)
    if worked.printed_v is not None:
        assert path.knob.printed_v == pytest.approx(worked.printed_v, rel=1e-3)


# What a fitter expects (common practice, no source): the kind of the finding, and how grave it is.
EXPECTED = {
    "bridged-2ohm-on-2ohm-per-channel-amp": ("load-too-low", "stop"),
    "lowest-load-not-typed-rated-only-4ohm-load-1ohm": ("load-too-low", "stop"),
    "tap-0-3v-into-0-25v-min-factory-line": ("noise", "risk"),
    "sensing-converter-on-line-output": ("no-offset", "risk"),
    "left-only-output-to-bridged-sub": ("half-of-music", "risk"),
    "habit-tone-where-dsp-cuts-1k-by-8": ("tone-misses-peak", "risk"),
    "hp-120-above-lp-80": ("nothing-left", "stop"),
    "subsonic-12-far-below-tuning-32": ("subsonic-low", "risk"),
    "tweeter-hp-2500-but-6-db-only": ("tweeter", "stop"),
    "treble-lost-lp-6k-passive-2-5k": ("no-treble", "risk"),
    "bass-lost-hp-200-no-sub": ("no-bass", "risk"),
    "sub-inverted-lr4": ("cancel", "risk"),
    "converter-lowest-3v-into-2v-input": ("trim-too-high", "stop"),
    "weak-source-into-weak-converter-gain": ("converter-weak", "note"),
    "second-mid-tweeter-no-group-cancels": ("cancel", "risk"),
    "dial-from-120-hz-for-a-corner-at-80": ("dial", "risk"),
    "channel-20-db-down-before-a-high-gain": ("noise", "risk"),
    "mid-without-low-pass-beside-its-tweeter": ("no-low-pass", "risk"),
    "tweeter-of-unknown-range-without-high-pass": ("tweeter-unknown", "risk"),
    "low-shelf-12-db-below-a-sealed-sub": ("boost-below-range", "risk"),
    "two-subs-ten-ms-apart": ("delays-apart", "risk"),
    "amplifier-boost-12-db-and-a-gain-scale": ("boost", "risk"),
    "tone-40-hz-on-a-high-passed-front": ("tone-misses-peak", "risk"),
}


@pytest.mark.parametrize("name", EXPECTED)
def test_a_fault_is_told_first(name: str) -> None:
    found = planned(faulty(name))
    kind, severity = EXPECTED[name]
    assert (found.causes[0].kind, found.causes[0].severity) == (kind, severity)
    # In the text too, before everything else.
    assert next(iter(plan_text(found))).startswith(f"{severity}: ")


@pytest.mark.parametrize("name", [file.stem for file in SYSTEMS.glob("healthy-*.json")])
def test_a_healthy_system_is_quiet(name: str) -> None:
    """No stop, no risk, and every proposal settled: nothing is to be done about it (common practice, no source)."""
    found = planned(faulty(name))
    assert not kinds(found, "stop", "risk")
    assert all(proposal.settled for proposal in found.crossovers.proposals)


def test_a_sub_level_raised_gives_no_more_than_its_output_does() -> None:
    """Of 4 V rated and a level of +6 dB, 4 V are clean: the output stage ends there, 6 dB earlier on the scale."""
    (path,) = planned(faulty("sub-level-6-db-on-a-4-v-output")).paths
    assert path.source_v == pytest.approx(4.0)


def test_what_is_right_is_left_alone() -> None:
    healthy = planned(faulty("healthy-front-sub-lr4-should-be-quiet"))
    assert kinds(healthy, "stop", "risk") == set()
    assert all(proposal.settled for proposal in healthy.crossovers.proposals)
    one_lead = planned(faulty("one-lead-on-mono-amp-correct-wiring"))
    assert "one-lead" not in kinds(one_lead)
    trimmed = planned(faulty("converter-clean-trims-speaker-half-of-amp"))
    assert "source-strong" not in kinds(trimmed)


def test_the_remedy_says_how_to_rewire() -> None:
    coils = planned(faulty("lowest-load-not-typed-rated-only-4ohm-load-1ohm")).causes[0]
    assert "2 coils in series: 4 Ω" in coils.remedy
    bridged = planned(faulty("bridged-2ohm-on-2ohm-per-channel-amp")).causes[0]
    assert "one channel instead of bridged: 2 Ω" in bridged.remedy
    # The consequence of a load that no rating is made for stands under it.
    assert [consequence.kind for consequence in bridged.consequences] == ["rating-estimated"]


def test_the_other_tone_is_one_that_a_meter_reads() -> None:
    found = planned(faulty("habit-tone-where-dsp-cuts-1k-by-8"))
    remedy = found.causes[0].remedy
    hertz = float(remedy.partition("tone at ")[2].partition(" Hz")[0])
    # What the band leaves there, by scipy: within a quarter of a decibel of nothing taken away.
    band = {"frequency_hz": 1000, "gain_db": -8, "q": 0.7}
    assert 40 <= hertz <= 1000
    assert _peaking_db(hertz, **band) == pytest.approx(0, abs=0.26)


def test_the_trim_names_the_level_of_the_tone() -> None:
    (path,) = planned(faulty("tone-5-with-converter")).paths
    # 2 V at full scale are 1.12 V with a tone 5 dB down: 20·log10.
    assert "1.12 V" in path.trims[0].sentence
    assert "−5 dBFS" in path.trims[0].sentence
    assert "2 V at full scale" in path.trims[0].sentence


def _peaking_db(at_hz: float, frequency_hz: float, gain_db: float, q: float) -> float:
    """A peaking band by the W3C Audio EQ Cookbook's coefficients, its response by scipy."""
    amount, turn = 10 ** (gain_db / 40), 2 * math.pi * frequency_hz / 48_000
    alpha = math.sin(turn) / (2 * q)
    top = [1 + alpha * amount, -2 * math.cos(turn), 1 - alpha * amount]
    bottom = [1 + alpha / amount, -2 * math.cos(turn), 1 - alpha / amount]
    response = scipy.signal.freqz(top, bottom, worN=[at_hz], fs=48_000)[1]
    return float(20 * np.log10(np.abs(response[0])))


DSP = {
    "id": "dsp",
    "kind": "processor",
    "highest_input": {"volts": 4},
    "highest_output_v": 40,
    "output_full_scale_v": 4,
}


@pytest.mark.parametrize(
    ("hertz", "gain", "q"),
    [
        # Below what the speakers play; beside the tone of habit; between two points of a third-octave grid.
        (40, 9, 1.2),
        (1040, 6, 12),
        (3333, 8, 20),
        (97.3, 12, 30),
    ],
)
def test_no_peak_is_lost(hertz: float, gain: float, q: float) -> None:
    band = {"kind": "peak", "frequency_hz": hertz, "gain_db": gain, "q": q}
    made = document(processors=(DSP,), equaliser=[band])
    made["chain"]["loads"][0]["lowest_hz"] = 70
    (path,) = planned(made).paths
    # The gain is set where most passes: what reaches the amplifier there is the source's 4 V and the band's top.
    assert path.tone.frequency_hz == pytest.approx(hertz, rel=0.01)
    assert path.input_v == pytest.approx(4 * 10 ** (_peaking_db(hertz, hertz, gain, q) / 20), rel=0.01)


@pytest.mark.parametrize("place", ["amplifier", "processor"])
def test_the_tone_lies_within_what_a_filter_leaves(place: str) -> None:
    low = {"crossover": {"kind": "low", "corner_hz": 500, "order": 2}, "place": place}
    if place == "amplifier":
        # A knob that ends at 500 Hz and no switch to take it out.
        low["dial"] = {"lowest_hz": 50, "highest_hz": 500}
    made = document(processors=(DSP,), filters=[low])
    (path,) = planned(made).paths
    b, a = scipy.signal.butter(2, 2 * math.pi * 500, "low", analog=True)
    response = scipy.signal.freqs(b, a, [2 * math.pi * path.tone.frequency_hz])[1]
    assert 20 * math.log10(abs(response[0])) > -0.3


def test_a_meter_good_to_one_kilohertz_is_not_sent_to_eight() -> None:
    shelves = [
        {"kind": "low_shelf", "frequency_hz": 250, "gain_db": 5.95, "q": 0.7},
        {"kind": "high_shelf", "frequency_hz": 4000, "gain_db": 6, "q": 0.7},
    ]
    made = document(processors=(DSP,), equaliser=shelves)
    assert 40 <= planned(made).paths[0].tone.frequency_hz <= 1000
    scope = document(processors=(DSP,), equaliser=[shelves[1]], choices={"meter": "scope"})
    assert planned(scope).paths[0].tone.frequency_hz > 4000


def test_a_simple_meter_gets_its_own_tone_and_a_reason() -> None:
    (path,) = planned(document(choices={"meter": "average"})).paths
    assert path.tone.frequency_hz == 400
    assert path.tone_because == ("the simple meter promises nothing at 1 kHz, the usual tone",)


@pytest.mark.parametrize(
    ("gains", "kind", "severity"),
    [
        # 1.2 V into one that needs 3 V; 12 dB of gain make 4.8 V of them; −3 dB at the least leave 0.85 V.
        # The amplifier's gain, 0.2 V at its top, makes up for all of that, and for 30 dB less it doesn't.
        ({"lowest_input": {"volts": 3}}, "converter-weak", "note"),
        ({"lowest_input": {"volts": 60}}, "converter-weak", "risk"),
        ({"highest_gain_db": 12}, "converter-weak", "note"),
        ({"highest_gain_db": 18}, None, ""),
        ({"lowest_gain_db": -3, "highest_gain_db": 18}, "trim-too-high", "stop"),
    ],
)
def test_a_converter_gives_what_its_gain_makes_of_its_input(
    gains: dict[str, object], kind: str | None, severity: str
) -> None:
    made = faulty("weak-source-into-weak-converter-gain")
    made["chain"]["processors"][0] |= gains
    if "lowest_gain_db" in gains:
        made["chain"]["amplifiers"][0]["highest_input_v"] = 0.5
    found = planned(made)
    assert (kind in kinds(found, severity)) if kind else ("converter-weak" not in kinds(found))
    if gains == {"highest_gain_db": 12}:
        assert found.paths[0].input_v == pytest.approx(1.2 * 10 ** (12 / 20))


def test_gains_without_a_processor_are_told_and_not_counted() -> None:
    plain, lifted = document(), document(channel_gain_db=6, equaliser=[{"frequency_hz": 100, "gain_db": 6}])
    assert planned(lifted).paths[0].input_v == planned(plain).paths[0].input_v
    assert planned(lifted).causes[0].kind == "no-processor"
    # Before a converter the processor's gain is the processor's.
    converter = {"id": "loc", "kind": "converter", "highest_input": {"volts": 5}, "highest_output_v": 9}
    behind = document(processors=(DSP, converter), channel_gain_db=6)
    over = next(finding for finding in planned(behind).paths[0].findings if finding.kind == "input-over")
    assert "7.98 V reach an input made for 5 V" in over.reason


def test_only_a_distorted_rating_is_told_and_taken_for_what_is_clean_of_it() -> None:
    made = document(watts=300, ratings=({"power_w": 130, "load_ohm": 4, "distortion_percent": 10},))
    found = planned(made)
    assert "rating-distorted" in kinds(found, "risk")
    # The table of a clipped sine: 10 % lie between 1 dB (4.63 %, +0.634 dB) and 3 dB (13.38 %, +1.343 dB) of overdrive,
    # 1 % at +0.201 dB.
    share = (10 - 4.632) / (13.380 - 4.632)
    more_db = 0.634 + share * (1.343 - 0.634) - 0.201
    watts = 130 * 10 ** (-more_db / 10)
    assert found.paths[0].power_w == pytest.approx(watts, rel=0.02)


def test_ratings_that_contradict_are_told() -> None:
    twice = ({"power_w": 75, "load_ohm": 4}, {"power_w": 90, "load_ohm": 4})
    found = planned(document(watts=300, ratings=twice))
    assert "ratings-contradict" in kinds(found, "risk")
    assert found.paths[0].target.value == pytest.approx(math.sqrt(75 * 4))
    explained = ({"power_w": 75, "load_ohm": 4, "supply_v": 12}, {"power_w": 90, "load_ohm": 4, "supply_v": 14.4})
    assert "ratings-contradict" not in kinds(planned(document(watts=300, ratings=explained)))


def test_two_subs_of_which_one_is_inverted() -> None:
    made = faulty("healthy-front-sub-lr4-should-be-quiet")
    chain = made["chain"]
    for kind, key in (("amplifiers", "as"), ("loads", "ls"), ("paths", "sub")):
        part = next(one for one in chain[kind] if one["id"] == key)
        changed = {"id": "two", "name": "second sub"} | (
            {"amplifier": "two", "load": "two", "inverted": True} if kind == "paths" else {}
        )
        chain[kind].append(part | changed)
    found = planned(made)
    assert (found.causes[0].kind, found.causes[0].paths) == ("cancel-beside", ("sub", "two"))
    proposal = next(proposal for proposal in found.crossovers.proposals if not proposal.settled)
    assert "polarity" in proposal.words


def test_rear_speakers_hide_no_gap() -> None:
    made = faulty("healthy-front-sub-lr4-should-be-quiet")
    chain = made["chain"]
    for kind, key in (("amplifiers", "amp"), ("loads", "spk"), ("paths", "front")):
        part = next(one for one in chain[kind] if one["id"] == key)
        changed = {"amplifier": "rear", "load": "rear", "name": "rear"} if kind == "paths" else {}
        chain[kind].append(copy.deepcopy(part) | {"id": "rear"} | changed)
    # The front begins at 200 Hz now; the rear, which still begins at 80 Hz, doesn't fill that for it.
    chain["paths"][0]["filters"][0]["crossover"]["corner_hz"] = 200
    gaps = [finding for finding in planned(made).crossovers.findings if finding.kind == "gap"]
    assert [gap.paths for gap in gaps] == [("sub", "front")]
