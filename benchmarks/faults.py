"""
Which faults on the bench a careful person's run shows, at the step where they should show.

On the example systems and on a factory radio with a converter.

.venv/bin/python benchmarks/faults.py [seeds]
"""

import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from itertools import product
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.core.system.layouts import templates
from upper_rook.formats.job_file import read_job
from upper_rook.instruments.fault_hunt import Hunt, applies, hunt
from upper_rook.instruments.simulated import FAULT_WORDS, Fault

SHEETS = [read_job(file.read_bytes()) for file in sorted((Path(__file__).parents[1] / "examples").glob("*.json"))]
SHEETS += [JobSheet(chain=template.chain) for template in templates() if template.key == "converter"]


def one(task: tuple[int, int, bool]) -> list[tuple[bool, Hunt]]:
    """Every fault that a system can have, on one bench."""
    place, seed, scope = task
    sheet = SHEETS[place]
    return [(scope, hunt(sheet, fault, seed, scope=scope)) for fault in Fault if applies(sheet, fault)]


def main() -> None:
    seeds = int(sys.argv[1]) if len(sys.argv) > 1 else 3
    with ProcessPoolExecutor(2) as pool:
        tasks = product(range(len(SHEETS)), range(1, seeds + 1), (True, False))
        found = [each for rows in pool.map(one, tasks) for each in rows]
    tried, shown = Counter[tuple[Fault, bool]](), Counter[tuple[Fault, bool]]()
    for scope, each in found:
        tried[each.fault, scope] += 1
        shown[each.fault, scope] += each.found
    print("| fault | with a scope | meter alone |\n|---|---|---|")
    for fault in Fault:
        rows = [f"{shown[fault, scope]} of {tried[fault, scope]}" for scope in (True, False)]
        print(f"| {FAULT_WORDS[fault]} | {' | '.join(rows)} |")
    whole = sum(each.found for _, each in found)
    print(f"\n{whole} of {len(found)} shown ({100 * whole / len(found):.1f} %)")


if __name__ == "__main__":
    main()
