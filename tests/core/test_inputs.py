"""What reaches an amplifier's input and whether it fits: stated volts, inputs, switches, sources and their settings."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.core.helpers import (
    LAYOUTS,
    a_filter,
    finding_keys,
    first_path,
    giving,
    measured,
    steps_of,
    with_filters,
    with_parts,
)
from upper_rook.core.common.finding import Severity
from upper_rook.core.common.stated import Stated
from upper_rook.core.plan.plan import plan
from upper_rook.core.run.steps.volume_steps import rests_on
from upper_rook.core.signal.filters import EqualiserBand, FilterPlace, Pass, SwitchPosition
from upper_rook.core.stages.knob import KnobState
from upper_rook.core.system.chain import Chain, line_output_pair
from upper_rook.core.system.clean_maximum import Basis, CleanMaximum
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.source import Source
from upper_rook.core.system.turn_on import TurnOn

SHEET = JobSheet(chain=line_output_pair())
HIGH = {"down_v": 20.0, "up_v": 1.0}
FLAT = {"bass": 0.0, "loudness": False}


@given(st.floats(0.1, 20_000), st.floats(0.1, 40))
def test_watts_at_a_load_are_the_volts_that_give_them(watts: float, ohms: float) -> None:
    stated = Stated(watts=watts, load_ohm=ohms)
    assert stated.v**2 / ohms == pytest.approx(watts)
    assert Stated(volts=stated.v).v == stated.v


def test_volts_or_watts_but_not_both() -> None:
    assert Stated().v is None
    # 16 W into 4 ohm: √64 (Joule, Ohm).
    assert (Stated(watts=16).v, Stated(watts=16).label) == (8.0, "16 W into 4 Ω")
    with pytest.raises(ValidationError, match="not both"):
        Stated(volts=2, watts=3)


def speaker_level(**more: dict[str, object]) -> JobSheet:
    """A factory amplifier of 25 W into 4 ohm, 10 V, on an amplifier with both inputs."""
    return with_parts(JobSheet(chain=LAYOUTS["high-level"]), **more)


def test_speaker_leads_belong_on_the_high_level_input() -> None:
    fits = first_path(speaker_level())
    assert fits.input_v == pytest.approx(10)
    assert fits.input_advice.settled
    assert fits.input_advice.sentence == "The high-level input fits: 10 V reach it."
    # 10 V of 75 W for 60 W wanted: 10·√(75/60) = 11.2 V on the scale of 1 to 20 V.
    assert fits.knob.printed_v == pytest.approx(10 * (75 / 60) ** 0.5)
    low = speaker_level(path={"input": "low"})
    assert finding_keys(low)["no-ground-side"] is Severity.STOP
    assert first_path(low).input_advice.sentence.endswith("use the high-level input.")
    none = with_parts(low, amplifier={"high_level_range": None})
    assert first_path(none).input_advice.sentence.endswith("put a converter before it.")


def test_the_other_input_is_named_where_it_fits_better() -> None:
    weak = first_path(
        with_parts(SHEET, amplifier={"high_level_range": HIGH}, path={"input": "high"}, source=giving(0.5))
    )
    assert weak.input_advice.sentence.startswith("Use the low-level input: 0.5 V reach it")
    assert not weak.input_advice.settled
    strong = first_path(with_parts(SHEET, amplifier={"high_level_range": HIGH}, source=giving(9)))
    assert strong.knob.state is KnobState.FULLY_DOWN
    remedy = next(finding.remedy for finding in strong.findings if finding.key == "source-strong")
    assert remedy.startswith("Use the high-level input")
    nothing = first_path(with_parts(SHEET, source=giving(9)))
    assert nothing.input_advice.sentence.startswith("The low-level input doesn’t fit: ")
    assert "range of its low-level input isn’t known" in (
        first_path(with_parts(SHEET, amplifier={"gain_range": None})).input_advice.sentence
    )


def test_an_input_is_overdriven_before_its_gain_control() -> None:
    limit = {"highest_input_v": 4.0}
    assert "amplifier-input-over" not in finding_keys(with_parts(SHEET, amplifier=limit))
    over = with_parts(SHEET, amplifier=limit, source=giving(5))
    assert finding_keys(over)["amplifier-input-over"] is Severity.STOP
    # The limit of the high-level input is another.
    high = limit | {"high_level_range": HIGH, "highest_high_level_v": 20.0}
    assert "amplifier-input-over" not in finding_keys(
        with_parts(SHEET, amplifier=high, source=giving(5), path={"input": "high"})
    )


def test_a_bare_knob_is_told_as_a_position_only() -> None:
    bare = first_path(with_parts(SHEET, amplifier={"gain_printed": False})).knob
    assert "on its scale" not in bare.sentence
    assert "o’clock" in bare.sentence
    assert bare.travel == first_path(SHEET).knob.travel


@pytest.mark.parametrize(
    ("path", "key", "severity"),
    [
        ({"leads": 2, "routing": "own"}, None, None),
        ({"leads": 0, "routing": "shared"}, None, None),
        ({"leads": 0, "routing": "own"}, "no-signal", Severity.STOP),
        ({"leads": 0}, "no-signal", Severity.STOP),
        ({"leads": 2, "routing": "shared"}, "leads-unused", Severity.RISK),
        ({"leads": 1}, "one-lead", Severity.NOTE),
        ({}, None, None),
    ],
)
def test_the_routing_switch_against_the_leads(
    path: dict[str, object], key: str | None, severity: Severity | None
) -> None:
    stands = {"routing": path["routing"]} if "routing" in path else {}
    leads = {field: value for field, value in path.items() if field != "routing"}
    found = {
        text: finding_keys(with_parts(SHEET, path=leads, amplifier=stands)).get(text)
        for text in ("no-signal", "leads-unused", "one-lead")
    }
    assert {name: kind for name, kind in found.items() if kind} == ({key: severity} if key else {})


def switched(position: SwitchPosition | None, *active: SwitchPosition) -> JobSheet:
    chain = with_filters(line_output_pair(), "front", a_filter(Pass.HIGH, 80, active_in=active))
    return with_parts(JobSheet(chain=chain), path={"filter_switch": position})


def test_a_filter_is_in_the_signal_only_where_its_switch_leaves_it() -> None:
    out = plan(switched(SwitchPosition.LOW, SwitchPosition.HIGH, SwitchPosition.BAND))
    assert out.crossovers.corners == ()
    assert max(map(abs, out.crossovers.responses[0].level_db)) < 1e-9
    assert "idle-filter.0" in {finding.key for finding in out.paths[0].findings}
    kept = plan(switched(SwitchPosition.HIGH, SwitchPosition.HIGH))
    assert len(kept.crossovers.corners) == 1
    assert not any(finding.key.endswith(".0") for finding in kept.paths[0].findings)
    # A trap: the high-pass that some amplifiers keep at "flat".
    trap = plan(switched(SwitchPosition.FLAT, SwitchPosition.FLAT, SwitchPosition.HIGH))
    assert len(trap.crossovers.corners) == 1
    assert "stays-active.0" in {finding.key for finding in trap.paths[0].findings}
    # No switch: always in.
    assert len(plan(switched(None, SwitchPosition.HIGH)).crossovers.corners) == 1


def test_a_boost_moves_the_tone_to_where_it_is_highest() -> None:
    sub = JobSheet(chain=LAYOUTS["sub"])
    boost = {"frequency_hz": 45, "gain_db": 9, "q": 1.5}
    path = first_path(with_parts(sub, path={"boost": boost}))
    assert path.tone.frequency_hz == pytest.approx(45, rel=0.06)
    assert "boost" in {finding.key for finding in path.findings}
    assert "boost" not in finding_keys(with_parts(sub, path={"boost": boost | {"gain_db": 0}}))
    # The target is volts at the terminals, whatever lifted them there; the gain has less to do.
    plain = first_path(sub)
    assert path.target.value == plain.target.value
    assert path.input_v == plain.input_v
    lifted = first_path(with_parts(sub, path={"boost": boost | {"gain_db": 3}}))
    at_tone = abs(EqualiserBand(**boost | {"gain_db": 3}).response(np.array([lifted.tone.frequency_hz]))[0])
    assert 1.3 < at_tone < 10 ** (3 / 20)
    assert lifted.knob.printed_v / plain.knob.printed_v == pytest.approx(at_tone, rel=1e-3)


def converter(chain: Chain, **fields: object) -> JobSheet:
    processor = chain.processors[0].model_copy(update=fields)
    return JobSheet(chain=chain.model_copy(update={"processors": (processor,)}))


def test_a_converter_that_senses_needs_speaker_leads() -> None:
    chain = LAYOUTS["converter"]
    assert "offset.converter" in finding_keys(converter(chain, turn_on=TurnOn.SENSING))
    line = chain.model_copy(
        update={
            "sources": (with_parts(SHEET, source=giving(4)).chain.sources[0],),
            "paths": (chain.paths[0].model_copy(update={"output": "line"}),),
        }
    )
    assert "no-offset.converter" in finding_keys(converter(line, turn_on=TurnOn.SENSING))
    assert not {"offset.converter", "no-offset.converter"} & finding_keys(converter(chain)).keys()


def test_a_converter_is_told_what_to_be_trimmed_to() -> None:
    chain = LAYOUTS["converter"]
    (clean,) = first_path(converter(chain)).trims
    assert clean.sentence.startswith("Trim the converter to 5 V, left and right alike")
    low = first_path(with_parts(converter(chain), choices={"converter_output": "1.5"}))
    assert "to 1.5 V" in low.trims[0].sentence
    # A range that begins above the method's volts can't go below its own end.
    held = first_path(with_parts(converter(chain, lowest_output_v=2.5), choices={"converter_output": "1.5"}))
    assert held.input_v == 2.5
    # Watts that its input takes are volts: 100 W into 4 ohm, 20 V.
    assert "input-over.converter" not in finding_keys(converter(chain, highest_input=Stated(watts=100)))
    assert "input-over.converter" in finding_keys(converter(chain, highest_input=Stated(watts=10)))


def test_a_source_that_is_not_flat_is_told_setting_by_setting() -> None:
    tone = {"bass": 3, "balance": -2, "loudness": True, "sub_level": 4}
    inputs = [{"kind": "disc"}, {"kind": "wired_phone", "trim_db": 6}]
    sheet = with_parts(SHEET, source={"tone": tone, "inputs": inputs})
    found = {finding.key: finding for finding in plan(sheet).findings}
    assert "bass at +3, balance at −2, loudness on" in found["not-flat.source"].reason
    assert "phone by wire at +6 dB" in found["trims.source"].reason
    assert "lowest clean number counts" in found["ways.source"].remedy
    step = steps_of(sheet)["ceiling.source.line.disc"]
    told = {dependency.label: dependency.shown for dependency in rests_on(sheet, step.point)}
    assert (told["bass"], told["balance"], told["loudness"], told["sub level"]) == ("+3", "−2", "on", "+4")
    assert told["level trim, phone by wire"] == "+6.0 dB"
    assert "Play by disc." in step.do
    assert "Play by phone by wire." in steps_of(sheet)["ceiling.source.line.wired-phone"].do
    assert plan(with_parts(SHEET, source={"tone": FLAT, "inputs": inputs[:1]})).findings == ()


@pytest.mark.parametrize(
    ("stated", "asked"),
    [
        ({"volts": 4.0}, False),
        ({"volts": 400.0}, True),
        ({"volts": None, "watts": 200.0, "load_ohm": 4.0}, True),
        ({"volts": None}, False),
    ],
)
def test_four_hundred_volts_on_a_line_output_are_asked_about(stated: dict[str, float | None], asked: bool) -> None:
    chain = line_output_pair()
    source = chain.sources[0]
    output = source.outputs[0].model_copy(update={"rated": Stated.model_validate(stated)})
    odd = chain.model_copy(update={"sources": (source.model_copy(update={"outputs": (output,)}),)})
    titles = [finding.title for finding in plan(JobSheet(chain=odd)).findings]
    assert any("is it really" in title for title in titles) is asked


def test_a_factory_radio_is_measured_with_the_cautions_of_an_amplifier() -> None:
    step = steps_of(speaker_level())["ceiling.source.front"]
    assert {caution.key for caution in step.cautions} == {"speakers-off", "earthed-scope"}
    assert "across its two leads" in (step.probe or "")
    # 300 W into 4 ohm are 34.6 V.
    strong = {"outputs": [{"id": "front", "kind": "speaker", "rated": {"watts": 300}}]}
    wanted = steps_of(speaker_level(source=strong))["ceiling.source.front"]
    assert "hazardous-live" in {caution.key for caution in wanted.cautions}
    assert [caution.key for caution in steps_of(SHEET)["ceiling.source.line"].cautions] == ["speakers-off"]


def test_parts_that_no_path_uses_are_told() -> None:
    chain = LAYOUTS["front-rear"]
    spare = chain.amplifiers[0].model_copy(update={"id": "spare", "name": "Brackwater Spare"})
    load = chain.loads[0].model_copy(update={"id": "loose"})
    more = chain.model_copy(update={"amplifiers": (*chain.amplifiers, spare), "loads": (*chain.loads, load)})
    titles = [finding.title for finding in plan(JobSheet(chain=more)).findings]
    assert titles == ["Brackwater Spare isn’t connected", "loose isn’t connected"]


def test_another_output_of_the_measured_source_follows_its_rating() -> None:
    chain = LAYOUTS["front-rear"]
    source = Source.model_validate(
        chain.sources[0].model_dump()
        | {"outputs": [{"id": "front", "rated": {"volts": 4}}, {"id": "rear", "rated": {"volts": 2}}]}
    )
    sheet = JobSheet(chain=chain.model_copy(update={"sources": (source,)}))
    taken = CleanMaximum(volume=31, voltage_v=3.0, uncertainty_v=0.03, basis=Basis.MARKED)
    planned = plan(sheet, measured(sheet, taken)).paths
    assert [path.source_v for path in planned] == [3.0, 1.5]
    assert [path.source_because for path in planned] == [
        "",
        "Measured at another output only; this output is scaled from it by the ratings.",
    ]
    # Without a rating of the one that was measured there is nothing to go by.
    bare = source.outputs[0].model_copy(update={"rated": Stated()})
    unread = source.model_copy(update={"outputs": (bare, source.outputs[1])})
    sheet = JobSheet(chain=chain.model_copy(update={"sources": (unread,)}))
    planned = plan(sheet, measured(sheet, taken)).paths
    assert [path.source_v for path in planned] == [3.0, 2.0]
    assert "uses its rated volts" in planned[1].source_because


def test_a_limiter_and_a_one_sided_output_change_the_run() -> None:
    assert "match.front" in steps_of(SHEET)
    mono = with_parts(SHEET, source={"outputs": [{"id": "line", "sides": "mono", "rated": {"volts": 4}}]})
    assert "match.front" not in steps_of(mono)
    assert "match.front" not in steps_of(with_parts(SHEET, amplifier={"channels": 1}))
    held = steps_of(with_parts(SHEET, amplifier={"limiter": True}))["gain.front"]
    assert any("the limiter acts: go one click back" in line for line in held.do)


def test_a_mono_amplifier_cannot_be_bridged() -> None:
    chain = line_output_pair().model_dump(mode="json")
    chain["amplifiers"][0]["channels"] = 1
    chain["paths"][0]["mode"] = "bridged"
    with pytest.raises(ValidationError, match="can’t be bridged"):
        Chain.model_validate(chain)


def test_a_filter_of_the_source_counts_before_the_amplifier() -> None:
    chain = with_filters(line_output_pair(), "front", a_filter(Pass.LOW, 100, place=FilterPlace.SOURCE))
    path = first_path(JobSheet(chain=chain))
    # Nothing passes at 1 kHz: the tone moves to where the path plays, nearest to the habit.
    assert path.tone.frequency_hz <= 100


@pytest.mark.parametrize(
    ("over_db", "kind", "severity"),
    [
        # An input of 4 V, a gain whose top is 0.2 V for full output, accepted from −0.5 to +0.2 dB of the target.
        (0.3, "amplifier-input-over", "note"),
        (0.8, "amplifier-input-over", "stop"),
    ],
)
def test_an_input_a_little_over_is_no_reason_to_stop(over_db: float, kind: str, severity: str) -> None:
    sheet = with_parts(SHEET, amplifier={"highest_input_v": 4.0 * 10 ** (-over_db / 20)})
    (found,) = (cause for cause in plan(sheet).causes if cause.kind == kind)
    assert found.severity == severity


@pytest.mark.parametrize(("short_db", "severity"), [(0.4, "note"), (0.7, "risk")])
def test_a_knob_that_ends_within_what_is_accepted_is_no_risk(short_db: float, severity: str) -> None:
    # 75 W into 4 Ω for 0.2 V at the top; speakers of 60 W are 0.97 dB below that.
    needed_v = 0.2 * (60 / 75) ** 0.5
    sheet = with_parts(SHEET, source=giving(needed_v * 10 ** (-short_db / 20)))
    (found,) = (cause for cause in plan(sheet).causes if cause.kind == "source-weak")
    assert found.severity == severity
