"""What the benchmarks share."""

import statistics
import time
from collections.abc import Callable


def milliseconds(work: Callable[[], object], times: int = 15) -> float:
    """The median of some runs, after one that warms up."""
    work()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(1000 * (time.perf_counter() - start))
    return statistics.median(taken)
