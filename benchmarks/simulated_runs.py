"""
What careful people make of the example systems on simulated benches: how near they come, and what they hand over.

.venv/bin/python benchmarks/simulated_runs.py [seeds [scope|meter|mistakes]]
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from itertools import product
from pathlib import Path
from time import perf_counter

sys.path.insert(0, str(Path(__file__).parents[1]))

from upper_rook.core.common.finding import Severity
from upper_rook.core.plan.plan import plan
from upper_rook.formats.job_file import read_job
from upper_rook.instruments.simulation import Simulation, simulate

EXAMPLES = sorted((Path(__file__).parents[1] / "examples").glob("*.json"))
WITHIN_DB, WITHIN_PERCENT = 0.5, 5.0


def one(task: tuple[Path, int, bool, bool]) -> tuple[str, float, Simulation]:
    """One run, with the seconds it took."""
    file, seed, scope, mistakes = task
    sheet = read_job(file.read_bytes())
    began = perf_counter()
    done = simulate(sheet, seed, scope=scope, mistakes=mistakes)
    return file.stem, perf_counter() - began, done


def healthy() -> set[str]:
    """The example systems in which the plan sees nothing worse than a note."""
    plans = {file.stem: plan(read_job(file.read_bytes())) for file in EXAMPLES}
    return {name for name, plan in plans.items() if all(cause.severity is Severity.NOTE for cause in plan.causes)}


def print_figures(rows: list[tuple[str, float, Simulation]], title: str) -> None:
    """The figures of some runs."""
    runs = [run for _, _, run in rows]
    paths = [path for run in runs for path in run.paths]
    free = [path for path in paths if path.settled != "clipped_first"]
    near = sum(abs(path.off_db) <= WITHIN_DB for path in free)
    corners = [corner for run in runs for corner in run.corners]
    close = sum(abs(corner.off_percent) <= WITHIN_PERCENT for corner in corners)
    numbers = [number for run in runs for number in run.numbers]
    over = sum(number.volume > number.last_clean for number in numbers)
    equal = sum(number.volume == number.last_clean for number in numbers)
    lower = sum(number.volume == number.last_clean - 1 for number in numbers)
    clips = [path for path in paths if path.clips and not path.clips_before]
    seen = sum(path.clips_before for path in paths)
    seconds = sorted(each for _, each, _ in rows)
    sound = healthy()
    fit = [run for name, _, run in rows if name in sound]
    both = sum(run.complete and any(path.clips and not path.clips_before for path in run.paths) for run in runs)
    print(f"{title}: {len(runs)} runs, {len(paths)} paths, {sum(run.mistakes for run in runs)} mistakes")
    print(f"  of healthy systems complete: {sum(run.complete for run in fit)} of {len(fit)}")
    print(f"  complete, and something clips at the number handed over: {both}")
    print(f"  volts within {WITHIN_DB} dB of the wanted: {near} of {len(free)} ({100 * near / len(free):.1f} %)")
    print(f"  it clipped before the target, and was backed off: {len(paths) - len(free)}")
    print(
        f"  corners within {WITHIN_PERCENT:g} %: {close} of {len(corners)} ({100 * close / max(1, len(corners)):.1f} %)"
    )
    print(f"  numbers: {equal} equal to the last clean one, {lower} one lower, {over} above it, of {len(numbers)}")
    print(f"  paths that clip at the number handed over, unseen: {len(clips)}; seen before the amplifier: {seen}")
    print(f"  seconds a run: median {seconds[len(seconds) // 2]:.2f}, worst {seconds[-1]:.2f}")


def main() -> None:
    seeds = int(sys.argv[1]) if len(sys.argv) > 1 else 50
    people = {"scope": (True, False), "meter": (False, False), "mistakes": (True, True)}
    wanted = [sys.argv[2]] if len(sys.argv) > 2 else list(people)
    with ProcessPoolExecutor(2) as pool:
        for title in wanted:
            scope, mistakes = people[title]
            tasks = [(file, seed, scope, mistakes) for file, seed in product(EXAMPLES, range(1, seeds + 1))]
            print_figures(list(pool.map(one, tasks, chunksize=8)), title)


if __name__ == "__main__":
    main()
