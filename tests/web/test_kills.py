"""What was acknowledged is there, whatever is killed. In small; `./rook bench kills` does it hundreds of times."""

import os
from collections.abc import Iterator
from random import Random

import pytest

from tests.kills import Cluster, kill_again_and_again


@pytest.fixture
def cluster() -> Iterator[Cluster]:
    """A database server that may be killed."""
    cluster = Cluster(f"killed-{os.environ.get('PYTEST_XDIST_WORKER', 'one')}")
    yield cluster
    cluster.do("stop")


@pytest.mark.parametrize("kills", [3, pytest.param(10, marks=pytest.mark.deep)])
def test_kills_lose_nothing_that_was_acknowledged(cluster: Cluster, kills: int) -> None:
    acknowledged, lost = kill_again_and_again(cluster, "kills", kills, Random(9))
    assert lost == 0
    assert acknowledged > 2 * kills
