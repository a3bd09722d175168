"""
Faults in pairs: once the first that shows is corrected, whether the second shows, and whether any run ends clipping.

On a system that can have every fault: a factory radio, a converter, a filtered front pair and a sub.

.venv/bin/python benchmarks/pairs.py [seeds [scope|meter]]
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from itertools import combinations, product
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates
from upper_rook.instruments.fault_pairs import PairHunt, hunt_pair
from upper_rook.instruments.simulated import Fault

Task = tuple[tuple[Fault, Fault], int, bool]


def everything() -> JobSheet:
    """Front and sub of the layouts, fed by the factory radio's converter."""
    chains = {template.key: template.chain for template in templates()}
    front_sub, factory = chains["front-sub"], chains["converter"]
    paths = (path.model_copy(update={"through": ("converter",), "output": "front"}) for path in front_sub.paths)
    return JobSheet(
        chain=front_sub.model_copy(
            update={"sources": factory.sources, "processors": factory.processors, "paths": tuple(paths)}
        )
    )


SHEET = everything()


def one(task: Task) -> tuple[Task, PairHunt]:
    """One pair on one bench."""
    pair, seed, scope = task
    return task, hunt_pair(SHEET, pair, seed, scope=scope)


def main() -> None:
    seeds = int(sys.argv[1]) if len(sys.argv) > 1 else 2
    scope = (sys.argv[2] if len(sys.argv) > 2 else "scope") == "scope"
    tasks = [(pair, seed, scope) for pair, seed in product(combinations(Fault, 2), range(1, seeds + 1))]
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(one, tasks, chunksize=16))
    shown = [each for _, each in found if each.second_found]
    none = [task for task, each in found if each.first is None]
    bad = [task for task, each in found if each.complete and each.clips]
    print(f"{len(found)} runs with two faults")
    print(f"neither showed: {len(none)}")
    percent = 100 * len(shown) / len(found)
    print(f"the second showed once the first was corrected: {len(shown)} of {len(found)} ({percent:.1f} %)")
    print(f"complete and clipping at the number handed over: {len(bad)}")
    for (pair, seed, _), each in found:
        if not each.second_found or (each.complete and each.clips):
            ends = "complete and clipping" if each.complete and each.clips else "complete" if each.complete else ""
            lost = "" if each.second_found else "hidden"
            print(f"  {pair[0].value} + {pair[1].value} (seed {seed}): corrected {each.first}, {lost} {ends}")


if __name__ == "__main__":
    main()
