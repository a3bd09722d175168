"""Killing the app or its database while readings are saved, and counting what was acknowledged and is gone."""

import os
import signal
import subprocess
import threading
import time
from pathlib import Path
from random import Random
from typing import Any
from uuid import uuid4

import httpx2

from tests.servers import Server

ROOT = Path(__file__).parents[1]


class Cluster:
    """A database server of one's own, with the disk kept honest."""

    def __init__(self, name: str) -> None:
        self._name = name
        own = {key: value for key, value in os.environ.items() if key not in ("ROOK_CLUSTER_SETTINGS", "DATABASE_URL")}
        self._environment = own | {"ROOK_CLUSTER": name}
        self._data = Path(os.environ.get("ROOK_DATA", ROOT / ".data")) / name / "data"

    def do(self, *words: str) -> str:
        """Runs postgres.sh on it."""
        command = [ROOT / "scripts" / "postgres.sh", *words]
        return subprocess.run(command, env=self._environment, check=True, capture_output=True, text=True).stdout.strip()

    def kill(self) -> None:
        """Ends it the hard way, all its processes at once."""
        postmaster = int((self._data / "postmaster.pid").read_text("utf-8").split()[0])
        os.kill(postmaster, signal.SIGKILL)
        while Path(f"/proc/{postmaster}").exists():
            time.sleep(0.02)


class Saving:
    """Somebody who saves readings one after the other and remembers which were acknowledged."""

    def __init__(self, url: str, job: str) -> None:
        self._url, self._job = url, job
        self.acknowledged: set[str] = set()
        self._ending = threading.Event()
        self._thread = threading.Thread(target=self._work)
        self._thread.start()

    def end(self) -> None:
        """Stops saving."""
        self._ending.set()
        self._thread.join(30)

    def _work(self) -> None:
        with httpx2.Client(base_url=self._url, timeout=10) as client:
            while not self._ending.is_set():
                body = self._reading()
                # As a device does: again and again until it is told, under the same name.
                while not self._ending.is_set():
                    try:
                        answer = client.post(f"/api/jobs/{self._job}/readings", json=body)
                    except httpx2.TransportError:
                        time.sleep(0.05)
                        continue
                    if answer.status_code == 201:
                        self.acknowledged.add(str(answer.json()["id"]))
                        break
                    time.sleep(0.05)

    def _reading(self) -> dict[str, Any]:
        return {
            "id": str(uuid4()),
            "step": "ceiling.source.line",
            "value": 1.5,
            "instrument": "true-rms",
            "circumstances": {"volume": 20},
            "sheet_version": 1,
            "taken_at": "2026-05-01T09:00:00Z",
        }


def kept_of(server: Server, job: str) -> set[str]:
    """The ids of every reading that the server has."""
    found: set[str] = set()
    page: dict[str, Any] = {"before": None}
    with httpx2.Client(base_url=server.url, timeout=30) as client:
        while True:
            more = {"before": page["before"]} if page["before"] else {}
            page = client.get(f"/api/jobs/{job}/readings", params={"limit": 500} | more).json()
            found |= {str(reading["id"]) for reading in page["readings"]}
            if page["before"] is None:
                return found


def kill_again_and_again(cluster: Cluster, database: str, kills: int, dice: Random, hands: int = 3) -> tuple[int, int]:
    """
    Kills the app, the database, or both `kills` times under load.

    Gives how many readings were acknowledged, and how many of those are gone.
    """
    cluster.do("start")
    server = Server(cluster.do("url", database)).start()
    job = str(httpx2.post(f"{server.url}/api/jobs", json={"id": str(uuid4())}).json()["id"])
    savers = [Saving(server.url, job) for _ in range(hands)]
    try:
        for number in range(kills):
            time.sleep(dice.uniform(0.05, 0.4))
            what = ("app", "database", "both")[number % 3]
            if what != "app":
                cluster.kill()
            if what != "database":
                server.kill()
            if what != "app":
                cluster.do("start")
            if what != "database":
                server.start()
        time.sleep(0.5)
    finally:
        for saver in savers:
            saver.end()
    kept = kept_of(server, job)
    server.stop()
    acknowledged = set[str]().union(*(saver.acknowledged for saver in savers))
    return len(acknowledged), len(acknowledged - kept)
