"""
What a plan costs: ten paths and 64, each behind a 31-band equaliser, beside an rfft of 2,880,000 samples.

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
    """`paths` equal paths through one processor."""
    base = next(template.chain for template in templates() if template.key == "active-two").model_dump(mode="json")
    bands = [{"frequency_hz": 20 * 1.25**n, "gain_db": (-1) ** n, "q": 4} for n in range(31)]
    for kind in ("amplifiers", "loads", "paths"):
        base[kind] = [{**base[kind][0], "id": f"one-{n}"} for n in range(paths)]
    for n, path in enumerate(base["paths"]):
        path |= {"amplifier": f"one-{n}", "load": f"one-{n}", "equaliser": bands}
    return JobSheet(chain=Chain.model_validate(base))


def main() -> None:
    noise = np.random.default_rng(1).normal(size=2_880_000)
    reference = milliseconds(lambda: scipy.fft.rfft(noise), 5)
    for paths, limit in ((10, 10), (64, 60)):
        sheet = system(paths)
        found = milliseconds(lambda sheet=sheet: plan(sheet))
        print(
            f"plan of {paths} paths with 31 bands each: {found:.1f} ms (limit {limit} ms), "
            f"{found / reference:.2f} × an rfft of {reference:.0f} ms"
        )


if __name__ == "__main__":
    main()
