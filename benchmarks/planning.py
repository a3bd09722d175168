"""
What a plan costs: ten unlike paths and 64, each behind a 31-band equaliser, beside an rfft of 2,880,000 samples.

./rook bench
"""

import sys
from pathlib import Path

import numpy as np
import scipy.fft

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.timing import milliseconds

from upper_rook.core.plan.plan import plan
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates


def system(paths: int) -> JobSheet:
    """`paths` paths through one processor, no two of them alike."""
    base = next(template.chain for template in templates() if template.key == "active-two").model_dump(mode="json")
    for kind in ("amplifiers", "loads", "paths"):
        base[kind] = [{**base[kind][0], "id": f"one-{n}"} for n in range(paths)]
    for n, path in enumerate(base["paths"]):
        bands = [
            {"frequency_hz": 20 * 1.25 ** (band + 0.01 * n), "gain_db": (-1) ** band * (1 + 0.05 * n), "q": 4}
            for band in range(31)
        ]
        path |= {"amplifier": f"one-{n}", "load": f"one-{n}", "equaliser": bands}
    return JobSheet(chain=Chain.model_validate(base))


def main() -> None:
    noise = np.random.default_rng(1).normal(size=2_880_000)
    reference = milliseconds(lambda: scipy.fft.rfft(noise), 5)
    for paths, limit in ((10, 12), (64, 70)):
        sheet = system(paths)
        found = milliseconds(lambda sheet=sheet: plan(sheet))
        print(
            f"plan of {paths} paths with 31 bands each, all unlike: {found:.1f} ms (limit {limit} ms), "
            f"{found / reference:.2f} × an rfft of {reference:.0f} ms"
        )


if __name__ == "__main__":
    main()
