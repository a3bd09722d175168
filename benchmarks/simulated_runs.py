"""
What careful people make of the example systems on simulated benches: how near they come, and what they hand over.

.venv/bin/python benchmarks/simulated_runs.py [seeds [scope|meter]]
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from itertools import product
from pathlib import Path
from time import perf_counter

sys.path.insert(0, str(Path(__file__).parents[1]))

from upper_rook.formats.job_file import read_job
from upper_rook.instruments.simulation import Simulation, simulate

EXAMPLES = sorted((Path(__file__).parents[1] / "examples").glob("*.json"))
WITHIN_DB, WITHIN_PERCENT = 0.5, 5.0


def one(task: tuple[Path, int, bool]) -> tuple[str, float, Simulation]:
    """One run, with the seconds it took."""
    file, seed, scope = task
    sheet = read_job(file.read_bytes())
    began = perf_counter()
    done = simulate(sheet, seed, scope=scope)
    return file.stem, perf_counter() - began, done


def told(rows: list[tuple[str, float, Simulation]], scope: bool) -> None:
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
    print(f"{'scope' if scope else 'meter alone'}: {len(runs)} runs, {len(paths)} paths")
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
    wanted = {"scope": (True,), "meter": (False,)}.get(sys.argv[2] if len(sys.argv) > 2 else "", (True, False))
    with ProcessPoolExecutor(2) as pool:
        for scope in wanted:
            tasks = [(file, seed, scope) for file, seed in product(EXAMPLES, range(1, seeds + 1))]
            told(list(pool.map(one, tasks, chunksize=8)), scope)


if __name__ == "__main__":
    main()
