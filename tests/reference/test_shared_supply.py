"""Two channels on one sagging supply, solved by ngspice, against what ratings tell of the volts that loads take."""

import math
import subprocess
from pathlib import Path

import numpy as np
import pytest

from upper_rook.core.stages.loaded import load_takes_db
from upper_rook.core.system.amplifier import Amplifier, Driven, Mode, Rating

RAIL_V, SHARED_OHM, OWN_OHM = 28.0, 0.18, 0.06
OPEN = 1e6


def flat_top_v(folder: Path, *loads_ohm: float) -> float:
    """
    Highest volts of the first channel, each driven past its rails in step.

    Every channel follows its input as far as the rails let it and takes its current from them; the rails stand behind a
    resistance that both share.
    """
    channels = "\n".join(
        f"Bdrive{n} d{n} 0 V=max(min(40*V(in),V(p)),V(m))\nRown{n} d{n} o{n} {OWN_OHM}\nRload{n} o{n} 0 {ohm}\n"
        f"Bplus{n} p 0 I=max(V(o{n})/{ohm},0)\nBminus{n} 0 m I=max(-V(o{n})/{ohm},0)"
        for n, ohm in enumerate(loads_ohm)
    )
    out, deck = folder / "out.txt", folder / "deck.cir"
    deck.write_text(
        f"supply\nVin in 0 SIN(0 1 1000)\nVp ep 0 {RAIL_V}\nVm em 0 -{RAIL_V}\nRp ep p {SHARED_OHM}\n"
        f"Rm em m {SHARED_OHM}\nCp p 0 1n\nCm m 0 1n\n{channels}\n.control\nset wr_singlescale\n"
        f"tran 2u 3m 0 2u\nwrdata {out} v(o0)\nquit\n.endc\n.end\n",
        "utf-8",
    )
    subprocess.run(["ngspice", "-b", str(deck)], capture_output=True, timeout=60, check=False)
    return float(np.loadtxt(out)[:, 1].max())


def rating(peak_v: float, ohm: float, driven: Driven = Driven.ALL) -> Rating:
    return Rating(power_w=peak_v**2 / 2 / ohm, load_ohm=ohm, driven=driven)


def test_a_load_takes_what_two_channels_at_once_lose(tmp_path: Path) -> None:
    both = {ohm: flat_top_v(tmp_path, ohm, ohm) for ohm in (4.0, 2.0)}
    made = Amplifier(id="a", channels=2, ratings=tuple(rating(volts, ohm) for ohm, volts in both.items()))
    # One channel on the meter and nothing at any terminals, as a gain is set; then both with their speakers.
    alone_open = flat_top_v(tmp_path, OPEN, OPEN)
    for ohm, volts in both.items():
        taken_db = 20 * math.log10(alone_open / volts)
        assert load_takes_db(made, Mode.PER_CHANNEL, ohm) == pytest.approx(taken_db, abs=0.01)


def test_a_rating_of_one_channel_alone_counts_both(tmp_path: Path) -> None:
    alone, both = flat_top_v(tmp_path, 4.0, OPEN), flat_top_v(tmp_path, 4.0, 4.0)
    ratings = (rating(alone, 4.0, Driven.ONE), rating(both, 4.0))
    taken_db = 20 * math.log10(flat_top_v(tmp_path, OPEN, OPEN) / both)
    found = load_takes_db(Amplifier(id="a", channels=2, ratings=ratings), Mode.PER_CHANNEL, 4.0)
    # All that is behind the rails is taken for shared: each channel's own 0.06 Ω of 0.42 isn't seen.
    assert found == pytest.approx(taken_db, abs=0.15)
    assert taken_db > 20 * math.log10(alone / both)
