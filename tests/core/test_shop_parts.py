"""Parts of the shop: put into a system, and stated against measured over several units."""

from datetime import date

import pytest

from tests.core.helpers import LAYOUTS, answers, mark, reading, row_reading, steps_of
from upper_rook.core.common.errors import BadInput, NotFound
from upper_rook.core.parts.for_a_job import with_part
from upper_rook.core.parts.part_report import part_report
from upper_rook.core.parts.shop_part import FigureKind, PartFigure, PartUnit, ShopPart, with_unit
from upper_rook.core.run.readings.records import Eye
from upper_rook.core.run.result.part_figures import amplifier_figures
from upper_rook.core.run.result.progress import progress, run_of
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.core.system.amplifier import Amplifier, Rating, Section
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates
from upper_rook.core.system.loads import Load

FOUR = ShopPart(
    amplifier=Amplifier(
        id="part",
        name="Brackwater Quad",
        ratings=(Rating(power_w=75, load_ohm=4),),
        sections=(Section(id="a"), Section(id="b")),
    )
)


def watts(measured: float, stated: float | None = 75) -> PartFigure:
    return PartFigure(
        kind=FigureKind.LOADED_WATTS,
        at="into 4 Ω",
        stated=stated,
        measured=measured,
        doubt=2.0,
        taken_on=date(2026, 5, 2),
    )


def test_stated_against_measured_counts_each_unit_once() -> None:
    part = FOUR
    for number, value in enumerate((70.5, 66.0, 69.0)):
        part = with_unit(part, PartUnit(id=f"job-{number}", figures=(watts(value),)))
    (row,) = part_report(part)
    # By hand: median 69.0 W of 75 W is 8 % less.
    assert (row.lowest, row.usual, row.highest, row.count) == (66.0, 69.0, 70.5, 3)
    assert row.off_percent == pytest.approx(-8.0)
    assert row.sentence == "66 W to 70.5 W ± 2 W, 8 % less than stated (75 W)."
    # Measured again in the same vehicle it takes the former one's place.
    again = with_unit(part, PartUnit(id="job-1", figures=(watts(75.0), watts(10.0, None))))
    assert [(row.count, row.highest) for row in part_report(again)] == [(1, 10.0), (3, 75.0)]
    assert part_report(again)[0].sentence == "10 W ± 2 W; nothing is stated."
    assert part_report(with_unit(FOUR, PartUnit(id="x", figures=(watts(75.2),))))[0].sentence == (
        "75.2 W ± 2 W: within that as stated (75 W)."
    )


@pytest.mark.parametrize("layout", ["four-channel", "front"])
def test_an_amplifier_of_the_shop_takes_the_place_of_the_one_in_the_system(layout: str) -> None:
    template = next(template for template in templates() if template.key == layout)
    sheet = JobSheet(chain=template.chain, not_confirmed=template.not_confirmed)
    before = sheet.chain.amplifiers[0]
    changed = with_part(sheet, f"amplifiers.{before.id}", FOUR)
    now = changed.chain.amplifiers[0]
    assert FOUR.amplifier is not None
    assert (now.id, now.name, now.ratings) == (before.id, "Brackwater Quad", FOUR.amplifier.ratings)
    used = [path.section for path in changed.chain.paths]
    assert used == ["a", "b"][: len(used)]
    # The shop's figures need nobody to confirm them; where the amplifier sits is the vehicle's.
    assert {mark.place.split(".")[0] for mark in changed.not_confirmed} == {"sources", "loads", "paths"} - (
        {"paths"} if layout == "front" else set()
    )
    assert (now.place, now.turn_on) == (before.place, before.turn_on)


@pytest.mark.parametrize("layout", LAYOUTS)
def test_every_part_of_every_layout_takes_its_own_figures_back(layout: str) -> None:
    sheet = JobSheet(chain=LAYOUTS[layout])
    for kind, field in (("amplifiers", "amplifier"), ("processors", "processor"), ("loads", "speakers")):
        for part in getattr(sheet.chain, kind):
            shop = ShopPart.model_validate({field: part.model_dump()})
            assert with_part(sheet, f"{kind}.{part.id}", shop).chain == sheet.chain


def test_what_does_not_fit_is_refused_with_what_to_do() -> None:
    sheet = JobSheet(chain=LAYOUTS["four-channel"])
    place = f"amplifiers.{sheet.chain.amplifiers[0].id}"
    speakers = ShopPart(speakers=Load(id="part", name="Marram"))
    with pytest.raises(BadInput, match="no speakers"):
        with_part(sheet, place, speakers)
    with pytest.raises(NotFound):
        with_part(sheet, "amplifiers.gone", FOUR)
    shop_part = ShopPart(amplifier=Amplifier(id="part", name="Twin", ratings=(Rating(power_w=55, load_ohm=4),)))
    with pytest.raises(BadInput, match="has 1 section, and the system uses 2: give the other paths"):
        with_part(sheet, place, shop_part)
    for parts in ({}, {"speakers": speakers.speakers, "amplifier": shop_part.amplifier}):
        with pytest.raises(ValueError, match="exactly one"):
            ShopPart(**parts)


def test_an_amplifier_tells_its_watts_its_scale_and_its_dials() -> None:
    sheet = JobSheet(chain=LAYOUTS["front-sub"])
    key, sub = "ceiling.source.front", sheet.chain.paths[1]
    marks = [*answers(sheet), mark(key, basis="marked", volume=31)]
    steps = steps_of(sheet)
    readings = [reading(steps[key], 31, 3.8, Eye.CLEAN)]
    run = progress(sheet, tuple(readings), tuple(marks))
    gain = next(step for step in run.steps if step.key == "gain.sub")
    knob = next(path for path in run.plan.paths if path.path == "sub").knob
    assert knob.travel is not None
    assert knob.printed_v is not None
    beside = gain.model_copy(update={"rows": gain.beside})
    target_v = gain.target.value if gain.target else 0.0
    readings += [
        reading(gain, 31, target_v, builds_on=gain.builds_on),
        row_reading(beside, "loaded", 33.0, builds_on=gain.builds_on),
        row_reading(beside, "knob", 0.5, builds_on=gain.builds_on),
    ]
    corner = next(step for step in run.steps if step.key == "corner.sub.1")
    # A Butterworth of 24 dB an octave at 100 Hz leaves at 80 Hz 1/√(1 + 0.8⁸) of its volts: 0.9256.
    open_v = 20.0
    readings += [
        row_reading(corner, "open", open_v, builds_on=corner.builds_on),
        row_reading(corner, "now", open_v * 0.9256, builds_on=corner.builds_on),
    ]
    marks.append(mark("seal", item="dial.sub.1", answer="done", note="80 Hz"))
    snapshot = JobSnapshot(sheet, tuple(readings), tuple(marks), lambda _version: sheet)
    found = {figure.kind: figure for figure in amplifier_figures(snapshot, run_of(snapshot), sub.amplifier)}
    loaded = found[FigureKind.LOADED_WATTS]
    # 33² / 4 Ω = 272.25 W where 300 W are stated; 1 % of volts are 2 % of watts.
    assert (loaded.measured, loaded.stated, loaded.at) == (pytest.approx(272.25), 300.0, "into 4 Ω")
    assert loaded.doubt == pytest.approx(0.02 * 272.25)
    dial = found[FigureKind.DIAL]
    assert (dial.stated, dial.measured) == (80.0, pytest.approx(100.0, rel=0.01))
    scale = found[FigureKind.GAIN_SCALE]
    # Half of a travel from 6 V to 0.2 V, taken as logarithmic, is √(6 × 0.2) = 1.095 V.
    assert (scale.stated, scale.measured) == (pytest.approx(1.0954, abs=1e-3), pytest.approx(knob.printed_v))
    assert FigureKind.OPEN_WATTS not in found
    assert amplifier_figures(snapshot, run_of(snapshot), "none") == ()
    # A place by the clock or a word is no hertz.
    marks[-1] = mark("seal", item="dial.sub.1", answer="done", note="2 o’clock")
    worded = JobSnapshot(sheet, tuple(readings), tuple(marks), lambda _version: sheet)
    assert FigureKind.DIAL not in {figure.kind for figure in amplifier_figures(worded, run_of(worded), sub.amplifier)}
    # Under another load the volts that were read are of no use: the step is to redo, and tells nothing.
    loads = tuple(load.model_copy(update={"impedance_ohm": 2.0}) for load in sheet.chain.loads)
    other = sheet.model_copy(update={"chain": sheet.chain.model_copy(update={"loads": loads})})
    changed = JobSnapshot(other, tuple(readings), tuple(marks), {1: sheet, 2: other}.__getitem__)
    kinds = {figure.kind for figure in amplifier_figures(changed, run_of(changed), sub.amplifier)}
    assert FigureKind.LOADED_WATTS not in kinds
    assert FigureKind.GAIN_SCALE not in kinds
