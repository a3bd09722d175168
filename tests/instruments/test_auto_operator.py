"""A careful person at the simulated bench comes near what is wanted, and hands over no number that clips."""

from pathlib import Path

import numpy as np
import pytest

from tests.command import run
from tests.core.helpers import LAYOUTS, with_parts
from tests.reference.worked_systems import SYSTEMS
from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import from_db
from upper_rook.core.physics.faults import Fault
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.formats.job_file import read_job
from upper_rook.instruments.ears import LEAST_PERCENT, MOST_PERCENT, Ears
from upper_rook.instruments.simulation import Simulation, simulate

ROOT = Path(__file__).parents[2]


def stands(done: Simulation) -> None:
    """Volts within half a decibel, corners within 5 %, and nothing that clips at the number handed over."""
    assert done.complete
    assert not done.open
    for path in done.paths:
        assert path.settled == "clipped_first" or abs(path.off_db) <= 0.5
        assert not path.clips
    for corner in done.corners:
        assert abs(corner.off_percent) <= 5
    for number in done.numbers:
        assert number.last_clean - 1 <= number.volume <= number.last_clean


@pytest.mark.parametrize("layout", ["front-rear-sub", "converter", "strapped-sub", "high-level", "five-channel"])
@pytest.mark.parametrize("seed", [1, pytest.param(12, marks=pytest.mark.deep)])
def test_with_a_scope(layout: str, seed: int) -> None:
    stands(simulate(JobSheet(chain=LAYOUTS[layout]), seed))


@pytest.mark.parametrize("seed", [1, pytest.param(5, marks=pytest.mark.deep)])
def test_with_a_meter_alone(seed: int) -> None:
    stands(simulate(JobSheet(chain=LAYOUTS["front-rear-sub"]), seed, scope=False))


@pytest.mark.parametrize("seed", [1, 2])
def test_a_weak_amplifier_is_turned_down_for_its_load(seed: int) -> None:
    """Clean at open terminals, it clips with the speakers on: the step says how far down, and then nothing clips."""
    sheet = read_job((SYSTEMS / "healthy-two-way-front-sub.json").read_bytes())
    done = simulate(sheet, seed, faults=(Fault.WEAK_AMPLIFIER,))
    assert done.complete
    assert [path.settled for path in done.paths] == ["clipped_first"] * len(done.paths)
    assert not any(path.clips for path in done.paths)


@pytest.mark.parametrize("meter", ["true-rms", "average"])
def test_with_a_meter_that_reads_low_beyond_its_band(meter: str) -> None:
    """What such a meter promises nothing for is read on the scope, whose figure is good to 3 %."""
    sheet = JobSheet(chain=LAYOUTS["active-two"])
    choices = sheet.choices.model_copy(update={"meter": meter})
    stands(simulate(sheet.model_copy(update={"choices": choices}), 3, meter=meter))


def test_the_same_seed_is_the_same_bench_and_another_is_another() -> None:
    sheet = JobSheet(chain=LAYOUTS["front-rear"])
    assert simulate(sheet, 4) == simulate(sheet, 4)
    assert simulate(sheet, 4).paths != simulate(sheet, 5).paths


def test_what_clips_before_the_amplifier_is_seen_and_no_gain_is_bent_for_it() -> None:
    chain = LAYOUTS["active-two"]
    lifted = chain.paths[0].model_copy(update={"channel_gain_db": 6.0})
    done = simulate(JobSheet(chain=chain.model_copy(update={"paths": (lifted, *chain.paths[1:])})), 2)
    assert [path.clips_before for path in done.paths] == [True, False]


def test_ordinary_mistakes_are_drawn_by_the_seed_and_never_pass_for_more_than_they_are() -> None:
    sheet, made = JobSheet(chain=LAYOUTS["front"]), 0
    assert simulate(sheet, 1, mistakes=True) == simulate(sheet, 1, mistakes=True)
    assert simulate(sheet, 1).mistakes == 0
    for seed in range(1, 7):
        done = simulate(sheet, seed, mistakes=True)
        made += done.mistakes
        # A climb that ends late hands over one number too many at the most; misread volts are off by no more than that.
        assert all(number.volume <= number.last_clean + 1 for number in done.numbers)
        assert all(abs(path.off_db) < 0.5 for path in done.paths if not path.settled)
    assert made > 3


def test_a_job_of_which_nothing_can_be_planned() -> None:
    chain = LAYOUTS["front"]
    bare = chain.model_copy(update={"amplifiers": (chain.amplifiers[0].model_copy(update={"ratings": ()}),)})
    with pytest.raises(BadInput, match="Nothing of this system can be planned"):
        simulate(JobSheet(chain=bare))


def test_the_command_tells_what_was_set_against_what_is_really_so() -> None:
    command = ["simulate", ROOT / "examples/strapped-sub.json", "--seed", "3"]
    shown = run(*command).stdout
    assert "source: never pass 31; true clean maximum 31" in shown
    assert "Sub: wanted 44.72 V, set to" in shown
    assert Simulation.model_validate_json(run(*command, "--json").stdout).complete


@pytest.mark.parametrize("layout", ["front", "four-channel"])
def test_by_ear_the_run_is_complete_and_late_by_what_ears_are(layout: str) -> None:
    sheet = with_parts(JobSheet(chain=LAYOUTS[layout]), choices={"meter": "ear"})
    for seed in (1, 2):
        done = simulate(sheet, seed, scope=False)
        assert done.complete
        # 3 % of distortion are 0.7 dB of clipping (the closed form of a clipped sine): one number at the most.
        assert all(0 <= number.volume - number.last_clean <= 1 for number in done.numbers)


def test_ears_hear_what_the_closed_form_says() -> None:
    # Past its clip point by 0.25 dB a sine has 1 % of distortion, by 0.8 dB 3.7 %: its closed form.
    sine = np.sin(2 * np.pi * np.arange(4096) / 4096)
    for seed in range(20):
        ears = Ears(seed)
        assert LEAST_PERCENT <= ears.from_percent <= MOST_PERCENT
        assert not ears.is_harsh(sine)
        assert not ears.is_harsh(np.clip(sine * from_db(0.2), -1, 1))
        assert ears.is_harsh(np.clip(sine * from_db(0.8), -1, 1))
