"""
The clean maximum from a meter's readings alone, over kinds of volume steps whose truth is known.

.venv/bin/python benchmarks/volume_steps.py [volume steps of each kind]
"""

import sys
from collections import Counter
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.core.volume_step_families import KINDS, made

from upper_rook.core.judge.volume_steps import judge_volume_steps
from upper_rook.core.judge.volume_steps_report import VolumeReading, VolumeStepsReport


def answer(report: VolumeStepsReport, clean: int) -> str:
    """How an answer stands against the truth, in numbers of the scale."""
    if report.clean_volume is not None:
        off = report.clean_volume - clean
        return "exact" if off == 0 else f"{abs(off)} {'high' if off > 0 else 'low'}"
    if report.surely_volume is None or report.perhaps_volume is None:
        return "refused"
    if report.surely_volume > clean:
        return "bounds too high"
    return "bounded" if clean <= report.perhaps_volume else "bounds too low"


def main() -> None:
    each = int(sys.argv[1]) if len(sys.argv) > 1 else 20
    every: Counter[str] = Counter()
    for kind in KINDS:
        counted: Counter[str] = Counter()
        covered = []
        for seed in range(each):
            steps = made(kind, seed)
            pairs = zip(steps.numbers, steps.volts, strict=True)
            report = judge_volume_steps([VolumeReading(volume=number, voltage_v=volt) for number, volt in pairs]).report
            counted[answer(report, steps.clean)] += 1
            if report.clean_v_rms is not None and report.uncertainty_db is not None:
                covered.append(abs(20 * np.log10(report.clean_v_rms / steps.clean_v)) <= report.uncertainty_db)
        every += counted
        doubt = f"; doubt covers {100 * np.mean(covered):.0f} %" if covered else ""
        print(f"{kind}: {', '.join(f'{word} {count}' for word, count in counted.most_common())}{doubt}")
    print(f"all {every.total()}: {', '.join(f'{word} {count}' for word, count in every.most_common())}")


if __name__ == "__main__":
    main()
