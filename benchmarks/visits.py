"""
Whether the readings that a visit's check begins with show a single change on the simulated bench, and false alarms.

./rook bench visits; with so many seeds a system: SEEDS=2 ./rook bench visits
"""

import os
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from itertools import product
from pathlib import Path
from time import perf_counter

sys.path.insert(0, str(Path(__file__).parents[1]))

from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.visits.selection import FIRST
from upper_rook.formats.job_file import read_job
from upper_rook.instruments.auto_operator import AutoOperator
from upper_rook.instruments.visit_hunt import Found, Moved, Visitor, hunt_on_visit

EXAMPLES = sorted((Path(__file__).parents[1] / "examples").glob("*.json"))
SEEDS = int(os.environ.get("SEEDS", "6"))
EACH = 3


def checks_of(task: tuple[Path, int]) -> tuple[str, list[Found], float]:
    """One system finished, then moved and checked; and the time of a run with a check against one without."""
    file, seed = task
    operator = AutoOperator(read_job(file.read_bytes()), seed, scope=True)
    operator.work()
    found = [hunt_on_visit(operator, moved, 100 * seed + turn) for moved, turn in product(Moved, range(EACH))]
    return file.stem, [check for check in found if check], _ratio(operator)


def _ratio(operator: AutoOperator) -> float:
    visitor = Visitor(operator)
    visitor.check()
    times = []
    for person in (visitor, operator):
        begun = perf_counter()
        run_of(person.snapshot())
        times.append(perf_counter() - begun)
    return times[0] / times[1]


def main() -> None:
    noticed, named, checks, readings = Counter[Moved](), Counter[Moved](), Counter[Moved](), Counter[Moved]()
    systems, seen = Counter[str](), Counter[str]()
    ratios = []
    with ProcessPoolExecutor() as pool:
        for name, found, ratio in pool.map(checks_of, product(EXAMPLES, range(SEEDS))):
            ratios.append(ratio)
            for check in found:
                checks[check.moved] += 1
                noticed[check.moved] += check.noticed
                named[check.moved] += check.named
                readings[check.moved] += check.readings
                if check.moved is not Moved.NOTHING:
                    systems[name] += 1
                    seen[name] += check.noticed
                    if not (check.noticed and check.named):
                        print(f"  {name}: {check.moved.value}, {check.detail}: {check.sentence}")
    changes = [moved for moved in Moved if moved is not Moved.NOTHING]
    total = sum(checks[moved] for moved in changes)
    print(
        f"single changes: {total}; noticed by at most {FIRST} readings {sum(noticed[moved] for moved in changes)} "
        f"({100 * sum(noticed[moved] for moved in changes) / total:.1f} %, limit 95); "
        f"named among the explanations {sum(named[moved] for moved in changes)}"
    )
    print(f"false alarms: {noticed[Moved.NOTHING]} of {checks[Moved.NOTHING]} (limit 2 %)")
    for moved in Moved:
        print(
            f"  {moved.value}: {noticed[moved]} of {checks[moved]} noticed, {named[moved]} named, "
            f"{readings[moved] / max(1, checks[moved]):.1f} readings"
        )
    for name, count in systems.items():
        print(f"  {name}: {seen[name]} of {count}")
    print(f"a run with its check against one without: {sorted(ratios)[len(ratios) // 2]:.1f} × (median)")


if __name__ == "__main__":
    main()
