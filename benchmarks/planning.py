"""
What a plan costs: ten paths and 64, each behind a 31-band equaliser.

./rook bench
"""

import statistics
import time

from upper_rook.core.chain import Chain, JobSheet
from upper_rook.core.plan import plan
from upper_rook.core.templates import templates


def system(paths: int) -> JobSheet:
    """`paths` equal paths through one processor."""
    base = next(one.chain for one in templates() if one.key == "active-two").model_dump(mode="json")
    bands = [{"frequency_hz": 20 * 1.25**n, "gain_db": (-1) ** n, "q": 4} for n in range(31)]
    for kind in ("amplifiers", "loads", "paths"):
        base[kind] = [{**base[kind][0], "id": f"one-{n}"} for n in range(paths)]
    for n, path in enumerate(base["paths"]):
        path |= {"amplifier": f"one-{n}", "load": f"one-{n}", "equaliser": bands}
    return JobSheet(chain=Chain.model_validate(base))


def main() -> None:
    for paths, limit in ((10, 10), (64, 60)):
        sheet = system(paths)
        plan(sheet)
        taken = []
        for _ in range(20):
            start = time.perf_counter()
            plan(sheet)
            taken.append(1000 * (time.perf_counter() - start))
        print(f"plan of {paths} paths with 31 bands each: {statistics.median(taken):.1f} ms (limit {limit} ms)")


if __name__ == "__main__":
    main()
