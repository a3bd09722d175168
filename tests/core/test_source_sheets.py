"""Source sheets: what governs, what to set, what settings cost, on simulated sources and by hand."""

import math
from datetime import date
from typing import Any

import numpy as np
import pytest
import scipy.stats
from pydantic import ValidationError

from upper_rook.core.common.stated import Stated
from upper_rook.core.physics.source import SourceModel
from upper_rook.core.sources.combinations import best, costs
from upper_rook.core.sources.source_report import beside, report
from upper_rook.core.sources.source_sheet import Cell, SheetOutput, SourceSheet, Tried, Unit
from upper_rook.core.sources.spread import spreads
from upper_rook.core.sources.text import source_text
from upper_rook.core.system.clean_maximum import VolumeReading
from upper_rook.core.system.playing import InputKind
from upper_rook.core.system.source import OutputKind

FRONT = SheetOutput(id="front", name="Front", rated=Stated(volts=4.0))
REAR = SheetOutput(id="rear", name="Rear", rated=Stated(volts=4.0))
TAPS = SheetOutput(id="taps", name="Speakers", kind=OutputKind.SPEAKER, rated=Stated(watts=20.0))
TRIMS_DB = (-6.0, -3.0, 0.0, 3.0, 6.0)
SEEDS = 200


def sheet(*cells: Cell, tried: tuple[Tried, ...] = (), **changed: Any) -> SourceSheet:
    unit = Unit(id="one", cells=cells, tried=tried)
    return SourceSheet(name="Lanthorn R4", top_volume=40, outputs=(FRONT, REAR, TAPS), units=(unit,), **changed)


def simulated(seed: int) -> tuple[SourceModel, list[Cell], dict[float, float]]:
    """A source with a trim, each trim's volume steps as a careful person reads them, and its true clean volts."""
    dice = np.random.default_rng([seed, 14])
    model = SourceModel(
        top_volume=40,
        clean_v=float(dice.uniform(1.8, 5.0)),
        overdrive_db=float(dice.uniform(4, 12)),
        step_db=float(dice.uniform(0.7, 1.4)),
        unevenness_db=float(dice.uniform(0.0, 0.1)),
    )
    cells, truth = [], {}
    for trim_db in TRIMS_DB:
        levels = {number: model.volts(number) * 10 ** (trim_db / 20) for number in range(10, 41)}
        clean = max(number for number, volts in levels.items() if volts <= model.clean_v)
        truth[trim_db] = levels[clean]
        read = {number: volts * (1 + dice.normal(0, 0.002)) for number, volts in levels.items() if number <= clean}
        cells.append(
            Cell(
                output="front",
                trim=f"{trim_db:+g}" if trim_db else "",
                clean=clean,
                clean_v=read[clean],
                clipped=clean + 1 if clean < 40 else None,
                volume_readings=tuple(VolumeReading(volume=number, voltage_v=volts) for number, volts in read.items()),
            )
        )
    return model, cells, truth


def test_the_governing_number_is_the_last_clean_one_and_the_best_combination_is_near_the_true_best() -> None:
    near = 0
    for seed in range(SEEDS):
        model, cells, truth = simulated(seed)
        told = report(sheet(*cells))
        assert told.governing is not None
        assert told.governing.volume == max(n for n in range(10, 41) if model.volts(n) <= model.clean_v)
        found = best(sheet(*cells), sheet(*cells).units[0], "front")
        assert found is not None
        chosen = float(found.cell.trim or 0)
        near += 20 * math.log10(max(truth.values()) / truth[chosen]) <= 0.2
    assert near >= 0.95 * SEEDS


def test_what_a_setting_costs_is_told_in_decibels_and_in_numbers() -> None:
    for seed in range(SEEDS):
        dice = np.random.default_rng([seed, 15])
        true_db = float(dice.uniform(-8, 8))
        flat = 1.5 * (1 + dice.normal(0, 0.002))
        lifted = 1.5 * 10 ** (true_db / 20) * (1 + dice.normal(0, 0.002))
        tried = Tried(setting="Loudness", output="front", volume=20, without_v=flat, with_v=lifted)
        (cost,) = costs(sheet(tried=(tried,)).units[0])
        assert abs(cost.db - true_db) <= 0.1
    moved = tried.model_copy(update={"clean_without": 32, "clean_with": 26})
    assert costs(sheet(tried=(moved,)).units[0])[0].words.endswith("it clips 6 numbers earlier.")


def cell(output: str = "front", clean: int = 30, volts: float = 3.5, **also: Any) -> Cell:
    return Cell(output=output, clean=clean, clean_v=volts, **also)


def test_line_outputs_govern_and_its_own_amplifier_is_warned_of() -> None:
    told = report(sheet(cell(), cell("rear", 32, 3.9), cell("taps", 20, 8.0)))
    assert told.governing is not None
    assert told.governing.words == "30, by Front"
    assert [never_pass.volume for never_pass in told.never_pass] == [30]
    assert any("don’t drive speakers from it above 20" in one for one in told.advice)
    # Rear at 30, two numbers below where it was read: a decibel a number.
    assert told.lowest == "Rear gives the least: 3.098 V at 30"
    assert any(text.startswith("Front gives 3.5 V clean of the 4 V that are stated: 88 %") for text in told.advice)


def test_ways_are_compared_at_the_same_number() -> None:
    volume_readings = (VolumeReading(volume=28, voltage_v=2.78), VolumeReading(volume=30, voltage_v=3.5))
    wired = cell(way=InputKind.WIRED_PHONE, volume_readings=volume_readings)
    alike = cell(clean=30, volts=3.51, way=InputKind.WIRELESS_PHONE)
    assert "By phone by wire and by phone, wireless it agrees within 0.1 dB." in report(sheet(wired, alike)).advice
    quieter = cell(clean=32, volts=3.5, way=InputKind.WIRELESS_PHONE)
    assert any("−2.0 dB against phone by wire" in one for one in report(sheet(wired, quieter)).advice)
    assert {never_pass.way: never_pass.volume for never_pass in report(sheet(wired, quieter)).never_pass} == {
        InputKind.WIRED_PHONE: 30,
        InputKind.WIRELESS_PHONE: 32,
    }


def test_the_spread_of_units_tells_how_far_to_trust_the_next() -> None:
    units = tuple(
        Unit(id=f"unit-{number}", cells=(cell(volts=volts, taken_on=date(2026, 5, number + 1)),))
        for number, volts in enumerate((3.4, 3.5, 3.6))
    )
    three = SourceSheet(name="R4", top_volume=40, outputs=(FRONT,), units=units)
    (found,) = spreads(three)
    levels = [20 * math.log10(volts) for volts in (3.4, 3.5, 3.6)]
    # A prediction interval, with Student's t from scipy.
    factor = scipy.stats.t.ppf(0.975, 2) * math.sqrt(4 / 3)
    assert found.next_db == pytest.approx(factor * np.std(levels, ddof=1), rel=1e-3)
    assert (found.units, three.unit().id) == (3, "unit-2")  # type: ignore[union-attr]
    assert spreads(sheet(cell()))[0].next_db == 1.0


def test_units_that_were_measured_at_other_trims_are_compared_best_against_best() -> None:
    units = (
        Unit(id="one", name="Heron", cells=(cell(volts=3.4), cell(volts=3.1, trim="+3"))),
        Unit(id="two", name="Gannet", cells=(cell(volts=3.6, trim="-3"),)),
    )
    two = SourceSheet(name="R4", top_volume=40, outputs=(FRONT,), units=units)
    *single, best = spreads(two)
    assert all(spread.units == 1 and not spread.best_at for spread in single)
    assert best.units == 2
    assert best.apart_db == pytest.approx(20 * math.log10(3.6 / 3.4))
    assert best.best_at == ("Heron: its settings left alone", "Gannet: trim -3")
    # What is alike in both is compared as it is, and nothing else is.
    alike = two.model_copy(update={"units": (units[0], Unit(id="two", cells=(cell(volts=3.5),)))})
    assert [spread.units for spread in spreads(alike)] == [2, 1]
    assert not any(spread.best_at for spread in spreads(alike))


@pytest.mark.parametrize(
    ("cells", "said"),
    [
        ([{"output": "front", "clean": 30, "clipped": 30}], "clean at 30 and clipped at 30"),
        (
            [
                {
                    "output": "front",
                    "clean": 30,
                    "rungs": [{"volume": 20, "voltage_v": 2.0}, {"volume": 21, "voltage_v": 1.8}],
                }
            ],
            "the volts fall from 2 at 20 to 1.8 at 21",
        ),
        ([{"output": "front", "clean": 41}], "beyond the end of the scale"),
        ([{"output": "side", "clean": 20}], "no output of this source"),
        ([{"output": "front", "clean": 20}, {"output": "front", "clean": 21}], "appear twice"),
    ],
)
def test_what_contradicts_itself_is_refused(cells: list[dict[str, Any]], said: str) -> None:
    with pytest.raises(ValidationError, match=said):
        SourceSheet.model_validate(
            {"name": "R4", "top_volume": 40, "outputs": [{"id": "front"}], "units": [{"id": "one", "cells": cells}]}
        )


def test_a_unit_of_another_scale_is_no_unit_of_this_source() -> None:
    with pytest.raises(ValidationError, match="scale ends at 62, the sheet’s at 40"):
        sheet().model_validate(sheet().model_dump() | {"units": [{"id": "odd", "top_volume": 62}]})


def test_two_sheets_side_by_side() -> None:
    other = sheet(cell(volts=3.9, clean=33))
    (found,) = beside(sheet(cell()), other)
    assert (found.words, found.clean, round(found.db or 0, 2)) == ("Front", (30, 33), 0.94)


def test_the_text_tells_all_of_it() -> None:
    tried = Tried(setting="Loudness", output="front", volume=20, without_v=1.0, with_v=2.0)
    full = sheet(cell(), cell("rear", 32, 3.9), cell(trim="+3", volts=3.6, clean=27), tried=(tried,))
    text = "\n".join(source_text(full, report(full)))
    assert "Governing number: 30, by Front" in text
    assert "Front, trim +3: clean maximum 27: 3.6 V, +0.2 dB against its settings left alone at 30" in text
    assert "Loudness gives 6.0 dB at 20." in text
    assert "Rear, stated 4 V: as played clean maximum 32, 3.9 V (−0.2 dB of what is stated)" in text
    empty = SourceSheet(name="R4", top_volume=40, outputs=(FRONT,))
    assert list(source_text(empty, report(empty)))[-1] == "Nothing was measured yet."
