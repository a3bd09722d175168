"""
How well the judge judges: seeded simulated captures of many kinds, beside an eye that notices 3 % of distortion.

./rook bench
"""

import sys
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.core.waves import clipped, digitised, trace

from upper_rook.core.judge.wave import judge
from upper_rook.core.signal import clipped_sine

EACH = 400
EYE_THD = 0.03
OVER_DB = (0.3, 0.5, 1.0, 3.0, 6.0, 12.0)
KINDS = (
    ("6 bit, 300 to 20,000 samples", (6,), (300, 20_000)),
    ("8 bit, 300 to 1,000 samples", (8,), (300, 1000)),
    ("8 bit, 1,000 samples", (8,), (1000, 1000)),
    ("8 bit, 1,000 to 20,000 samples", (8,), (1000, 20_000)),
    ("10 to 24 bit, 1,000 to 20,000 samples", (10, 12, 16, 24), (1000, 20_000)),
)


def capture(dice: np.random.Generator, over_db: float, bits: tuple[int, ...], counts: tuple[int, int], seed: int):  # type: ignore[no-untyped-def]
    """Random in everything the issue of accuracy hangs on: cycles, phase, height on the screen, noise."""
    count = round(np.exp(dice.uniform(*np.log(counts))))
    wave, _ = clipped(over_db, count=count, cycles=dice.uniform(3, 40), phase=dice.uniform(0, 6.3))
    volts = digitised(wave, int(dice.choice(bits)), dice.uniform(0.33, 0.95), dice.uniform(0.5, 2), seed)
    return judge(trace(volts)).report


def main() -> None:
    print("| captures | clean called clean | 0.5 dB over called clipped or edge | overdrive, 95 % within |")
    print("|---|---|---|---|")
    rows = [measure(*kind) for kind in KINDS]
    for row in rows:
        print(row)
    seen = next(one for one in np.arange(0.05, 3, 0.01) if clipped_sine.thd(one) > EYE_THD)
    print(
        f"\nAn eye that notices {100 * EYE_THD:.0f} % sees nothing below {seen:.2f} dB over: "
        f"at 0.5 dB ({100 * float(clipped_sine.thd(0.5)):.1f} %) it calls every one of these waves clean."
    )


def measure(name: str, bits: tuple[int, ...], counts: tuple[int, int]) -> str:
    dice = np.random.default_rng(sum(bits) * counts[0])
    clean = sum(capture(dice, -1.0, bits, counts, seed).verdict == "clean" for seed in range(EACH))
    half = sum(capture(dice, 0.5, bits, counts, seed).verdict in ("clipped", "edge") for seed in range(EACH))
    errors, clean_maxima, covered, missed = [], [], 0, 0
    for seed in range(EACH):
        over = float(dice.choice(OVER_DB))
        found = capture(dice, over, bits, counts, EACH + seed)
        if found.over_db is None:
            missed += 1
            continue
        errors.append(abs(found.over_db - over))
        clean_maxima.append(abs(found.clean_v_rms / (5 / np.sqrt(2)) - 1))
        covered += errors[-1] <= found.over_db_uncertainty
    return (
        f"| {name} | {100 * clean / EACH:.2f} % | {100 * half / EACH:.2f} % "
        f"| {np.quantile(errors, 0.95):.3f} dB; clean maximum {100 * np.quantile(clean_maxima, 0.95):.2f} %, "
        f"at worst {100 * max(clean_maxima):.2f} %; doubt covers {100 * covered / len(errors):.1f} %; missed {missed} |"
    )


main()
