"""
The judge on waves as they really arrive: families of simulated captures, each with its truth beside it.

.venv/bin/python benchmarks/families.py [captures of each [a part of the families' names]]
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.core.families import FAMILIES, taken

from upper_rook.core.judge.wave import judge
from upper_rook.core.signal.trace import Trace


def one(task: tuple[str, int]) -> tuple[str, str, bool | None, float | None]:
    """(family, verdict or fault, whether the clean maximum's doubt covers, how far off the clean maximum is)."""
    name, number = task
    dice = np.random.default_rng([number, *name.encode()])
    wave, shot = FAMILIES[name](dice)
    try:
        found = judge(Trace(volts=taken(wave, shot, dice), rate_hz=48_000.0))
    except Exception as fault:
        return name, f"fault: {type(fault).__name__}", None, None
    report = found.report
    if report.clean_v_rms is None or not wave.clean_v or wave.over_db < 0:
        return name, report.verdict.value, None, None
    off = report.clean_v_rms / wave.clean_v - 1
    doubt = found.clean_v_uncertainty or 0.0
    return name, report.verdict.value, abs(report.clean_v_rms - wave.clean_v) <= doubt, off


def main() -> None:
    each = int(sys.argv[1]) if len(sys.argv) > 1 else 50
    wanted = [name for name in FAMILIES if len(sys.argv) < 3 or sys.argv[2] in name]
    with ProcessPoolExecutor(2) as pool:
        rows = list(pool.map(one, [(name, number) for name in wanted for number in range(each)], chunksize=25))
    print("| family | called | with a clean maximum | doubt covers | clean maximum off by, median and 95 % within |")
    print("|---|---|---|---|---|")
    for name in wanted:
        own = [row for row in rows if row[0] == name]
        called: dict[str, int] = {}
        for _, verdict, _, _ in own:
            called[verdict] = called.get(verdict, 0) + 1
        told = ", ".join(f"{verdict} {100 * count / each:.0f} %" for verdict, count in sorted(called.items()))
        known = [row for row in own if row[3] is not None]
        covered = f"{100 * np.mean([row[2] for row in known]):.0f} %" if known else "–"
        offs = [abs(row[3]) for row in known if row[3] is not None]
        off = f"{100 * np.median(offs):.2f}, {100 * np.quantile(offs, 0.95):.2f} %" if offs else "–"
        print(f"| {name} | {told} | {100 * len(known) / each:.0f} % | {covered} | {off} |")


if __name__ == "__main__":
    main()
