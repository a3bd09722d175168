"""
App, database or both killed under three hands that save, KILLS times; counts what was acknowledged and is gone.

./rook bench kills; KILLS=300 in twelve minutes
"""

import os
import sys
import time
from pathlib import Path
from random import Random

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.kills import Cluster, kill_again_and_again

KILLS = int(os.environ.get("KILLS", "300"))


def main() -> None:
    cluster = Cluster("killed-bench")
    begun = time.monotonic()
    try:
        acknowledged, lost = kill_again_and_again(cluster, "kills", KILLS, Random(20261201))  # noqa: S311 repeatable, no secret
    finally:
        cluster.do("stop")
    print(f"{KILLS} kills in {time.monotonic() - begun:.0f} s: {acknowledged:,} readings acknowledged, {lost} lost (0)")


if __name__ == "__main__":
    main()
