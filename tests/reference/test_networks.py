"""Loads and filter chains against ngspice, which solves the same circuits by itself."""

import subprocess
from pathlib import Path

import numpy as np
import pytest

from upper_rook.core.crossover.path_responses import capacitor_of
from upper_rook.core.signal.filters import Crossover, Pass, total_db
from upper_rook.core.system.loads import Driver, Load, Wiring


def spice(folder: Path, elements: str, analysis: str, what: str) -> np.ndarray:
    """The columns that ngspice writes for `what`."""
    out, deck = folder / "out.txt", folder / "deck.cir"
    deck.write_text(
        f"network\n{elements}\n.control\nset wr_singlescale\n{analysis}\nwrdata {out} {what}\nquit\n.endc\n.end\n",
        "utf-8",
    )
    subprocess.run(["ngspice", "-b", str(deck)], capture_output=True, timeout=60, check=False)
    return np.atleast_2d(np.loadtxt(out))


WIRED = {
    Wiring.SERIES: "R1 in a 4\nR2 a b 4\nR3 b c 4\nR4 c 0 4",
    Wiring.PARALLEL: "R1 in 0 4\nR2 in 0 4\nR3 in 0 4\nR4 in 0 4",
    Wiring.SERIES_PARALLEL: "R1 in a 4\nR2 a 0 4\nR3 in b 4\nR4 b 0 4",
}


@pytest.mark.parametrize("wiring", Wiring)
def test_a_wired_load_draws_what_its_ohms_say(tmp_path: Path, wiring: Wiring) -> None:
    load = Load(id="l", impedance_ohm=4, power_w=50, count=4, wiring=wiring)
    rows = spice(tmp_path, f"V1 in 0 DC 10\n{WIRED[wiring]}", "dc V1 10 10 1", "i(V1)")
    assert 10 / abs(rows[0, 1]) == pytest.approx(load.total_ohm, rel=1e-6)


def section(node_in: str, node_out: str, tag: str, corner_hz: float, *, high: bool) -> str:
    """A second-order Butterworth section of R, L and C behind a buffer: Q = 1/√2 with R = √2·ω·L."""
    inductance, omega = 0.1, 2 * np.pi * corner_hz
    capacitance, resistance = 1 / (omega**2 * inductance), np.sqrt(2) * omega * inductance
    series = f"C{tag} b{tag} {{n}} {capacitance}" if high else f"L{tag} b{tag} {{n}} {inductance}"
    shunt = f"L{tag} {{n}} 0 {inductance}" if high else f"C{tag} {{n}} 0 {capacitance}"
    # Across the shunt part of a series R-L-C the response is the second-order one.
    parts = f"E{tag} b0{tag} 0 {node_in} 0 1\nR{tag} b0{tag} b{tag} {resistance}\n{series}\n{shunt}"
    return parts.format(n=node_out)


@pytest.mark.parametrize(
    ("first", "second"),
    [
        ((Pass.HIGH, 40.0), (Pass.HIGH, 80.0)),
        ((Pass.HIGH, 80.0), (Pass.LOW, 300.0)),
        ((Pass.LOW, 100.0), (Pass.LOW, 100.0)),
    ],
)
def test_two_filters_in_a_row(tmp_path: Path, first: tuple[Pass, float], second: tuple[Pass, float]) -> None:
    elements = "\n".join(
        (
            "V1 in 0 AC 1",
            section("in", "mid", "1", first[1], high=first[0] is Pass.HIGH),
            section("mid", "out", "2", second[1], high=second[0] is Pass.HIGH),
        )
    )
    rows = spice(tmp_path, elements, "ac dec 40 10 2000", "vdb(out)")
    ours = total_db([Crossover(kind=kind, corner_hz=hertz, order=2) for kind, hertz in (first, second)], rows[:, 0])
    assert ours == pytest.approx(rows[:, 1], abs=0.01)


def test_a_component_set_behind_its_capacitor(tmp_path: Path) -> None:
    """A tweeter of 4 ohm behind 6.8 µF beside a mid on the same terminals: what reaches the tweeter."""
    load = Load(id="l", impedance_ohm=4, power_w=50, lowest_hz=2500, series_capacitor_uf=6.8)
    elements = "V1 in 0 AC 1\nRmid in 0 4\nC1 in t 6.8u\nRt t 0 4"
    rows = spice(tmp_path, elements, "ac dec 40 100 20000", "vdb(t)")
    ours = total_db(capacitor_of(load), rows[:, 0])
    assert ours == pytest.approx(rows[:, 1], abs=0.01)
    # 3 dB down at 1/(2π·R·C).
    assert load.capacitor_hz == pytest.approx(5851, rel=1e-3)


def test_unlike_drivers_on_one_channel(tmp_path: Path) -> None:
    """A woofer of 4 ohm, a coaxial of 8 and a tweeter of 6 behind 10 µF: what the terminals see, low and high."""
    drivers = (Driver(impedance_ohm=8, power_w=40), Driver(impedance_ohm=6, series_capacitor_uf=10))
    load = Load(id="l", impedance_ohm=4, power_w=50, others=drivers)
    elements = "V1 in 0 AC 1\nRw in 0 4\nRc in 0 8\nC1 in t 10u\nRt t 0 6"
    rows = spice(tmp_path, elements, "ac dec 20 10 1meg", "mag(i(V1))")
    seen_ohm = 1 / rows[:, 1]
    assert seen_ohm[0] == pytest.approx(load.total_ohm, rel=1e-3)
    assert seen_ohm.min() == pytest.approx(load.least_ohm, rel=1e-3)
