"""
Killing the app, the database and both, hundreds of times under load: how much of what was acknowledged is lost.

python benchmarks/faults.py [KILLS [SEED]], or ./rook bench faults
"""

import sys
import time
from pathlib import Path
from random import Random

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.kills import Cluster, kill_again_and_again

KILLS = 210
BATCH = 30


def main(kills: int, seed: int) -> int:
    """0 when nothing was lost."""
    cluster = Cluster("faults-pg")
    dice = Random(seed)  # noqa: S311  (a seed makes the moments of killing the same again)
    begun, database = time.monotonic(), f"faults_{int(time.time())}"
    acknowledged = lost = done = 0
    try:
        while done < kills:
            more = min(BATCH, kills - done)
            kept, gone = kill_again_and_again(cluster, database, more, dice)
            acknowledged, lost, done = acknowledged + kept, lost + gone, done + more
            print(
                f"{done} kills of the app, the database and both, seed {seed}, in {time.monotonic() - begun:.0f} s: "
                f"{acknowledged} readings acknowledged, {lost} lost (limit 0)",
                flush=True,
            )
    finally:
        cluster.do("stop")
    return min(lost, 1)


if __name__ == "__main__":
    given = [int(word) for word in sys.argv[1:]]
    sys.exit(main(*(given + [KILLS, 1][len(given) :])))
