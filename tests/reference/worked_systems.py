"""
Systems worked out by hand: job files as plain documents, and what a calculator makes of them.

Nothing in here imports the application. Every figure follows from a formula that is named beside it; where the trade's
habit is counted on instead, that is said (common practice, no source).
"""

import json
import math
from dataclasses import dataclass
from itertools import product
from pathlib import Path
from typing import Any

SYSTEMS = Path(__file__).parent / "systems"


def faulty(name: str) -> dict[str, Any]:
    """One of the files beside this one."""
    document: dict[str, Any] = json.loads((SYSTEMS / f"{name}.json").read_text())
    return document


@dataclass(frozen=True)
class Worked:
    """A system and its figures."""

    name: str
    document: dict[str, Any]
    target_v: float
    """√(watts × ohms), by the lesser of amplifier and speakers."""
    channel_ohm: float
    """Series ΣR, parallel 1/Σ(1/R); half of it where two channels share it."""
    input_v: float | None = None
    """What reaches the amplifier at the tone, at full scale."""
    printed_v: float | None = None
    """Input × rated / target: the number on the gain's scale."""


def document(
    *,
    ohms: float = 4,
    watts: float = 60,
    count: int = 1,
    wiring: str = "parallel",
    coils: int = 1,
    coil_wiring: str = "parallel",
    band: str = "full",
    ratings: tuple[dict[str, Any], ...] = ({"power_w": 75, "load_ohm": 4}, {"power_w": 120, "load_ohm": 2}),
    mode: str = "per_channel",
    channels: int = 2,
    lowest_ohm: float | None = 1,
    source_v: float = 4.0,
    scale: tuple[float, float] | None = (6.0, 0.2),
    processors: tuple[dict[str, Any], ...] = (),
    choices: dict[str, Any] | None = None,
    **path: Any,
) -> dict[str, Any]:
    """A job file of one path."""
    return {
        "format": 2,
        "chain": {
            "sources": [
                {
                    "id": "source",
                    "top_volume": 40,
                    "outputs": [{"id": "line", "name": "Line out", "rated": {"volts": source_v}}],
                }
            ],
            "processors": list(processors),
            "amplifiers": [
                {
                    "id": "amplifier",
                    "channels": channels,
                    "ratings": list(ratings),
                    "lowest_load_ohm": lowest_ohm,
                    "gain_range": {"down_v": scale[0], "up_v": scale[1]} if scale else None,
                }
            ],
            "loads": [
                {
                    "id": "speakers",
                    "band": band,
                    "impedance_ohm": ohms,
                    "power_w": watts,
                    "count": count,
                    "wiring": wiring,
                    "coils": coils,
                    "coil_wiring": coil_wiring,
                }
            ],
            "paths": [
                {
                    "id": "one",
                    "name": "One",
                    "source": "source",
                    "output": "line",
                    "through": [processor["id"] for processor in processors],
                    "amplifier": "amplifier",
                    "load": "speakers",
                    "mode": mode,
                }
                | path
            ],
        },
        "choices": choices or {},
    }


def _joined(each: float, count: int, wiring: str) -> float:
    """Kirchhoff: in series ohms add, in parallel their reciprocals do; pairs in series, the pairs in parallel."""
    if wiring == "series":
        return sum([each] * count)
    if wiring == "parallel":
        return 1 / sum([1 / each] * count)
    return 1 / sum([1 / (2 * each)] * (count // 2))


def _wirings() -> list[Worked]:
    """Every way of joining up to four speakers with one or two coils, on an amplifier that outdoes them."""
    found = []
    ways = [(1, "parallel"), (2, "series"), (2, "parallel"), (4, "series_parallel"), (3, "series")]
    for (count, wiring), (coils, coil_wiring) in product(ways, [(1, "parallel"), (2, "series"), (2, "parallel")]):
        ohms = _joined(_joined(4.0, coils, coil_wiring), count, wiring)
        made = document(
            watts=50,
            count=count,
            wiring=wiring,
            coils=coils,
            coil_wiring=coil_wiring,
            # At this very load and far above what the speakers take.
            ratings=({"power_w": 1000, "load_ohm": ohms},),
        )
        target = math.sqrt(50 * count * ohms)
        rated = math.sqrt(1000 * ohms)
        # 4 V in; rated output for S volts in, so S = in × rated / target.
        found.append(
            Worked(f"{count} {wiring}, {coils} coils {coil_wiring}", made, target, ohms, 4.0, 4.0 * rated / target)
        )
    return found


def _ratings() -> list[Worked]:
    """Which rating counts, whatever its place in the list: the clean one, at running supply."""
    clean = {"power_w": 100, "load_ohm": 4, "distortion_percent": 1}
    rough = {"power_w": 130, "load_ohm": 4, "distortion_percent": 10}
    running = {"power_w": 100, "load_ohm": 4, "supply_v": 14.4}
    resting = {"power_w": 82, "load_ohm": 4, "supply_v": 12.5}
    found = []
    for name, pair in (("distortion", (clean, rough)), ("supply", (running, resting))):
        for order in (pair, pair[::-1]):
            made = document(watts=300, ratings=order)
            found.append(Worked(f"rating by {name}, {order[0]['power_w']} W first", made, math.sqrt(100 * 4), 4))
    # A sine clipped to 10 % is past one clipped to 1 % by the table of a clipped sine; at 82 W and 12.5 V, 15 % more
    # are counted on at 14.4 V (common practice).
    found.append(Worked("only at 12.5 V", document(watts=300, ratings=(resting,)), math.sqrt(82 * 1.15 * 4), 4))
    # Rated for more than it runs at: by the square of the supply.
    high = {"power_w": 100, "load_ohm": 4, "supply_v": 16}
    found.append(Worked("only at 16 V", document(watts=300, ratings=(high,)), math.sqrt(100 * (14.4 / 16) ** 2 * 4), 4))
    return found


def _modes() -> list[Worked]:
    """Bridged and strapped: each channel sees half of the load."""
    bridged = ({"power_w": 300, "load_ohm": 4, "mode": "bridged"},)
    each = ({"power_w": 120, "load_ohm": 2},)
    strapped = ({"power_w": 500, "load_ohm": 2},)
    sub = {"band": "sub", "watts": 1000}
    return [
        Worked("bridged", document(mode="bridged", ratings=bridged, **sub), math.sqrt(300 * 4), 2),
        Worked("bridged from channels", document(mode="bridged", ratings=each, **sub), math.sqrt(240 * 4), 2),
        # Strapped, one amplifier's own output has half of the voltage.
        Worked(
            "strapped",
            document(mode="strapped", channels=1, ratings=strapped, **sub),
            math.sqrt(1000 * 4) / 2,
            2,
        ),
    ]


def _levels() -> list[Worked]:
    """What reaches the amplifier through converters, processors and tones below full scale."""
    converter = {"id": "loc", "kind": "converter", "highest_input": {"volts": 40}, "highest_output_v": 9}
    dsp = {
        "id": "dsp",
        "kind": "processor",
        "highest_input": {"volts": 4},
        "highest_output_v": 8,
        "output_full_scale_v": 4,
    }
    rated, target = math.sqrt(75 * 4), math.sqrt(60 * 4)
    # As high as the gain can still turn down: 6 V × 15.49 / 17.32.
    most = 6 * target / rated
    after = dsp | {"highest_input": {"volts": 2}, "output_full_scale_v": 2}
    down5 = 10 ** (-5 / 20)
    return [
        Worked("processor up 6 dB", document(processors=(dsp,), channel_gain_db=6), target, 4, 4 * 10 ** (6 / 20)),
        Worked("processor down 6 dB", document(processors=(dsp,), channel_gain_db=-6), target, 4, 4 * 10 ** (-6 / 20)),
        Worked("processor held", document(processors=(dsp,), source_v=5, channel_gain_db=0), target, 4, 4),
        Worked("converter", document(processors=(converter,)), target, 4, most, 6),
        Worked(
            "converter before a processor", document(processors=(converter, after)), target, 4, 2, 2 * rated / target
        ),
        Worked(
            "tone 5 dB down",
            document(choices={"tone_level_dbfs": -5}),
            target,
            4,
            4,
            4 * down5 * rated / target,
        ),
        Worked(
            "1.5 V by choice",
            document(processors=(converter,), choices={"converter_output": "1.5"}),
            target,
            4,
            1.5,
            1.5 * rated / target,
        ),
    ]


def _worked_values() -> list[Worked]:
    """Values that the trade works out every day: 85 W into 4 Ω are 18.44 V, 50 W are 14.14 V (common practice)."""
    big = ({"power_w": 500, "load_ohm": 4},)
    return [
        Worked("85 W into 4 ohm", document(watts=85, ratings=big), 18.44, 4),
        Worked("50 W into 4 ohm", document(watts=50, ratings=big), 14.14, 4),
        Worked("61.6 W into 4 ohm", document(watts=61.6, ratings=big), 15.7, 4),
    ]


WORKED = [*_wirings(), *_ratings(), *_modes(), *_levels(), *_worked_values()]
